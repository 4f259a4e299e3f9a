import { useState } from 'react';
import { OUTCOMES, type OutcomeKind } from '../../core/imports/comparing.ts';
import {
  doesAnything,
  importWords,
  OUTCOME_TITLES,
  undoWords,
  type ImportSummary,
} from '../../core/imports/import.ts';
import { nearWords } from '../../core/timing/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { count, list } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Confirm } from '../../ui/Confirm.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, refetch, useServer, useServerPages } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { Lines } from './Lines.tsx';
import { Missing } from './Missing.tsx';

/** Which part of a list is looked at first: what a person has to decide, then what changes. */
const firstShown = ({ counts }: ImportSummary): OutcomeKind =>
  (['clash', 'wrong', 'new', 'changed', 'returns', 'same'] as const).find((kind) => counts[kind] > 0) ??
  'new';

/** What a list would do to the directory, looked at part by part; then it is brought in, and for a day it can be undone. */
export default function Import({
  first,
  zone,
  nowMs,
}: {
  first: ImportSummary;
  zone: string;
  nowMs: number;
}) {
  const path = `/api/imports/${first.id}` as const;
  const { data: found = first } = useServer(path, { first });
  const [kind, setKind] = useState<OutcomeKind>(() => firstShown(first));
  const [asked, setAsked] = useState<'apply' | 'undo' | 'discard'>();
  const [error, setError] = useState<string>();
  const awake = useAwake();
  const pages = useServerPages({
    path: (after: number | null) => pathWith(`${path}/rows`, { kind, after }),
    next: (page) => page.next,
  });
  const compared = found.state === 'compared';
  const act = async (work: () => Promise<unknown>): Promise<void> => {
    setError(undefined);
    try {
      await work();
    } catch (problem) {
      setError(wordsOf(problem));
    }
    await refetch(path);
  };
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto" dir="auto">
          {found.fileName}
        </h1>
        <a className="btn btn-ghost" href="/people/import">
          Another list
        </a>
        <a className="btn btn-ghost" href="/people">
          People
        </a>
      </div>
      <p className="mb-4 text-quiet">
        {found.rows === 0
          ? `Brought here by ${found.by}; what each row was is kept for a day only. `
          : `${count(found.rows, 'row', 'rows')}, brought here by ${found.by}. `}
        {found.appliedMs === null ? '' : `Brought in ${nearWords(found.appliedMs, zone, nowMs)}. `}
        {found.undoneMs === null ? '' : `Taken back ${nearWords(found.undoneMs, zone, nowMs)}.`}
      </p>
      <section aria-label="What it does" className="mb-6">
        {found.state === 'open' ? (
          <>
            <Notice tone="warning">
              This list has not arrived whole: the page was left, or the connection lost, while it was sent.
              Nothing of it is brought in.
            </Notice>
            <p className="mt-3">
              <a className="btn btn-primary" href="/people/import">
                Choose the file again
              </a>
            </p>
          </>
        ) : null}
        {compared ? (
          <>
            <p className="mb-3 font-display text-2xl font-semibold" aria-live="polite">
              It would {importWords(found)}.
            </p>
            {found.newStations.length > 0 ? (
              <p className="mb-3">
                {count(found.newStations.length, 'station is', 'stations are')} made with it, on the
                organisation’s clock: {list(found.newStations.slice(0, 12), 'and')}
                {found.newStations.length > 12 ? ` and ${found.newStations.length - 12} more` : ''}.
              </p>
            ) : null}
            <Missing
              found={found}
              onChoose={(marksLeft) => void act(() => request('PUT', path, { marksLeft }))}
            />
            <div className="mt-4 flex flex-wrap gap-3">
              <button
                type="button"
                className="btn btn-primary"
                disabled={!awake || !doesAnything(found)}
                onClick={() => setAsked('apply')}
              >
                Bring it in
              </button>
              <button
                type="button"
                className="btn btn-outline"
                disabled={!awake}
                onClick={() => setAsked('discard')}
              >
                Put it away
              </button>
            </div>
          </>
        ) : null}
        {found.state === 'applied' && found.undoUntilMs !== null && found.undoUntilMs > nowMs ? (
          <p className="flex flex-wrap items-center gap-3">
            <button
              type="button"
              className="btn btn-outline"
              disabled={!awake}
              onClick={() => setAsked('undo')}
            >
              Undo it
            </button>
            <span className="text-quiet">
              until <Moment at={found.undoUntilMs} zone={zone} nowMs={nowMs} />
            </span>
          </p>
        ) : null}
        {error === undefined ? null : (
          <div className="mt-3">
            <Notice tone="error">{error}</Notice>
          </div>
        )}
      </section>
      <div role="group" aria-label="Which rows" className="join mb-3 flex-wrap">
        {OUTCOMES.map((each) => (
          <button
            key={each}
            type="button"
            className={`btn join-item ${each === kind ? 'btn-neutral' : 'btn-outline'}`}
            aria-pressed={each === kind}
            disabled={!awake}
            onClick={() => setKind(each)}
          >
            {OUTCOME_TITLES[each]}{' '}
            <span className="figure">{found.counts[each].toLocaleString('en-GB')}</span>
          </button>
        ))}
      </div>
      <Lines
        kind={kind}
        lines={(pages.data?.pages ?? []).flatMap((page) => page.lines)}
        pending={pages.isPending}
        error={pages.error}
        mayDecide={compared && awake}
        onDecide={(line, decision, all) =>
          void act(() => request('PUT', `${path}/rows/${line}`, { decision, all }))
        }
      />
      {pages.hasNextPage ? (
        <button
          type="button"
          className="btn btn-outline mt-4"
          disabled={pages.isFetchingNextPage}
          onClick={() => void pages.fetchNextPage()}
        >
          More rows
        </button>
      ) : null}
      {asked === 'apply' ? (
        <Confirm
          title="Bring in this list?"
          detail={`It will ${importWords(found)}. ${
            found.counts.clash + found.counts.wrong > 0
              ? `${count(found.counts.clash + found.counts.wrong, 'row is', 'rows are')} left out. `
              : ''
          }It can be undone for a day. A long list takes up to half a minute.`}
          button="Bring it in"
          onClose={() => setAsked(undefined)}
          onConfirm={async () => {
            try {
              await request('POST', `${path}/apply`, { digest: found.digest });
              void done('The list is brought in.');
            } finally {
              await refetch(path);
            }
          }}
        />
      ) : null}
      {asked === 'undo' ? (
        <Confirm
          title="Undo this list?"
          detail="Whoever it added is gone again, or marked as left where something has reached them already. What it changed is as before, unless somebody has changed it again since. Sessions it ended stay ended."
          button="Undo it"
          onClose={() => setAsked(undefined)}
          onConfirm={async () => {
            const outcome = await request('POST', `${path}/undo`);
            void done(undoWords(outcome) || 'It is taken back.');
            await refetch(path);
          }}
        />
      ) : null}
      {asked === 'discard' ? (
        <Confirm
          title="Put this list away?"
          detail="Nothing of it is brought in. The file itself stays where it is."
          button="Put it away"
          onClose={() => setAsked(undefined)}
          onConfirm={async () => {
            await request('DELETE', path);
            location.assign('/people/import');
          }}
        />
      ) : null}
    </>
  );
}
