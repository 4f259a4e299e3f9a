import { useState } from 'react';
import type { BoardListing } from '../../core/boards/board.ts';
import { PRESETS, PURPOSES, type Purpose } from '../../core/boards/switches.ts';
import { shortDate } from '../../core/timing/words.ts';
import { ApiProblem, ask, wordsOf } from '../../ui/api.ts';
import { Dialog } from '../../ui/Dialog.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { fewNames } from '../../ui/PostBody.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { useLive } from '../../ui/useLive.ts';

interface Group {
  id: number;
  name: string;
  kind: 'live' | 'fixed';
}

function NewBoard({ groups, onClose }: { groups: readonly Group[]; onClose: () => void }) {
  const [purpose, setPurpose] = useState<Purpose>('to read');
  const [name, setName] = useState('');
  const [about, setAbout] = useState('');
  const [group, setGroup] = useState('');
  const [problem, setProblem] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const wrong = (field: string): string | undefined =>
    problem instanceof ApiProblem ? problem.about(field) : undefined;
  const make = async (): Promise<void> => {
    setBusy(true);
    setProblem(undefined);
    try {
      const { id } = await ask<{ id: number }>('POST', '/api/boards', {
        purpose,
        name,
        about,
        groupId: group === '' ? null : Number(group),
      });
      location.assign(`/boards/${id}`);
    } catch (error) {
      setProblem(error);
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      title="A new board"
      onClose={onClose}
      actions={
        <>
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Leave it
          </button>
          <button type="button" className="btn btn-primary" disabled={busy} onClick={() => void make()}>
            Make the board
          </button>
        </>
      }
    >
      <fieldset className="mb-3">
        <legend className="mb-1 font-semibold">What it is for</legend>
        {PURPOSES.map((each) => (
          <label key={each} className="flex min-h-11 cursor-pointer items-start gap-2 py-1.5">
            <input
              type="radio"
              name="purpose"
              className="radio radio-primary"
              checked={purpose === each}
              onChange={() => setPurpose(each)}
            />
            <span>{PRESETS[each].words}</span>
          </label>
        ))}
      </fieldset>
      <div className="flex flex-col gap-3">
        <label className="flex flex-col gap-1">
          Name
          <input
            className="input w-full"
            value={name}
            maxLength={120}
            aria-invalid={wrong('name') !== undefined}
            onChange={(event) => setName(event.target.value)}
            dir="auto"
          />
          {wrong('name') === undefined ? null : <span className="text-error">{wrong('name')}</span>}
        </label>
        <label className="flex flex-col gap-1">
          In a sentence, so that nobody asks why they are here
          <input
            className="input w-full"
            value={about}
            maxLength={600}
            aria-invalid={wrong('about') !== undefined}
            onChange={(event) => setAbout(event.target.value)}
            dir="auto"
          />
          {wrong('about') === undefined ? null : <span className="text-error">{wrong('about')}</span>}
        </label>
        <label className="flex flex-col gap-1">
          Whose place it is
          <select className="select w-full" value={group} onChange={(event) => setGroup(event.target.value)}>
            <option value="">everybody</option>
            {groups.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name} ({each.kind === 'live' ? 'live: follows its rule' : 'fixed: hand-picked'})
              </option>
            ))}
          </select>
        </label>
      </div>
      {problem !== undefined && wrong('name') === undefined && wrong('about') === undefined ? (
        <Notice tone="error">{wordsOf(problem)}</Notice>
      ) : null}
      <p className="mt-3 text-sm text-quiet">
        You own it and moderate it. All of this can be adjusted later.
      </p>
    </Dialog>
  );
}

