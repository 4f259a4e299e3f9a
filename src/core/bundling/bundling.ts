import type { Importance } from '../content/announcement.ts';
import { quietUntil, type Quiet } from '../timing/quiet.ts';
import { wallAt, dayAfter, resolveMoment } from '../timing/wallTime.ts';

/** When routine mail and push messages come: each as it comes, or several together at hours of the reader's own day. */
export const BUNDLINGS = ['as it comes', 'hourly', 'three times', 'twice', 'daily'] as const;
export type Bundling = (typeof BUNDLINGS)[number];

const everyHour = Array.from({ length: 24 }, (_, hour) => `${String(hour).padStart(2, '0')}:00`);

/** The hours at which what was gathered goes, on the reader's clock, in order; none where nothing is gathered. */
export const BUNDLE_HOURS: Record<Bundling, readonly string[]> = {
  'as it comes': [],
  hourly: everyHour,
  'three times': ['09:00', '13:00', '17:00'],
  twice: ['09:00', '16:00'],
  daily: ['16:00'],
};

export const BUNDLING_WORDS: Record<Bundling, string> = {
  'as it comes': 'each as it comes',
  hourly: 'together at every full hour',
  'three times': 'together at 09:00, 13:00 and 17:00',
  twice: 'together at 09:00 and 16:00',
  daily: 'together once a day, at 16:00',
};

/**
 * When what is due at an instant goes to a reader for whom routine matter is gathered: at the next of their hours on
 * their clock in which they are not left in peace (at the end of their quiet hours, where all of them lie in these), or the
 * instant itself where nothing is gathered or it is one of these hours. Milliseconds since 1970. An hour that the clock skips
 * is settled as every wall-clock time is (RFC 5545 section 3.3.5).
 */
export function bundleEnd(
  dueMs: number,
  zone: string,
  bundling: Bundling,
  quiet: Quiet | null = null,
): number {
  const hours = BUNDLE_HOURS[bundling];
  if (hours.length === 0) return dueMs;
  const today = wallAt(dueMs, zone).slice(0, 10);
  const coming = [today, dayAfter(today)]
    .flatMap((day) => hours.map((hour) => resolveMoment({ wall: `${day}T${hour}`, zone }).epochMs))
    .filter((end) => end >= dueMs);
  const [next = dueMs] = coming;
  return coming.find((end) => quietUntil(end, zone, quiet) === end) ?? quietUntil(next, zone, quiet);
}

/** What must be answered by, or begins, within so long of a bundle does not wait for it, in milliseconds. */
export const BUNDLE_LEAD_MS = 3 * 3_600_000;

/** What decides whether a going-out may wait to be bundled. Instants are milliseconds since 1970. */
export interface Bundleable {
  importance: Importance;
  /** A test copy goes at once. */
  test: boolean;
  /** Whether it chases what was not answered. */
  chase: boolean;
  /** Till when it is to be answered. */
  deadlineMs: number | null;
  /** When the event it tells of begins. */
  eventMs: number | null;
}

/** Whether a going-out may wait for a bundle at some instant: routine matter, and not so late that it would be of no use. */
export const mayWaitFor = (what: Bundleable, endMs: number): boolean =>
  what.importance === 'routine' &&
  !what.test &&
  !what.chase &&
  [what.deadlineMs, what.eventMs].every((ms) => ms === null || ms >= endMs + BUNDLE_LEAD_MS);

/**
 * How routine matter comes to somebody: as they chose themselves; else as the groups they are in have it, of several the
 * one that lets it come most often; else as the organisation has it.
 */
export const bundlingFor = (chosen: {
  own: Bundling | null;
  groups: readonly Bundling[];
  ofAll: Bundling;
}): Bundling => chosen.own ?? BUNDLINGS.find((bundling) => chosen.groups.includes(bundling)) ?? chosen.ofAll;

/** "3 announcements: Rota for week 49, Lift out of order, …": the subject of a bundle, within so many characters. */
export function bundleTitle(titles: readonly string[], most = 110): string {
  const lead = `${titles.length} announcements: `;
  const words = titles.join(' · ');
  return lead.length + words.length <= most
    ? `${lead}${words}`
    : `${lead}${words.slice(0, most - lead.length - 2).trimEnd()} …`;
}
