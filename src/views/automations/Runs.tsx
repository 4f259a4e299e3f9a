import { useState } from 'react';
import { RUN_STATES, RUN_WORDS, type RunLine } from '../../core/automation/run.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, useServerPages } from '../../ui/server.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { RunList } from './RunList.tsx';
import { Select } from './controls.tsx';

interface Page {
  runs: RunLine[];
  next: number | null;
}
const TOPICS = ['automations'];

/** The runs of all automations, the latest first, by what became of them. */
export default function Runs({
  first,
  begin,
  zone,
  nowMs,
}: {
  first: Page;
  /** What the address says is shown. */
  begin: Record<string, string>;
  zone: string;
  nowMs: number;
}) {
  const [state, setState] = useState<string>(RUN_STATES.find((each) => each === begin.state) ?? '');
  const [find, setFind] = useState(begin.find ?? '');
  useInAddress({ state, find });
  const path = (before: number | null) => pathWith('/api/runs', { state, find, before });
  const list = useServerPages({
    path,
    next: (page) => page.next,
    first: { path: '/api/runs', page: first },
    topics: TOPICS,
  });
  const runs = (list.data?.pages ?? [first]).flatMap((page) => page.runs);
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-3">
        <h1 className="mr-auto">What automations did</h1>
        <a className="btn btn-ghost" href="/automations">
          Automations
        </a>
        <label className="flex flex-col gap-1">
          Find
          <input
            type="search"
            className="input w-56"
            maxLength={80}
            dir="auto"
            placeholder="in its name, its messages, or why"
            value={find}
            onChange={(event) => setFind(event.target.value)}
          />
        </label>
        <Select
          label="Shown"
          value={state}
          none="all runs"
          options={RUN_STATES.map((each) => ({ value: each, words: RUN_WORDS[each] }))}
          onChange={setState}
        />
      </div>
      {list.isError ? <Notice tone="error">{wordsOf(list.error)}</Notice> : null}
      <RunList
        runs={runs}
        zone={zone}
        nowMs={nowMs}
        named
        none={find.trim() === '' && state === '' ? 'Nothing has run yet.' : 'No run is like that.'}
      />
      {list.hasNextPage ? (
        <button
          type="button"
          className="btn btn-outline mt-4"
          disabled={list.isFetchingNextPage}
          onClick={() => void list.fetchNextPage()}
        >
          More
        </button>
      ) : null}
    </>
  );
}
