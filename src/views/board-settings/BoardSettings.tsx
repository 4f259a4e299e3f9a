import { useMemo, useState } from 'react';
import { FLAG_WORDS, PRESETS, purposeOf, SWITCH_WORDS } from '../../core/boards/switches.ts';
import type { BoardChange } from '../../core/boards/boardSchemas.ts';
import type { Switches } from '../../core/boards/switchesSchema.ts';
import { shortDate, timeWords } from '../../core/timing/words.ts';
import { ApiProblem, request, wordsOf } from '../../ui/api.ts';
import { list, people } from '../../core/words.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, refetch, useServer } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { done } from '../../ui/toast.ts';
import { Links } from './Links.tsx';
import { Moderators } from './Moderators.tsx';

interface Settings {
  id: number;
  name: string;
  about: string;
  groupId: number | null;
  whose: string;
  archived: boolean;
  switches: Switches;
  sectionLimit: number;
  pinLimit: number;
  contactsRead: boolean;
  owner: { id: number; name: string } | null;
  moderators: { id: number; name: string; owner: boolean }[];
  links: { label: string; url: string }[];
  denied: string | null;
  made: { id: number; pattern: string; behind: boolean } | null;
  groups: { id: number; name: string; kind: 'live' | 'fixed' }[];
  deeds: { atMs: number; actor: string | null; action: string; changes: string[] }[];
}

/** A line of text that is saved when its button is pressed. */
function TextSetting({
  label,
  value,
  disabled,
  number = false,
  problem,
  onSave,
}: {
  label: string;
  value: string;
  disabled: boolean;
  number?: boolean;
  problem: string | undefined;
  onSave: (value: string) => void;
}) {
  const [text, setText] = useState(value);
  const [last, setLast] = useState(value);
  if (last !== value) {
    setLast(value);
    setText(value);
  }
  return (
    <div className="flex flex-wrap items-end gap-3">
      <label className={`flex flex-col gap-1 ${number ? '' : 'grow'}`}>
        {label}
        <input
          className={`input ${number ? 'w-28' : 'w-full'}`}
          type={number ? 'number' : 'text'}
          value={text}
          disabled={disabled}
          aria-invalid={problem !== undefined}
          onChange={(event) => setText(event.target.value)}
          dir="auto"
        />
        {problem === undefined ? null : <span className="text-error">{problem}</span>}
      </label>
      {disabled ? null : (
        <button
          type="button"
          className="btn btn-outline"
          disabled={text === value}
          onClick={() => onSave(text)}
        >
          Save
        </button>
      )}
    </div>
  );
}

const outsideWords = (names: readonly string[]): string =>
  names.length === 0
    ? 'Those who moderate it now still do.'
    : `${list(names, 'and')} ${names.length === 1 ? 'is' : 'are'} not among them and will not moderate it any more.`;

