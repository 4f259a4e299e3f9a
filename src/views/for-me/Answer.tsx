import { useState } from 'react';
import { momentWords, timeWords } from '../../core/timing/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { acknowledge, useKeptAnswers } from '../../ui/keptAnswers.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useAwake } from '../../ui/useAwake.ts';

/** The one large button under an announcement that asks to be acknowledged. */
export default function Answer({
  occurrenceId,
  answeredMs: first,
  deadlineMs,
  zone,
  nowMs,
}: {
  occurrenceId: number;
  answeredMs: number | null;
  deadlineMs: number | null;
  zone: string;
  nowMs: number;
}) {
  const [answeredMs, setAnsweredMs] = useState(first);
  const awake = useAwake();
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const kept = useKeptAnswers(() => setAnsweredMs((now) => now ?? Date.now()));
  const answer = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      const done = await acknowledge(occurrenceId);
      if (done !== 'kept') setAnsweredMs(done.answeredMs);
    } catch (problem) {
      setError(wordsOf(problem));
    }
    setBusy(false);
  };
  if (answeredMs !== null)
    return (
      <p role="status" className="my-6 font-semibold text-success">
        You acknowledged this at {momentWords(answeredMs, zone, nowMs)}.
      </p>
    );
  if (kept.includes(occurrenceId))
    return (
      <p role="status" className="my-6 font-semibold text-warning">
        Your answer is kept on this device. It is sent when the connection is back.
      </p>
    );
  return (
    <div className="my-6">
      {deadlineMs === null ? null : (
        <p className="mb-2 text-warning">
          Please acknowledge by {momentWords(deadlineMs, zone, nowMs)} ({timeWords(deadlineMs, 'UTC')} UTC).
        </p>
      )}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <button
        type="button"
        className="btn btn-primary btn-lg w-full sm:w-auto"
        disabled={busy || !awake}
        onClick={() => void answer()}
      >
        Acknowledge
      </button>
    </div>
  );
}
