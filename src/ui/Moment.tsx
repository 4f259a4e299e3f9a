import { useState } from 'react';
import { momentWords, nearWords } from '../core/timing/words.ts';
import { useNow } from './useNow.ts';

const EVERY_MS = 60_000;

/**
 * A moment in few words, with the whole of it under the pointer and, pressed, beside it (see `pageKeys.ts`). What was
 * "today" is "yesterday" once midnight has passed.
 */
export function Moment({
  at,
  zone,
  nowMs,
}: {
  at: number;
  zone: string;
  /** When it is, as the page came with it; otherwise by the reader's own clock. */
  nowMs?: number;
}) {
  const [first] = useState(() => nowMs ?? Date.now());
  const now = useNow(first, EVERY_MS);
  const full = momentWords(at, zone, now);
  return (
    <time dateTime={new Date(at).toISOString()} title={full} data-full={full}>
      {nearWords(at, zone, now)}
    </time>
  );
}
