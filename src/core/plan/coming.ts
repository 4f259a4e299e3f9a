import { occurrenceWalls } from '../timing/recurrence.ts';
import { wallAt } from '../timing/wallTime.ts';
import { bucketsAt, type PlannedBucket } from './buckets.ts';
import { HOLD_MS, spanOf, type Recurring } from './plan.ts';

/** One occurrence of a recurring send, named by the wall-clock time its rule gives (RFC 5545's RECURRENCE-ID). */
export interface PlannedOccurrence {
  recursAt: string;
  buckets: PlannedBucket[];
}

const DAY_MS = 86_400_000;

/**
 * The occurrences of a recurring send that have anything still to go at `nowMs`, in order, up to `untilMs` or `most`.
 * Where one has begun in some zones already, those readers get what the plan says for hours that have passed.
 */
export function comingOccurrences(
  timing: Recurring,
  zones: readonly string[],
  nowMs: number,
  { untilMs, most }: { untilMs?: number; most: number },
): PlannedOccurrence[] {
  const earliest = nowMs + HOLD_MS;
  // A wall-clock time comes up to 14 hours before and 12 hours after it does in UTC.
  const from = wallAt(nowMs - DAY_MS, 'UTC');
  const walls = occurrenceWalls(timing.start, timing.rule, {
    from,
    most: most + 3,
    ...(untilMs === undefined ? {} : { to: wallAt(untilMs + DAY_MS, 'UTC') }),
  });
  return walls
    .map((recursAt) => ({ recursAt, buckets: bucketsAt(recursAt, timing.zone, zones, timing, 0) }))
    .filter(({ buckets }) => {
      const last = Math.max(...buckets.map((bucket) => bucket.dueMs));
      return (
        last >= earliest && (untilMs === undefined || Math.min(...buckets.map((b) => b.dueMs)) < untilMs)
      );
    })
    .map(({ recursAt }) => ({ recursAt, buckets: bucketsAt(recursAt, timing.zone, zones, timing, earliest) }))
    .filter(({ buckets }) => spanOf(buckets) !== null)
    .slice(0, most);
}
