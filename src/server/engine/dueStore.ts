import { CONSUMER_NAMES } from '../../core/events/consumer.ts';
import { askDue } from '../asks/askStore.ts';
import { RUN_DUE } from '../automations/runStore.ts';
import { REMINDER_DUE } from '../calendar/dateStore.ts';
import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { CALCULATING_DUE } from '../sheets/calculatingStore.ts';
import { letterDue } from '../database/letterClaims.ts';
import { HANDOVER_DUE } from '../gateways/outStore.ts';
import { BUNDLE_DUE, noticeDue } from '../notices/store.ts';
import { MAIL_DUE } from './mailStore.ts';
import { BUCKET_DUE, REST_END } from './store.ts';

/** What an engine's loops wait for. */
export const DUE_KINDS = [
  'buckets',
  'mail',
  'rest',
  'asks',
  'notices by mail',
  'notices by push',
  'bundles by push',
  'access letters',
  'confirmations of sign-ups',
  'reminders of sessions',
  'calendars',
  'record sheets',
  'events',
  'automations',
  'ways out',
] as const;
export type DueKind = (typeof DUE_KINDS)[number];

/** SQL for the next instant at which events are to be followed up: now, where some are not, or those set aside again. */
const eventsDue = (): string => {
  const names = CONSUMER_NAMES.map((name) => `'${name}'`).join(', ');
  return `SELECT IF(EXISTS (SELECT 1 FROM events WHERE position IS NULL)
      OR (SELECT MIN(position) FROM event_positions WHERE name IN (${names})) < (SELECT position FROM event_positions WHERE name = 'last'),
    NOW(3), (SELECT MIN(try_at) FROM set_aside WHERE given_up_at IS NULL AND kind IN (${names})))`;
};

const dueSql = (): Record<DueKind, string> => ({
  buckets: BUCKET_DUE,
  mail: MAIL_DUE,
  rest: REST_END,
  asks: askDue(),
  'notices by mail': noticeDue('mail'),
  'notices by push': noticeDue('push'),
  'bundles by push': BUNDLE_DUE,
  'access letters': letterDue('access_letters'),
  'confirmations of sign-ups': letterDue('sign_ups'),
  'reminders of sessions': REMINDER_DUE,
  calendars: 'SELECT MIN(try_at) FROM followed_calendars',
  'record sheets': `SELECT LEAST(COALESCE((${CALCULATING_DUE}), t.try_at), COALESCE(t.try_at, (${CALCULATING_DUE}))) FROM (SELECT MIN(try_at) AS try_at FROM sheet_sources) t`,
  events: eventsDue(),
  automations: RUN_DUE,
  'ways out': HANDOVER_DUE,
});

/** What is due when, each kind, as the database stands at `nowMs` by its clock. Instants in milliseconds since 1970. */
export interface DueTimes {
  nowMs: number;
  /** The place of the last event that has one. */
  place: number;
  due: Record<DueKind, number | null>;
}

const sql = dueSql();
const STATEMENT = `SELECT ${ms('NOW(3)')} AS nowMs, CAST(COALESCE((SELECT position FROM event_positions WHERE name = 'last'), 0) AS SIGNED) AS place,
  ${DUE_KINDS.map((kind, at) => `${ms(`(${sql[kind]})`)} AS d${at}`).join(',\n  ')}`;

/** Whether anything happened, read in a statement that costs next to nothing. */
export interface Glance {
  /** The place of the last event that has one. */
  place: number;
  /** Whether events have none yet. */
  more: boolean;
}

/** Reads whether anything happened since it was last looked what is due. */
export async function glance(db: Database): Promise<Glance> {
  const [row] = await rows<{ place: number | null; more: number }>(
    db,
    `SELECT (SELECT position FROM event_positions WHERE name = 'last') AS place,
       EXISTS (SELECT 1 FROM events WHERE position IS NULL) AS more`,
  );
  return { place: row?.place ?? 0, more: row?.more === 1 };
}

/** Reads in one statement when the next of each kind is due: each is the first of an index. */
export async function dueTimes(db: Database): Promise<DueTimes> {
  const [row] = await rows<Record<string, number | null>>(db, STATEMENT);
  if (!row) throw new Error('The database did not tell what is due');
  return {
    nowMs: row.nowMs ?? 0,
    place: row.place ?? 0,
    due: Object.fromEntries(DUE_KINDS.map((kind, at) => [kind, row[`d${at}`] ?? null])) as DueTimes['due'],
  };
}
