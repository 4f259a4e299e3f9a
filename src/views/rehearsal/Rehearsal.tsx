import { useState } from 'react';
import type { Rehearsal as RehearsalData } from '../../core/sends/rehearsal.ts';
import { ApiProblem, request, newKey, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, useServer } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { People } from './People.tsx';
import { Collisions, DayLoad } from './Besides.tsx';
import { Findings } from './Findings.tsx';
import { Reach } from './Reach.tsx';

/** The dry run of a send: nothing has gone, and this is what would. */
export default function Rehearsal({
  draftId,
  first,
  title,
  zone,
  nowMs,
  local,
  begin,
}: {
  draftId: number;
  first: RehearsalData;
  title: string;
  zone: string;
  nowMs: number;
  local: boolean;
  /** What the address says is shown. */
  begin: Record<string, string>;
}) {
  const [within, setWithin] = useState(first.within);
  const path = `/api/announcements/${draftId}/rehearsal` as const;
  const rehearsal = useServer(pathWith(path, { within }), {
    ...(within === first.within ? { first } : {}),
    keepPrevious: true,
  });
  const found = rehearsal.data ?? first;
  const busy = rehearsal.isFetching;
  const [failed, setError] = useState<string>();
  const error = failed ?? (rehearsal.error ? wordsOf(rehearsal.error) : undefined);
  const [said, setSaid] = useState<string>();
  const awake = useAwake();
  const test = async (): Promise<void> => {
    setError(undefined);
    try {
      await request('POST', `/api/announcements/${draftId}/test`, undefined, newKey());
      setSaid('A test goes to you alone, in your inbox and by mail, in ten seconds.');
    } catch (problem) {
      setError(
        problem instanceof ApiProblem
          ? [problem.message, ...problem.errors.map((each) => each.detail)].join(' ')
          : wordsOf(problem),
      );
    }
  };
  const { forecast } = found;
  return (
    <fieldset disabled={!awake || busy} className="contents">
      <div className="mb-4 flex flex-wrap items-end justify-between gap-4">
        <div>
          <h1>Rehearsal</h1>
          <p className="text-quiet" dir="auto">
            {title || 'Without a title'}
          </p>
        </div>
        <div className="flex flex-wrap gap-3">
          <button type="button" className="btn btn-outline" onClick={() => void test()}>
            Send a test to me
          </button>
          <button type="button" className="btn btn-outline" onClick={() => void rehearsal.refetch()}>
            Rehearse again
          </button>
          <a href={`/write/${draftId}`} className="btn btn-primary">
            Back to writing
          </a>
        </div>
      </div>
      {said === undefined ? null : <Notice tone="success">{said}</Notice>}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <p className="my-4 max-w-4xl text-xl leading-8">{found.sentence}</p>

      <div className="mb-2 gap-x-10 lg:columns-2 *:mb-6 *:break-inside-avoid">
        <Reach forecast={forecast} bodies={found.outside} />
        <Findings found={found} zone={zone} nowMs={nowMs} />
        <Collisions found={found} zone={zone} onWithin={setWithin} />
        <DayLoad found={found} zone={zone} nowMs={nowMs} />
      </div>
      <People draftId={draftId} total={forecast.people} local={local} begin={begin} />
    </fieldset>
  );
}