/** A board's settings: for those who moderate it to change, for everybody else who sees it to read. */
export default function BoardSettings({
  first,
  coordinator,
  zone,
}: {
  first: Settings;
  coordinator: boolean;
  zone: string;
}) {
  const awake = useAwake();
  const path = `/api/boards/${first.id}/settings` as const;
  const topics = useMemo(() => [`board:${first.id}`], [first.id]);
  const { data: settings = first } = useServer(path, { first, topics });
  const [problem, setProblem] = useState<unknown>();
  const { id, switches } = settings;
  const act = async (
    work: () => Promise<unknown>,
    words: string,
    undo?: () => Promise<unknown>,
  ): Promise<boolean> => {
    setProblem(undefined);
    try {
      await work();
      await refetch(path);
      void done(words, undo);
      return true;
    } catch (error) {
      setProblem(error);
      return false;
    }
  };
  /** What stands now where something is changed, so that the change can be undone. */
  const asItIs = (change: BoardChange): BoardChange => {
    const now: Record<string, unknown> = { ...switches, ...settings, ownerId: settings.owner?.id ?? null };
    return Object.fromEntries(Object.keys(change).map((name) => [name, now[name]]));
  };
  const settle = (
    change: BoardChange,
    words = 'Saved; everybody here sees it at once.',
    canBeUndone = true,
  ): Promise<boolean> => {
    const back = asItIs(change);
    const put = (to: BoardChange): Promise<unknown> => request('PUT', `/api/boards/${id}/settings`, to);
    const undo = (): Promise<boolean> => act(() => put(back), 'It is as it was.');
    return act(() => put(change), words, canBeUndone ? undo : undefined);
  };
  const appoint = (person: { id: number; name: string }, moderates: boolean): Promise<boolean> =>
    act(
      () => request('PUT', `/api/boards/${id}/moderators`, { personId: person.id, moderates }),
      moderates ? `${person.name} moderates from now on.` : `${person.name} does not moderate any more.`,
      () => appoint(person, !moderates),
    );
  const [asked, setAsked] = useState<{
    groupId: number | null;
    name: string;
    people: number;
    outside: string[];
  }>();
  /** Another group's place: said first how many that is. */
  const askGroup = async (groupId: number | null): Promise<void> => {
    setProblem(undefined);
    try {
      const place = await request('GET', pathWith(`/api/boards/${id}/place`, { groupId }));
      const name = settings.groups.find((group) => group.id === groupId)?.name ?? 'everybody';
      setAsked({ groupId, name, ...place });
    } catch (error) {
      setProblem(error);
    }
  };
  const archive = (archived: boolean): Promise<boolean> =>
    settle({ archived }, archived ? 'It is archived.' : 'It is open again.');
  const wrong = (field: string): string | undefined =>
    problem instanceof ApiProblem ? problem.about(field) : undefined;
  const locked = settings.denied !== null || !awake;
  const purpose = purposeOf(switches);
  const told = ['name', 'about', 'sectionLimit', 'pinLimit'].some((field) => wrong(field) !== undefined);
  return (
    <>
      <p className="mb-2 text-sm">
        <a className="link-quiet" href={`/boards/${id}`}>
          {settings.name}
        </a>
      </p>
      <h1 className="mb-3">Settings</h1>
      {settings.denied === null ? null : (
        <p className="mb-4 border-l-4 border-info bg-base-100 px-4 py-3">
          {settings.denied} You can read them.
        </p>
      )}
      <div aria-live="polite">
        {problem === undefined || told ? null : <Notice tone="error">{wordsOf(problem)}</Notice>}
      </div>
      <div className="flex flex-col gap-5">
        <TextSetting
          label="Name"
          value={settings.name}
          disabled={locked}
          problem={wrong('name')}
          onSave={(name) => void settle({ name })}
        />
        <TextSetting
          label="What it is for"
          value={settings.about}
          disabled={locked}
          problem={wrong('about')}
          onSave={(about) => void settle({ about })}
        />
        <label className="flex flex-col gap-1">
          Whose place it is
          {coordinator ? (
            <select
              className="select w-full max-w-md"
              disabled={locked}
              value={settings.groupId ?? ''}
              onChange={(event) =>
                void askGroup(event.target.value === '' ? null : Number(event.target.value))
              }
            >
              <option value="">everybody</option>
              {settings.groups.map((group) => (
                <option key={group.id} value={group.id}>
                  {group.name} ({group.kind === 'live' ? 'live: follows its rule' : 'fixed: hand-picked'})
                </option>
              ))}
            </select>
          ) : (
            <input className="input w-full max-w-md" disabled value={settings.whose} />
          )}
        </label>

        {coordinator ? (
          <label className="flex min-h-11 cursor-pointer items-center gap-3">
            <input
              type="checkbox"
              className="checkbox checkbox-primary"
              disabled={locked}
              checked={settings.contactsRead}
              onChange={(event) => void settle({ contactsRead: event.target.checked })}
            />
            Linked contacts of its readers (relatives, delegates) may read it by a link of their own
          </label>
        ) : null}

        <section aria-labelledby="switches" className="border-t border-base-300 pt-4">
          <h2 id="switches" className="mb-1">
            What may be done here
          </h2>
          <p className="mb-3 text-sm text-quiet">
            {purpose ? PRESETS[purpose].words : 'Adjusted by hand.'} Those who moderate may always do all of
            it.
          </p>
          <div className="grid gap-3 sm:grid-cols-2">
            {(Object.keys(SWITCH_WORDS) as (keyof typeof SWITCH_WORDS)[]).map((name) => (
              <label key={name} className="flex flex-col gap-1">
                {SWITCH_WORDS[name].name}
                <select
                  className="select w-full"
                  disabled={locked}
                  value={switches[name]}
                  onChange={(event) => void settle({ [name]: event.target.value })}
                >
                  {Object.entries(SWITCH_WORDS[name].choices).map(([value, words]) => (
                    <option key={value} value={value}>
                      {words}
                    </option>
                  ))}
                </select>
              </label>
            ))}
          </div>
          <div className="mt-3">
            {(Object.keys(FLAG_WORDS) as (keyof typeof FLAG_WORDS)[]).map((name) => (
              <label key={name} className="flex min-h-11 cursor-pointer items-center gap-3">
                <input
                  type="checkbox"
                  className="checkbox checkbox-primary"
                  disabled={locked}
                  checked={switches[name]}
                  onChange={(event) => void settle({ [name]: event.target.checked })}
                />
                {FLAG_WORDS[name]}
              </label>
            ))}
          </div>
          <div className="mt-3 flex flex-wrap gap-5">
            <TextSetting
              label="Posts pinned at once, at most"
              number
              value={String(settings.pinLimit)}
              disabled={locked}
              problem={wrong('pinLimit')}
              onSave={(value) => void settle({ pinLimit: Number(value) })}
            />
            <TextSetting
              label="Sections in one post, at most"
              number
              value={String(settings.sectionLimit)}
              disabled={locked}
              problem={wrong('sectionLimit')}
              onSave={(value) => void settle({ sectionLimit: Number(value) })}
            />
          </div>
        </section>

        <Moderators
          boardId={id}
          moderators={settings.moderators}
          owner={settings.owner}
          locked={locked}
          coordinator={coordinator}
          onAppoint={(person, moderates) => void appoint(person, moderates)}
          onOwner={(person) => void settle({ ownerId: person.id }, `${person.name} owns the board now.`)}
        />

        <Links
          links={settings.links}
          disabled={locked}
          onSave={async (links) => {
            await request('PUT', `/api/boards/${id}/links`, { links });
            await refetch(path);
            void done('Saved.');
          }}
        />

        {settings.groups.length > 0 && !settings.archived ? (
          <section aria-labelledby="pattern" className="border-t border-base-300 pt-4">
            <h2 id="pattern">Set up another like it</h2>
            <p className="mb-2 text-sm text-quiet">
              Kept as a pattern, it can be made again in one go: its group, settings, key links, pinned posts,
              forms and automations.
            </p>
            {settings.made ? (
              <p className="mb-2">
                It was made from “{settings.made.pattern}”
                {settings.made.behind ? ', which has changed since' : ''}:{' '}
                <a className="link-quiet" href={`/patterns/places/${settings.made.id}`}>
                  all that was made with it
                </a>
                .
              </p>
            ) : null}
            <a className="btn btn-outline" href={`/boards/${id}/pattern`}>
              Keep as a pattern
            </a>
          </section>
        ) : null}
        {settings.denied === null ? (
          <section aria-labelledby="end" className="border-t border-base-300 pt-4">
            <h2 id="end">{settings.archived ? 'It is archived' : 'Archive it'}</h2>
            <p className="mb-2 text-sm text-quiet">
              An archived board can still be read and searched by those it belongs to. Nothing is added to it.
            </p>
            <button
              type="button"
              className="btn btn-outline"
              disabled={!awake}
              onClick={() => void archive(!settings.archived)}
            >
              {settings.archived ? 'Bring it back' : 'Archive this board'}
            </button>
          </section>
        ) : null}

        {settings.deeds.length > 0 ? (
          <details className="border-t border-base-300 pt-4">
            <summary className="min-h-11 cursor-pointer link-quiet">What was done here</summary>
            <ul className="ledger">
              {settings.deeds.map((deed, i) => (
                <li key={i}>
                  <time className="margin" dateTime={new Date(deed.atMs).toISOString()}>
                    {shortDate(deed.atMs, zone)} {timeWords(deed.atMs, zone)}
                  </time>
                  <span>
                    {deed.actor ?? 'Clear Bell'}: {deed.action}
                    {deed.changes.map((change) => (
                      <span key={change} className="block text-sm text-quiet">
                        {change}
                      </span>
                    ))}
                  </span>
                </li>
              ))}
            </ul>
          </details>
        ) : null}
      </div>
      {asked ? (
        <Confirm
          title={`Whose place is it: ${asked.name}?`}
          detail={`${people(asked.people)} can read it then, and nobody else but those who moderate it and the coordinators. ${outsideWords(asked.outside)}`}
          button={`Make it ${asked.name === 'everybody' ? 'everybody’s' : `the place of ${asked.name}`}`}
          onConfirm={() =>
            // Whoever is no moderator any more is appointed again by hand.
            settle({ groupId: asked.groupId }, undefined, asked.outside.length === 0)
          }
          onClose={() => setAsked(undefined)}
        />
      ) : null}
    </>
  );
}
