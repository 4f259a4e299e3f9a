import { Temporal } from 'temporal-polyfill';
import { wallAt } from './wallTime.ts';

/**
 * Quiet hours on a reader's own clock, from one time of day (`22:00`) to before another; they may go over midnight. The same
 * time twice is no quiet hours at all.
 */
export interface Quiet {
  from: string;
  to: string;
}

/**
 * When something due at an instant may reach somebody who is left in peace in their quiet hours: the instant itself,
 * or the end of the quiet hours it falls in, on their clock. Milliseconds since 1970. An end that the clock skips or
 * repeats is settled as every wall-clock time is (RFC 5545 section 3.3.5).
 */
export function quietUntil(dueMs: number, zone: string, quiet: Quiet | null): number {
  if (!quiet || quiet.from === quiet.to) return dueMs;
  const wall = wallAt(dueMs, zone);
  const time = wall.slice(11);
  const overMidnight = quiet.from > quiet.to;
  const within = overMidnight ? time >= quiet.from || time < quiet.to : time >= quiet.from && time < quiet.to;
  if (!within) return dueMs;
  const day = Temporal.PlainDate.from(wall.slice(0, 10));
  const end = overMidnight && time >= quiet.from ? day.add({ days: 1 }) : day;
  const ends = end
    .toPlainDateTime(Temporal.PlainTime.from(quiet.to))
    .toZonedDateTime(zone, { disambiguation: 'compatible' }).epochMilliseconds;
  return Math.max(dueMs, ends);
}
