import { OneOf } from '../../ui/OneOf.tsx';
import { useState } from 'react';
import { OUTCOMES, type OutcomeKind } from '../../core/imports/comparing.ts';
import { OUTCOME_TITLES, type ImportSummary } from '../../core/imports/import.ts';
import { nearWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { pathWith, refetch, useServer, useServerPages } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { Question, WhatItDoes, type Asked } from './importParts.tsx';
import { Lines } from './Lines.tsx';

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
  const [asked, setAsked] = useState<Asked>();
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
      <WhatItDoes
        found={found}
        error={error}
        zone={zone}
        nowMs={nowMs}
        onAsk={setAsked}
        onMarksLeft={(marksLeft) => void act(() => request('PUT', path, { marksLeft }))}
      />
      <OneOf
        label="Which rows"
        className="mb-3"
        options={OUTCOMES.map((each) => ({
          value: each,
          words: (
            <>
              {OUTCOME_TITLES[each]}{' '}
              <span className="figure">{found.counts[each].toLocaleString('en-GB')}</span>
            </>
          ),
        }))}
        value={kind}
        onChange={setKind}
      />
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
      <Question asked={asked} found={found} onClose={() => setAsked(undefined)} />
    </>
  );
}
