/**
 * How an attempt to hand over a mail failed: `refused` for good (SMTP 5xx), `temporary` (4xx, a time-out in the
 * middle), or the server `unreachable`, which says nothing about the mail itself.
 */
export interface Failure {
  kind: 'refused' | 'temporary' | 'unreachable';
  reason: string;
}

export type Verdict =
  { outcome: 'failed'; reason: string } | { outcome: 'retry'; waitMs: number; reason: string };

const FIRST_WAIT_MS = 2_000;
const LONGEST_WAIT_MS = 30 * 60_000;
/** An unreachable server is tried often: the moment it is back, everything that waits should go. */
const LONGEST_PAUSE_MS = 30_000;
const MOST_ATTEMPTS = 12;
/** RFC 5321 section 4.5.4.1 has a sender keep trying for four to five days; an announcement is stale before that. */
const GIVE_UP_AFTER_MS = 48 * 3_600_000;

/** A wait that doubles with each attempt up to a longest one, with jitter over its upper half. */
function growing(attempts: number, longestMs: number, random: number): number {
  const full = Math.min(longestMs, FIRST_WAIT_MS * 2 ** Math.min(20, Math.max(0, attempts - 1)));
  return Math.round(full / 2 + (random * full) / 2);
}

/**
 * What to do after a failed attempt. A permanent refusal fails at once. Otherwise the wait grows with each attempt,
 * with jitter so that ten thousand mails do not come back in one second. A server that cannot be reached does not
 * count against the mail: only age ends that.
 *
 * @param attempts attempts of this mail so far, this one included; for an unreachable server, how often in a row
 *   it could not be reached
 * @param ageMs time since the delivery was due
 * @param random a number in [0, 1)
 */
export function afterFailure(failure: Failure, attempts: number, ageMs: number, random: number): Verdict {
  const { kind, reason } = failure;
  if (kind === 'refused') return { outcome: 'failed', reason };
  if (ageMs >= GIVE_UP_AFTER_MS) return { outcome: 'failed', reason: `Given up after two days: ${reason}` };
  if (kind === 'temporary' && attempts >= MOST_ATTEMPTS)
    return { outcome: 'failed', reason: `Given up after ${attempts} attempts: ${reason}` };
  const longest = kind === 'unreachable' ? LONGEST_PAUSE_MS : LONGEST_WAIT_MS;
  return { outcome: 'retry', waitMs: growing(attempts, longest, random), reason };
}
