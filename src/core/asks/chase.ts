import { z } from 'zod';
import { count } from '../words.ts';

/**
 * The follow-up to those on the roll who have not answered: the first so many hours after it went out, or so many
 * before the deadline; again after so many hours; at most so many times; then, if wished, a list of who is still
 * missing to the owners of their groups. Whoever answers is chased no more.
 */
export const chaseSchema = z.object({
  from: z.enum(['after', 'before']),
  hours: z.int('A whole number of hours is needed').min(1, 'At least an hour').max(720, 'At most 30 days'),
  every: z
    .int('A whole number of hours is needed')
    .min(1, 'At least an hour apart')
    .max(720, 'At most 30 days apart'),
  most: z.int().min(1, 'At least once').max(6, 'At most six times'),
  text: z.string().max(600, 'At most 600 characters').default(''),
  owners: z.boolean().default(false),
});
export type Chase = z.infer<typeof chaseSchema>;

export const USUAL_CHASE: Chase = {
  from: 'after',
  hours: 24,
  every: 24,
  most: 2,
  text: '',
  owners: false,
};

const HOUR_MS = 3_600_000;

/** When each chase of an ask is due, and when the list of those still missing goes to the owners. */
export interface ChasePlan {
  /** Milliseconds since 1970, rising. */
  dues: number[];
  listMs: number | null;
}

/**
 * The instants of the chases of something that is due first at `dueMs` and last at `endsMs`. Counted from the last
 * reader's instant, so that nobody is chased before they were asked for long enough; none is due at or after the
 * deadline, nor before everybody was asked. Instants are on the time line: a change of the clocks between moves none.
 */
export function chasePlan(chase: Chase | null, endsMs: number, deadlineMs: number | null): ChasePlan {
  if (!chase || (chase.from === 'before' && deadlineMs === null)) return { dues: [], listMs: null };
  const first =
    chase.from === 'after' ? endsMs + chase.hours * HOUR_MS : (deadlineMs ?? 0) - chase.hours * HOUR_MS;
  const all = Array.from({ length: chase.most }, (_, i) => first + i * chase.every * HOUR_MS);
  const dues = all.filter((dueMs) => dueMs > endsMs && (deadlineMs === null || dueMs < deadlineMs));
  const last = dues.at(-1) ?? endsMs;
  const after = last + chase.every * HOUR_MS;
  return { dues, listMs: chase.owners ? (deadlineMs === null ? after : Math.min(after, deadlineMs)) : null };
}

const span = (hours: number): string =>
  hours % 24 === 0 ? count(hours / 24, 'day', 'days') : count(hours, 'hour', 'hours');

/** "chasing those who have not after 1 day, at most twice, then a list to the owners of their groups". */
export function chaseWords(chase: Chase): string {
  const when =
    chase.from === 'after' ? `after ${span(chase.hours)}` : `${span(chase.hours)} before the deadline`;
  const times =
    chase.most === 1 ? 'once' : chase.most === 2 ? 'at most twice' : `at most ${chase.most} times`;
  const again = chase.most > 1 ? `, ${span(chase.every)} apart` : '';
  return `chasing those who have not ${when}, ${times}${again}${chase.owners ? ', then a list to the owners of their groups' : ''}`;
}
