import { useState } from 'react';
import { RUN_WORDS, type RunLine, type RunState } from '../../core/automation/run.ts';
import { momentWords, shortDate, spanWords, timeWords } from '../../core/timing/words.ts';
import { count } from '../../core/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';

const TONES: Record<RunState, string> = {
  waiting: 'text-info',
  running: 'text-info',
  said: 'text-success',
  nothing: 'text-quiet',
  held: 'text-warning',
  lapsed: 'text-warning',
  failed: 'text-error',
};

/** What a run said and kept back, with what can be done about it. */
function Opened({ id, topic }: { id: number; topic: string }) {
  const { data, error } = useServer(`/api/runs/${id}`, { topics: [topic] });
  const [problem, setProblem] = useState<string>();
  if (error) return <Notice tone="error">{wordsOf(error)}</Notice>;
  if (!data) return <p className="text-quiet">One moment …</p>;
  const again = async (): Promise<void> => {
    setProblem(undefined);
    try {
      await request('POST', `/api/runs/${id}/again`);
      await refetch('/api/runs');
      await done('It is tried again now.');
    } catch (failure) {
      setProblem(wordsOf(failure));
    }
  };
  return (
    <div className="pb-2">
      {data.reason === null ? null : <p className={TONES[data.state]}>{data.reason}</p>}
      <ul>
        {data.sayings.map((saying) => (
          <li key={`${saying.about} ${saying.occurrenceId ?? ''}`} className="py-1" dir="auto">
            {saying.occurrenceId === null ? (
              <span>{saying.about}: kept back</span>
            ) : (
              <a className="link" href={`/sends/${saying.occurrenceId}`}>
                {saying.about}
              </a>
            )}
            {saying.otherwise ? ', the other way' : ''}
            {saying.reason === null ? '' : `. ${saying.reason}`}{' '}
            {saying.missing === null ? null : (
              <a className="link" href="/directory">
                Say who that is
              </a>
            )}
          </li>
        ))}
      </ul>
      {data.again ? (
        <button type="button" className="btn btn-outline btn-sm mt-1" onClick={() => void again()}>
          Try it again
        </button>
      ) : null}
      {problem === undefined ? null : <Notice tone="error">{problem}</Notice>}
    </div>
  );
}

/** Runs as lines of a ledger; one is opened to see what it said. */
export function RunList({
  runs,
  zone,
  nowMs,
  named,
  none = 'It has not run yet.',
}: {
  runs: readonly RunLine[];
  zone: string;
  nowMs: number;
  /** Whether each line says of which automation it is. */
  named: boolean;
  /** What is said where there is none. */
  none?: string;
}) {
  const [open, setOpen] = useState<number | null>(null);
  if (runs.length === 0) return <p className="text-quiet">{none}</p>;
  return (
    <ul className="ledger">
      {runs.map((run) => {
        const lateMs = run.endedMs === null ? 0 : run.endedMs - run.dueMs;
        return (
          <li key={run.id}>
            <span className="margin figure text-sm" title={momentWords(run.dueMs, zone, nowMs)}>
              {shortDate(run.dueMs, zone)} {timeWords(run.dueMs, zone)}
            </span>
            <span>
              <button
                type="button"
                className="min-h-9 text-left font-semibold"
                aria-expanded={open === run.id}
                onClick={() => setOpen(open === run.id ? null : run.id)}
              >
                <span dir="auto">{named ? run.name : run.cause}</span>
              </button>
              <span className="block text-sm text-quiet" dir="auto">
                {[
                  ...(named ? [run.cause] : []),
                  ...(run.said > 0 ? [count(run.said, 'message', 'messages')] : []),
                  ...(run.keptBack > 0 ? [`${run.keptBack} kept back`] : []),
                  `by version ${run.version}`,
                  ...(lateMs > 60_000 && run.state === 'said'
                    ? [`${spanWords(lateMs)} after it was due`]
                    : []),
                ].join(', ')}
              </span>
              {open === run.id ? (
                <Opened id={run.id} topic={named ? 'automations' : `automation:${run.automationId}`} />
              ) : null}
            </span>
            <span className={`state text-sm font-semibold ${TONES[run.state]}`}>{RUN_WORDS[run.state]}</span>
          </li>
        );
      })}
    </ul>
  );
}
