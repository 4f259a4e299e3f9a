import type { AudienceContext } from '../../core/audience/includes.ts';
import { goesByDates, type Automation } from '../../core/automation/automation.ts';
import type { Fields, ReadAt } from '../../core/automation/condition.ts';
import {
  dateDue,
  datesBetween,
  dueBetween,
  personDatesDue,
  type OnDate,
  type OnPersonDate,
} from '../../core/automation/dates.ts';
import { fieldsOf } from '../../core/automation/fields.ts';
import type { Row } from '../../core/automation/items.ts';
import { isIn } from '../audience/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { recordsThatMay } from '../sheets/conditionStore.ts';
import { recordsByIds, sheetById } from '../sheets/store.ts';
import type { Around } from './around.ts';
import { peopleOnDays } from './dateStore.ts';
import { lineUpDeadlines } from './askCauses.ts';
import { personRows } from './personRows.ts';
import { sessionDatesDue, sessionRows } from './sessionDates.ts';
import { insertRun } from './runStore.ts';
import { liveAutomations, lookedUntil, type AutomationRow, type LiveAutomation } from './store.ts';

/** What sets a date apart from every other of its automation. */
export const dateKey = (dueMs: number): string => `date.${dueMs}`;

/** How far ahead dates are lined up, and how often they are looked at again: what changes in between is lined up at once. */
const AHEAD_MS = 15 * 60_000;
/** So many deadlines of asks are lined up in a look; what is left comes with the next. */
const MOST_DEADLINES = 1_000;
export const DATES_MS = 5 * 60_000;

/** The records whose date is due in a period, each with the instant, of whatever else its conditions say. */
async function recordsDue(
  db: Database,
  when: OnDate,
  fields: Fields,
  at: ReadAt,
  fromMs: number,
  toMs: number,
): Promise<{ row: Row; dueMs: number }[]> {
  const kind = fields.get(`record.${when.column}`)?.kind;
  if (kind !== 'date' && kind !== 'moment') return [];
  const records = await recordsThatMay(db, when.sheetId, dueBetween(when, kind, fromMs, toMs), fields, at);
  return records.flatMap(({ id, cells }) => {
    const dueMs = dateDue(when, cells[when.column] ?? '');
    return dueMs === null || dueMs < fromMs || dueMs >= toMs
      ? []
      : [
          {
            row: {
              id,
              values: new Map(Object.entries(cells).map(([column, value]) => [`record.${column}`, value])),
            },
            dueMs,
          },
        ];
  });
}

/** The people in a group whose day is due in a period, each with the instants. */
async function peopleDue(
  db: Database,
  when: OnPersonDate,
  now: AudienceContext,
  fromMs: number,
  toMs: number,
): Promise<{ personId: number; dueMs: number }[]> {
  if (!now.groups.has(when.groupId)) return [];
  const days = datesBetween(when.span, fromMs, toMs);
  const people = await peopleOnDays(
    db,
    isIn({ kind: 'group', id: when.groupId }, now),
    when.of?.name ?? null,
    days,
    when.yearly,
  );
  return people.flatMap(({ id, date, zone }) =>
    personDatesDue(when, date, zone, fromMs, toMs).map((dueMs) => ({ personId: id, dueMs })),
  );
}

/** The records, or people, whose date is due at an instant, read as they are now. */
export async function rowsDue(
  db: Database,
  around: Around,
  { when }: Automation,
  dueMs: number,
  now: AudienceContext,
  { fields, at }: { fields: Fields; at: ReadAt },
): Promise<Row[]> {
  if (when.kind === 'date')
    return (await recordsDue(db, when, fields, at, dueMs, dueMs + 1)).map(({ row }) => row);
  if (when.kind === 'session')
    return sessionRows(
      db,
      (await sessionDatesDue(db, when, dueMs, dueMs + 1)).map(({ date }) => date),
    );
  if (when.kind !== 'person date') return [];
  const due = await peopleDue(db, when, now, dueMs, dueMs + 1);
  return personRows(
    around,
    due.map(({ personId }) => personId),
    now.groups.get(when.groupId)?.name ?? 'the group',
    when,
    dueMs,
  );
}

