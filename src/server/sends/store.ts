import type { Importance } from '../../core/content/announcement.ts';
import type { SendState } from '../../core/delivery/states.ts';
import type { Need } from '../../core/desk/desk.ts';
import type { DeliveryCount, Trouble } from '../../core/sends/send.ts';
import { planSchema, type Plan } from '../../core/plan/plan.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

export async function sendByKey(
  db: Database,
  createdBy: number,
  key: string,
): Promise<{ occurrenceId: number; announcementId: number } | undefined> {
  const [row] = await rows<{ occurrenceId: number; announcementId: number }>(
    db,
    `SELECT o.id AS occurrenceId, s.announcement_id AS announcementId
     FROM sends s JOIN occurrences o ON o.send_id = s.id WHERE s.created_by = ? AND s.idempotency_key = ?`,
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
  dueMs: number;
  deadlineMs: number | null;
}

/** Plans a send: itself, its one occurrence, and that occurrence's one bucket. Gives the occurrence's id. */
export async function insertSend(db: Database, send: NewSend): Promise<number> {
  const [sendId] = await db('sends').insert({
    announcement_id: send.announcementId,
    version_id: send.versionId,
    created_by: send.createdBy,
    plan: JSON.stringify(send.plan),
    idempotency_key: send.key,
  });
  const due = new Date(send.dueMs);
  const [occurrenceId] = await db('occurrences').insert({
    send_id: sendId,
    sequence: 1,
    due_at: due,
    deadline_at: send.deadlineMs === null ? null : new Date(send.deadlineMs),
  });
  await db('buckets').insert({ occurrence_id: occurrenceId, due_at: due });
  return occurrenceId ?? 0;
}

/** Takes back what has not begun to go: true for the one caller who wins, never where the engine was first. */
export async function recallOccurrence(db: Database, occurrenceId: number): Promise<boolean> {
  const recalled = await change(
    db,
    "UPDATE buckets SET state = 'recalled' WHERE occurrence_id = ? AND state = 'planned'",
    [occurrenceId],
  );
  if (recalled === 0) return false;
  await change(db, "UPDATE occurrences SET state = 'recalled' WHERE id = ? AND state = 'scheduled'", [
    occurrenceId,
  ]);
  return true;
}

export interface Occurrence {
  id: number;
  announcementId: number;
  versionId: number;
  createdBy: number;
  createdByName: string;
  title: string;
  importance: Importance;
  plan: Plan;
  state: Exclude<SendState, 'draft'>;
  dueMs: number;
  sentMs: number | null;
  deadlineMs: number | null;
  failure: string | null;
}

const OCCURRENCE = `SELECT o.id, s.announcement_id AS announcementId, s.version_id AS versionId, s.created_by AS createdBy,
    p.name AS createdByName, v.title, v.importance, s.plan, o.state, ${ms('o.due_at')} AS dueMs,
    ${ms('o.sent_at')} AS sentMs, ${ms('o.deadline_at')} AS deadlineMs, o.failure
  FROM occurrences o JOIN sends s ON s.id = o.send_id JOIN announcement_versions v ON v.id = s.version_id
    JOIN people p ON p.id = s.created_by`;

type Row = Omit<Occurrence, 'plan'> & { plan: string };
const read = (row: Row): Occurrence => ({ ...row, plan: planSchema.parse(JSON.parse(row.plan)) });

export async function occurrenceById(db: Database, id: number): Promise<Occurrence | undefined> {
  const [row] = await rows<Row>(db, `${OCCURRENCE} WHERE o.id = ?`, [id]);
  return row && read(row);
}

export async function occurrencesByIds(
  db: Database,
  ids: readonly number[],
): Promise<Map<number, Occurrence>> {
  if (ids.length === 0) return new Map();
  const found = await rows<Row>(db, `${OCCURRENCE} WHERE o.id IN (${ids.map(() => '?').join(', ')})`, ids);
  return new Map(found.map((row) => [row.id, read(row)]));
}

/** What is due from one instant to before another, in order; one author's, or all. */
export async function occurrencesBetween(
  db: Database,
  fromMs: number,
  toMs: number,
  authorId: number | null,
): Promise<Occurrence[]> {
  const found = await rows<Row>(
    db,
    `${OCCURRENCE} WHERE o.due_at >= ? AND o.due_at < ? AND (? IS NULL OR s.created_by = ?)
     ORDER BY o.due_at, o.id LIMIT 500`,
    [new Date(fromMs), new Date(toMs), authorId, authorId],
  );
  return found.map(read);
}

/** The newest occurrence of an announcement that was not taken back. */
export async function latestOccurrence(
  db: Database,
  announcementId: number,
): Promise<Occurrence | undefined> {
  const [row] = await rows<Row>(
    db,
    `${OCCURRENCE} WHERE s.announcement_id = ? AND o.state <> 'recalled' ORDER BY o.id DESC LIMIT 1`,
    [announcementId],
  );
  return row && read(row);
}

/** Deliveries of some occurrences counted by method and state; late is more than a second after due. */
export async function deliveryCounts(
  db: Database,
  occurrenceIds: readonly number[],
  lateMs: number,
): Promise<Map<number, DeliveryCount[]>> {
  if (occurrenceIds.length === 0) return new Map();
  const found = await rows<Omit<DeliveryCount, 'late'> & { occurrenceId: number; late: string | null }>(
    db,
    `SELECT occurrence_id AS occurrenceId, method, state, COUNT(*) AS n, SUM(late_ms > ?) AS late, MAX(late_ms) AS worstLateMs
     FROM deliveries WHERE occurrence_id IN (${occurrenceIds.map(() => '?').join(', ')}) GROUP BY occurrence_id, method, state`,
    [lateMs, ...occurrenceIds],
  );
  const counts = new Map<number, DeliveryCount[]>();
  for (const { occurrenceId, ...row } of found)
    counts.set(occurrenceId, [...(counts.get(occurrenceId) ?? []), { ...row, late: Number(row.late ?? 0) }]);
  return counts;
}

/** Mail of an occurrence that failed or keeps being tried, failures first. */
export function troubles(db: Database, occurrenceId: number, most: number): Promise<Trouble[]> {
  return rows(
    db,
    `SELECT d.person_id AS personId, p.name, p.mail, d.state, d.attempts, d.reason, ${ms('d.try_at')} AS tryMs
     FROM deliveries d JOIN people p ON p.id = d.person_id
     WHERE d.occurrence_id = ? AND d.method = 'mail' AND d.state <> 'delivered' AND d.reason IS NOT NULL
     ORDER BY d.state = 'failed' DESC, p.name LIMIT ?`,
    [occurrenceId, most],
  );
}

/** Sends whose mail failed or is being tried again, of the last days; for "Needs you". */
export function needs(db: Database, days: number): Promise<Need[]> {
  return rows(
    db,
    `SELECT d.occurrence_id AS occurrenceId, v.title, s.created_by AS createdBy,
       IF(d.state = 'failed', 'failed', 'waiting') AS state, COUNT(*) AS n, MAX(d.reason) AS reason,
       MIN(${ms('d.try_at')}) AS tryMs
     FROM deliveries d JOIN occurrences o ON o.id = d.occurrence_id JOIN sends s ON s.id = o.send_id
       JOIN announcement_versions v ON v.id = s.version_id
     WHERE d.state IN ('failed', 'waiting', 'sending') AND o.due_at > NOW(3) - INTERVAL ? DAY
     GROUP BY d.occurrence_id, v.title, s.created_by, 4 HAVING MAX(d.reason) IS NOT NULL ORDER BY o.due_at DESC LIMIT 20`,
    [days],
  );
}

/** Puts the failed mail of an occurrence back in line; tells how many. */
export async function retryFailed(db: Database, occurrenceId: number): Promise<number> {
  const again = await change(
    db,
    `UPDATE deliveries SET state = 'waiting', try_at = NOW(3), attempts = 0
     WHERE occurrence_id = ? AND method = 'mail' AND state = 'failed'`,
    [occurrenceId],
  );
  if (again > 0)
    await change(db, "UPDATE occurrences SET state = 'going out', sent_at = NULL WHERE id = ?", [
      occurrenceId,
    ]);
  return again;
}
