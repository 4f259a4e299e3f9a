import { EMPTY_PLAN, type Plan } from '../../core/plan/plan.ts';
import { readPlan, storedPlan } from '../../core/stored.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { insertMany, insertOne } from '../database/insertMany.ts';
import { ms } from '../database/instant.ts';
import { notAside } from '../aside/store.ts';

export async function sendByKey(
  db: Database,
  createdBy: number,
  key: string,
): Promise<{ occurrenceId: number; announcementId: number } | undefined> {
  const [row] = await rows<{ occurrenceId: number; announcementId: number }>(
    db,
    `SELECT o.id AS occurrenceId, s.announcement_id AS announcementId
     FROM sends s JOIN occurrences o ON o.send_id = s.id
     WHERE s.created_by = ? AND s.idempotency_key = ?`,
    [createdBy, key],
  );
  return row;
}

export interface NewSend {
  announcementId: number;
  versionId: number;
  createdBy: number;
  plan: Plan;
  key: string;
  kind?: 'send' | 'test' | 'correction';
  /** The run of an automation that says it, and whether it is for one person. */
  runId?: number;
  toOne?: boolean;
  /** The way in it came by. */
  hookId?: number;
}

const sendRow = (send: NewSend): Record<string, unknown> => ({
  announcement_id: send.announcementId,
  version_id: send.versionId,
  created_by: send.createdBy,
  plan: storedPlan(send.plan),
  idempotency_key: send.key,
  kind: send.kind ?? 'send',
  run_id: send.runId ?? null,
  hook_id: send.hookId ?? null,
  to_one: send.toOne ?? false,
});

/** Writes a send; its occurrences are planned by `insertOccurrence`. Gives its id. */
export const insertSend = (db: Database, send: NewSend): Promise<number> =>
  insertOne(db, 'sends', sendRow(send));

/** As `insertSend`, for several; gives their ids, in their order. */
export const insertSends = (db: Database, made: readonly NewSend[]): Promise<number[]> =>
  insertMany(db, 'sends', made.map(sendRow));

export interface SendRow {
  id: number;
  announcementId: number;
  versionId: number;
  createdBy: number;
  state: 'active' | 'paused' | 'ended';
  plan: Plan;
  /** Whether its plan cannot be read; `plan` is then empty. */
  unreadable: boolean;
}

const SEND = `SELECT s.id, s.announcement_id AS announcementId, s.version_id AS versionId, s.created_by AS createdBy,
    s.state, s.plan FROM sends s`;

/** In a statement that names sends `s`: one of them, or of its chases; its id twice. */
export const SEND_OR_ITS_CHASES = '(s.id = ? OR s.chases = ?)';

/** A plan as it is stored; an empty one, marked, where it cannot be read: one bad row must not hold up the others. */
export function planOrNone(json: string): { plan: Plan; unreadable: boolean } {
  try {
    return { plan: readPlan(json), unreadable: false };
  } catch {
    return { plan: EMPTY_PLAN, unreadable: true };
  }
}

type StoredSend = Omit<SendRow, 'plan' | 'unreadable'> & { plan: string };
const readSend = (row: StoredSend): SendRow => ({ ...row, ...planOrNone(row.plan) });

/** Recurring sends that go on beyond what is planned of them, with an occurrence by which they can be opened. */
export async function recurringBeyond(
  db: Database,
  beforeMs: number,
  authorId: number | null,
): Promise<{ occurrenceId: number; plannedUntilMs: number }[]> {
  return rows(
    db,
    `SELECT MAX(o.id) AS occurrenceId, ${ms('s.planned_until')} AS plannedUntilMs
     FROM sends s JOIN occurrences o ON o.send_id = s.id
     WHERE s.recurring = TRUE AND s.state = 'active' AND s.planned_until < ? AND (? IS NULL OR s.created_by = ?)
     GROUP BY s.id, s.planned_until LIMIT 200`,
    [new Date(beforeMs), authorId, authorId],
  );
}

/** A send, held until the transaction ends, so that of several who would change it one goes after the other. */
export async function lockSend(db: Database, id: number): Promise<SendRow | undefined> {
  const [row] = await rows<StoredSend>(db, `${SEND} WHERE s.id = ? FOR UPDATE`, [id]);
  return row && readSend(row);
}

/** Recurring sends that are planned less far ahead than so many days. */
export async function toBePlanned(db: Database, days: number, most: number): Promise<SendRow[]> {
  const found = await rows<StoredSend>(
    db,
    `${SEND} WHERE s.recurring = TRUE AND s.state IN ('active', 'paused')
       AND (s.planned_until IS NULL OR s.planned_until < NOW(3) + INTERVAL ? DAY) AND ${notAside('planning', 's.id')} LIMIT ?`,
    [days, most],
  );
  return found.map(readSend);
}

export async function notePlanned(db: Database, sendId: number, untilMs: number): Promise<void> {
  await change(db, 'UPDATE sends SET planned_until = ? WHERE id = ?', [new Date(untilMs), sendId]);
}

/** The latest occurrence of a send, or null. */
export async function latestOf(db: Database, sendId: number): Promise<number | null> {
  const [row] = await rows<{ id: number | null }>(
    db,
    'SELECT MAX(id) AS id FROM occurrences WHERE send_id = ?',
    [sendId],
  );
  return row?.id ?? null;
}

/** The text a send goes out with from now on. */
export async function currentVersion(db: Database, sendId: number): Promise<number> {
  const [row] = await rows<{ versionId: number }>(
    db,
    'SELECT version_id AS versionId FROM sends WHERE id = ?',
    [sendId],
  );
  return row?.versionId ?? 0;
}

/** Gives a recurring send another plan and text. Its occurrences are planned anew by the caller. */
export async function changeSend(db: Database, id: number, versionId: number, plan: Plan): Promise<void> {
  await change(
    db,
    'UPDATE sends SET version_id = ?, plan = ?, planned_until = NULL, chase_send_id = NULL WHERE id = ?',
    [versionId, storedPlan(plan), id],
  );
}

/** Gives what of a recurring send was moved by hand, and has not begun, another text; gives which. */
export async function giveMovedText(
  db: Database,
  sendId: number,
  versionId: number,
): Promise<{ id: number; endsMs: number; deadlineMs: number | null }[]> {
  const found = await rows<{ id: number; endsMs: number; deadlineMs: number | null }>(
    db,
    `SELECT id, ${ms('ends_at')} AS endsMs, ${ms('deadline_at')} AS deadlineMs FROM occurrences
     WHERE send_id = ? AND state = 'scheduled' AND moved_to IS NOT NULL FOR UPDATE`,
    [sendId],
  );
  if (found.length > 0)
    await change(
      db,
      `UPDATE occurrences SET version_id = ? WHERE id IN (${found.map(() => '?').join(', ')}) AND state = 'scheduled'`,
      [versionId, ...found.map((row) => row.id)],
    );
  return found;
}

/** Moves a send from one state to another; false where it was not in it. */
export async function setSendState(
  db: Database,
  id: number,
  from: readonly SendRow['state'][],
  to: SendRow['state'],
): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE sends SET state = ? WHERE id = ? AND state IN (${from.map(() => '?').join(', ')})`,
    [to, id, ...from],
  );
  return changed === 1;
}