/** The boards somebody may see, with what is new on each. */
export default function BoardList({
  first,
  groups,
  zone,
  me,
}: {
  first: BoardListing[];
  /** The groups a board could belong to, for whoever makes boards; null for others. */
  groups: Group[] | null;
  zone: string;
  me: number;
}) {
  const awake = useAwake();
  const [boards, setBoards] = useState(first);
  const [making, setMaking] = useState(false);
  const [arranging, setArranging] = useState(false);
  const [error, setError] = useState<string>();
  const refresh = async (): Promise<void> => {
    try {
      setBoards(await ask<BoardListing[]>('GET', '/api/boards'));
    } catch (problem) {
      setError(wordsOf(problem));
    }
  };
  useLive(['arrivals', `person:${me}`], () => void refresh());
  const move = async (i: number, by: -1 | 1): Promise<void> => {
    const list = [...boards];
    const [board] = list.splice(i, 1);
    if (!board || i + by < 0 || i + by > list.length) return;
    list.splice(i + by, 0, board);
    setBoards(list);
    try {
      await ask('PUT', '/api/boards/order', { ids: list.map((each) => each.id) });
    } catch (problem) {
      setError(wordsOf(problem));
      await refresh();
    }
  };
  const open = boards.filter((board) => !board.archived);
  const archived = boards.filter((board) => board.archived);
  const row = (board: BoardListing, i: number) => (
    <li key={board.id}>
      <time className="margin">{board.lastMs === null ? '' : shortDate(board.lastMs, zone)}</time>
      <div>
        <a className="link-quiet text-lg font-semibold" href={`/boards/${board.id}`}>
          {board.name}
        </a>
        <p>{board.about}</p>
        <p className="text-sm text-quiet">
          For {board.whose}.{' '}
          {board.moderators.length > 0 ? `Moderated by ${fewNames(board.moderators)}.` : ''}
        </p>
      </div>
      <div className="state text-sm text-quiet">
        {board.waiting > 0 ? (
          <span className="block font-semibold text-warning">{board.waiting} waiting for you</span>
        ) : null}
        {board.unread > 0 && !board.muted ? (
          <span className="block font-semibold text-primary">
            {board.unread >= 100 ? '100 or more' : board.unread} new
          </span>
        ) : null}
        {board.muted ? <span className="block">muted</span> : null}
        {board.archived
          ? 'archived'
          : board.posting.outcome === 'allowed'
            ? 'you may post'
            : board.posting.outcome === 'held'
              ? 'you may write'
              : 'you may read'}
        {arranging && !board.archived ? (
          <span className="block">
            <button
              type="button"
              className="btn btn-ghost btn-sm px-2"
              aria-label={`Move ${board.name} up`}
              onClick={() => void move(i, -1)}
            >
              ↑
            </button>
            <button
              type="button"
              className="btn btn-ghost btn-sm px-2"
              aria-label={`Move ${board.name} down`}
              onClick={() => void move(i, 1)}
            >
              ↓
            </button>
          </span>
        ) : null}
      </div>
    </li>
  );
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Boards</h1>
        <a className="btn btn-ghost" href="/thanks">
          Thanks
        </a>
        {groups ? (
          <>
            <button
              type="button"
              className="btn btn-ghost"
              aria-pressed={arranging}
              disabled={!awake}
              onClick={() => setArranging(!arranging)}
            >
              {arranging ? 'Done arranging' : 'Arrange'}
            </button>
            <button
              type="button"
              className="btn btn-primary"
              disabled={!awake}
              onClick={() => setMaking(true)}
            >
              New board
            </button>
          </>
        ) : null}
      </div>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {open.length === 0 ? (
        <p className="text-quiet">
          No board is yours to see yet. They appear here when you belong to a group that has one.
        </p>
      ) : (
        <ul className="ledger">{open.map(row)}</ul>
      )}
      {archived.length > 0 ? (
        <details className="mt-6">
          <summary className="min-h-11 cursor-pointer link-quiet">Archived ({archived.length})</summary>
          <ul className="ledger mt-2">{archived.map(row)}</ul>
        </details>
      ) : null}
      {making && groups ? <NewBoard groups={groups} onClose={() => setMaking(false)} /> : null}
    </>
  );
}
