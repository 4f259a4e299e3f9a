import { z } from 'zod';
import type { Problem } from '../content/announcement.ts';
import type { Method, OccurrenceState } from '../delivery/states.ts';
import type { PlannedBucket } from '../plan/buckets.ts';
import { quietUntil, type Quiet } from '../timing/quiet.ts';
import type { Forecast } from './forecast.ts';

/** When something reaches one reader. Instants are milliseconds since 1970. */
export interface ReaderDue {
  /** When it is due to them; null where they do not get it because the hour had passed. */
  dueMs: number | null;
  /** When it would have come but for their quiet hours. */
  quietFromMs: number | null;
}

/**
 * When an occurrence reaches a reader: at the bucket of their zone, or with the last one where their zone has none; and
 * not before their quiet hours end, where it waits for that. The engine writes its deliveries by the same rule.
 *
 * @param quiet the reader's own quiet hours; `quietOfAll` where they have none
 * @param waits whether matter of this importance waits
 */
export function dueToReader(
  buckets: readonly PlannedBucket[],
  reader: { zone: string; quiet: Quiet | null },
  quietOfAll: Quiet | null,
  waits: boolean,
): ReaderDue {
  const own = buckets.find((bucket) => bucket.zone === '' || bucket.zone === reader.zone);
  const last = buckets
    .filter((bucket) => bucket.pastHour !== 'not')
    .reduce<PlannedBucket | undefined>((a, b) => (!a || b.dueMs >= a.dueMs ? b : a), undefined);
  const bucket = own ?? last;
  if (!bucket || bucket.pastHour === 'not') return { dueMs: null, quietFromMs: null };
  const until = waits ? quietUntil(bucket.dueMs, reader.zone, reader.quiet ?? quietOfAll) : bucket.dueMs;
  return { dueMs: until, quietFromMs: until > bucket.dueMs ? bucket.dueMs : null };
}

/** One recipient as the rehearsal shows them. */
export interface RehearsedPerson extends ReaderDue {
  id: number;
  name: string;
  station: string | null;
  zone: string;
  methods: Method[];
  /** Why they are in. */
  reason: string;
  /** What does not reach them, and why. */
  note: string | null;
}

export const REHEARSAL_FILTERS = ['all', 'without mail', 'at rest', 'hour passed', 'not working'] as const;
export type RehearsalFilter = (typeof REHEARSAL_FILTERS)[number];

export const rehearsalPageSchema = z.object({
  filter: z.enum(REHEARSAL_FILTERS).default('all'),
  search: z.string().max(100).default(''),
  afterName: z.string().max(200).optional(),
  afterId: z.coerce.number().int().positive().optional(),
});

export interface RehearsalPage {
  people: RehearsedPerson[];
  next: { name: string; id: number } | null;
}

/** Another going-out that reaches some of the same people within the chosen time. */
export interface Collision {
  occurrenceId: number;
  title: string;
  state: OccurrenceState;
  dueMs: number;
  people: number;
}

/** The whole dry run of a send, but for its recipients, which come page by page. */
export interface Rehearsal {
  sentence: string;
  forecast: Forecast;
  /** Within so many hours before and after. */
  within: number;
  collisions: Collision[];
  /** With what else of that day it comes in one mail and one push message, for how many, and when. */
  bundled: {
    people: number;
    firstMs: number;
    lastMs: number;
    withOthers: { occurrenceId: number; title: string; people: number }[];
  } | null;
  /** What each outside place would be handed, or why that cannot be written. */
  outside: { name: string; body: string | null; problem: string | null }[];
  /** How many of its people get how many things that day, this one included and a bundle counting as one; the fullest first. */
  load: { things: number; people: number }[];
  /** The day the load is counted for, in the author's zone: an instant on it. */
  dayMs: number;
  problems: Problem[];
  warnings: Problem[];
  /** How long it took the server, in milliseconds. */
  tookMs: number;
}