/** The instants in a period at which dates set an automation off, in order. */
export async function datesDue(
  db: Database,
  { when }: Automation,
  fromMs: number,
  toMs: number,
): Promise<number[]> {
  const due: number[] = [];
  if (when.kind === 'date') {
    const sheet = await sheetById(db, when.sheetId);
    const at = { nowMs: fromMs, zone: when.zone };
    const found = await recordsDue(db, when, fieldsOf(when, sheet?.columns ?? []), at, fromMs, toMs);
    due.push(...found.map(({ dueMs }) => dueMs));
  }
  if (when.kind === 'person date')
    due.push(
      ...(await peopleDue(db, when, await audienceContext(db), fromMs, toMs)).map(({ dueMs }) => dueMs),
    );
  if (when.kind === 'session')
    due.push(...(await sessionDatesDue(db, when, fromMs, toMs)).map(({ dueMs }) => dueMs));
  return [...new Set(due)].sort((a, b) => a - b);
}

type Live = Pick<AutomationRow, 'id' | 'liveVersionId'> & { live: Automation };

/** Lines up a run for an instant; that which has one already is left as it is. */
async function lineUpAt(db: Database, { id, liveVersionId }: Live, dueMs: number): Promise<boolean> {
  return (
    liveVersionId !== null &&
    (await insertRun(db, {
      automationId: id,
      versionId: liveVersionId,
      causeKey: dateKey(dueMs),
      cause: { kind: 'date', dueMs },
      dueMs,
      ahead: true,
    }))
  );
}

/**
 * Lines up what dates set off in the next minutes, and what they did since an automation last looked, as after an outage. What
 * was due before it was put to work, or before a record was there, is not.
 *
 * @param live the live automations, where they have been read already
 * @returns how many runs were lined up
 */
export async function lineUpDates(db: Database, live?: readonly LiveAutomation[]): Promise<number> {
  const going = (live ?? (await liveAutomations(db))).filter(
    ({ live: { when } }) => goesByDates(when) || when.kind === 'ask closes',
  );
  if (going.length === 0) return 0;
  const nowMs = Math.floor(await databaseNow(db));
  let linedUp = 0;
  for (const automation of going) {
    for (const dueMs of await datesDue(db, automation.live, automation.lookedUntilMs, nowMs + AHEAD_MS))
      if (await lineUpAt(db, automation, dueMs)) linedUp++;
    const { lookedUntilMs } = automation;
    linedUp += await lineUpDeadlines(db, automation, lookedUntilMs, nowMs + AHEAD_MS, MOST_DEADLINES);
    await lookedUntil(db, automation.id, nowMs);
  }
  return linedUp;
}

/** Lines up what the dates of a session set off in the next minutes, as soon as it is written. */
export async function lineUpSession(trx: Database, automation: Live): Promise<void> {
  const nowMs = await databaseNow(trx);
  for (const dueMs of await datesDue(trx, automation.live, nowMs, nowMs + AHEAD_MS))
    await lineUpAt(trx, automation, dueMs);
}

/** Lines up what the dates of some records set off in the next minutes, as soon as they are written. */
export async function lineUpRecords(trx: Database, automation: Live, ids: readonly number[]): Promise<void> {
  const { when } = automation.live;
  if (when.kind !== 'date') return;
  const nowMs = await databaseNow(trx);
  const records = await recordsByIds(trx, when.sheetId, ids);
  const due = new Set(records.map(({ cells }) => dateDue(when, cells[when.column] ?? '')));
  for (const dueMs of due)
    if (dueMs !== null && dueMs >= nowMs && dueMs < nowMs + AHEAD_MS) await lineUpAt(trx, automation, dueMs);
}
