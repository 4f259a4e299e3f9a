import { useState } from 'react';
import type { ComingLine, SendPage } from '../../core/sends/send.ts';
import { dateWords, timeWords } from '../../core/timing/words.ts';
import { request, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { refetch, useServer } from '../../ui/server.ts';
import { done } from '../../ui/toast.ts';
import { useActs } from '../../ui/useActs.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { MoveDialog } from '../run-sheet/MoveDialog.tsx';

/** What of a recurring send is still to come, each to be skipped, moved or put back, however far ahead. */
export function Coming({ row, zone, nowMs }: { row: SendPage['row']; zone: string; nowMs: number }) {
  const awake = useAwake();
  const path = `/api/sends/${row.occurrenceId}/coming` as const;
  const { data: lines, error: failure } = useServer(path, {
    topics: [`occurrence:${row.occurrenceId}`],
  });
  const { busy, error, act } = useActs();
  const [moving, setMoving] = useState<{ line: ComingLine; occurrenceId: number }>();
  /** What lies far ahead is written first, so that there is something to skip or move. */
  const written = async (line: ComingLine): Promise<number> =>
    line.occurrenceId ?? (await request('POST', path, { recursAt: line.recursAt })).occurrenceId;
  const putBack = async (id: number): Promise<void> => {
    await request('POST', `/api/sends/${id}/put-back`);
    await refetch(path);
  };
  const skip = (line: ComingLine): (() => void) =>
    act(async () => {
      const id = await written(line);
      await request('POST', `/api/sends/${id}/take-back`);
      await refetch(path);
      void done(`${dateWords(line.dueMs, zone, nowMs)} is skipped.`, () => putBack(id));
    });
  if (failure) return <Notice tone="error">{wordsOf(failure)}</Notice>;
  if (!lines || lines.length === 0) return null;
  const named = (line: ComingLine): string =>
    `${dateWords(line.dueMs, zone, nowMs)}, ${timeWords(line.dueMs, zone)}`;
  return (
    <section className="my-6 max-w-3xl" aria-labelledby="coming">
      <h2 id="coming" className="mb-2">
        What is to come
      </h2>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <ul className="grid gap-x-8 sm:grid-cols-2">
        {lines.map((line) => (
          <li
            key={line.recursAt}
            className="flex min-h-11 items-center justify-between gap-2 border-t border-base-300"
          >
            <span className={line.skipped ? 'text-quiet line-through' : undefined}>
              {dateWords(line.dueMs, zone, nowMs)}{' '}
              <span className="figure">{timeWords(line.dueMs, zone)}</span>
              {line.endsMs > line.dueMs ? (
                <span className="figure text-quiet"> to {timeWords(line.endsMs, zone)}</span>
              ) : null}
              {line.moved ? <span className="text-sm text-info"> moved</span> : null}
            </span>
            <span className="flex">
              {line.skipped && line.occurrenceId !== null ? (
                <button
                  type="button"
                  className="btn btn-ghost btn-sm"
                  disabled={busy || !awake}
                  aria-label={`Put ${named(line)} back`}
                  onClick={act(() => putBack(line.occurrenceId ?? 0))}
                >
                  Put back
                </button>
              ) : (
                <>
                  <button
                    type="button"
                    className="btn btn-ghost btn-sm"
                    disabled={busy || !awake}
                    aria-label={`Move ${named(line)}`}
                    onClick={act(async () => setMoving({ line, occurrenceId: await written(line) }))}
                  >
                    Move
                  </button>
                  <button
                    type="button"
                    className="btn btn-ghost btn-sm"
                    disabled={busy || !awake}
                    aria-label={`Skip ${named(line)}`}
                    onClick={skip(line)}
                  >
                    Skip
                  </button>
                </>
              )}
            </span>
          </li>
        ))}
      </ul>
      {moving ? (
        <MoveDialog
          row={{ ...moving.line, occurrenceId: moving.occurrenceId, title: row.title, recurs: row.recurs }}
          toMs={moving.line.dueMs}
          zone={zone}
          nowMs={nowMs}
          onClose={() => setMoving(undefined)}
          onDone={() => {
            setMoving(undefined);
            void refetch(path);
          }}
        />
      ) : null}
    </section>
  );
}
