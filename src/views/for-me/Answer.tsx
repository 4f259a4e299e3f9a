import { useState } from 'react';
import { momentWords, timeWords } from '../../core/timing/words.ts';
import { ask, wordsOf } from '../../ui/api.ts';
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
  const acknowledge = async (): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      setAnsweredMs(
        (await ask<{ answeredMs: number }>('POST', `/api/for-me/${occurrenceId}/acknowledge`)).answeredMs,
      );
    } catch (problem) {
      setError(wordsOf(problem));
      setBusy(false);
    }
  };
  if (answeredMs !== null)
    return (
      <p role="status" className="my-6 font-semibold text-success">
        You acknowledged this at {momentWords(answeredMs, zone, nowMs)}.
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
        onClick={() => void acknowledge()}
      >
        Acknowledge
      </button>
    </div>
  );
}
