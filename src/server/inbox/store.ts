import type { AskKind } from '../../core/asks/askWords.ts';
import type { Importance } from '../../core/content/announcement.ts';
import { change, idsIn, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { PICTURE } from '../senders/store.ts';

export interface InboxRow {
  occurrenceId: number;
  wentMs: number;
  title: string;
  byline: string;
  importance: Importance;
  excerpt: string;
  asked: number;
  answeredMs: number | null;
  deadlineMs: number | null;
  readMs: number | null;
  /** Sent by the reader themselves: never new to them. */
  own: number;
  /** Of a chase: what it follows up. */
  chases: number | null;
  asks: AskKind;
  agrees: number;
}

const row = (
  deliveries: string,
): string => `SELECT d.occurrence_id AS occurrenceId, ${ms('d.went_at')} AS wentMs, v.title, v.byline, v.importance,
    IF(o.withdrawn_at IS NULL, v.excerpt, CONCAT('Withdrawn: ', o.withdrawn_note)) AS excerpt,
    r.person_id IS NOT NULL AND o.withdrawn_at IS NULL AS asked, ${ms('r.answered_at')} AS answeredMs,
    ${ms('o.deadline_at')} AS deadlineMs, ${ms('o.withdrawn_at')} AS withdrawnMs, o.withdrawn_note AS withdrawnNote,
    ${ms('d.read_at')} AS readMs, s.created_by = d.person_id AS own, o.chases,
    JSON_VALUE(s.plan, '$.ask.kind') AS asks,
    COALESCE(JSON_VALUE(s.plan, '$.ask.statement'), '') <> '' AS agrees
  FROM ${deliveries} d JOIN occurrences o ON o.id = d.occurrence_id JOIN sends s ON s.id = o.send_id
    JOIN announcement_versions v ON v.id = o.version_id
    LEFT JOIN roll r ON r.occurrence_id = COALESCE(o.chases, d.occurrence_id) AND r.person_id = d.person_id`;

/** What this person still has to answer, the nearest deadline first. */
export function unanswered(db: Database, personId: number, most: number): Promise<InboxRow[]> {
  // From what waits for them, which is little: where there are few occurrences the optimiser begins with all of those.
  return rows(
    db,
    `SELECT w.* FROM (
       SELECT r.occurrence_id AS occurrenceId, ${ms('d.went_at')} AS wentMs, v.title, v.byline, v.importance, v.excerpt,
         1 AS asked, NULL AS answeredMs, ${ms('o.deadline_at')} AS deadlineMs, ${ms('d.read_at')} AS readMs, s.created_by = r.person_id AS own, NULL AS chases,
         JSON_VALUE(s.plan, '$.ask.kind') AS asks,
    COALESCE(JSON_VALUE(s.plan, '$.ask.statement'), '') <> '' AS agrees
       FROM roll r FORCE INDEX (waiting_for_person)
         STRAIGHT_JOIN deliveries d ON d.occurrence_id = r.occurrence_id AND d.person_id = r.person_id AND d.method = 'inbox'
           AND d.state = 'delivered'
         STRAIGHT_JOIN occurrences o ON o.id = r.occurrence_id STRAIGHT_JOIN sends s ON s.id = o.send_id
         STRAIGHT_JOIN announcement_versions v ON v.id = o.version_id
       WHERE r.person_id = ? AND r.answered_at IS NULL AND o.withdrawn_at IS NULL
         AND NOT EXISTS (SELECT 1 FROM asks a WHERE a.occurrence_id = r.occurrence_id
           AND (a.closed_at IS NOT NULL OR a.closes_at <= NOW(3)))) w
     ORDER BY w.deadlineMs IS NULL, w.deadlineMs, w.wentMs DESC LIMIT ?`,
    [personId, most],
  );
}

/** A page of what came, the latest first, from before the last one of the page before. */
export function inboxPage(
  db: Database,
  personId: number,
  before: { wentMs: number; id: number } | null,
  most: number,
): Promise<InboxRow[]> {
  // The page is picked from the index first and only then joined: otherwise the optimiser may read and sort the
  // whole inbox.
  const order = 'ORDER BY d.went_at DESC, d.occurrence_id DESC';
  const page = (further: string): string =>
    `${row(`(SELECT d.* FROM deliveries d WHERE d.person_id = ? AND d.method = 'inbox' AND d.state = 'delivered'
       ${further} ${order} LIMIT ?)`)} ${order}`;
  if (!before) return rows(db, page(''), [personId, most]);
  const at = new Date(before.wentMs);
  return rows(db, page('AND d.went_at <= ? AND (d.went_at < ? OR d.occurrence_id < ?)'), [
    personId,
    at,
    at,
    before.id,
    most,
  ]);
}

/** One thing that came to somebody, with which text of what. */
export interface OneItem extends InboxRow {
  versionId: number;
  plan: string;
  correctedMs: number | null;
  correction: string | null;
  withdrawnMs: number | null;
  withdrawnNote: string | null;
  senderPicture: string | null;
}

/** Notes that somebody opened what came to them, the first time. */
export async function markRead(db: Database, occurrenceId: number, personId: number): Promise<void> {
  await change(
    db,
    "UPDATE deliveries SET read_at = NOW(3) WHERE occurrence_id = ? AND person_id = ? AND method = 'inbox' AND read_at IS NULL",
    [occurrenceId, personId],
  );
}

/** One thing that came to this person, with which version of what; nothing where it did not. */
export async function inboxItem(
  db: Database,
  personId: number,
  occurrenceId: number,
): Promise<OneItem | undefined> {
  const [found] = await rows<OneItem>(
    db,
    `${row('deliveries').replace('SELECT ', `SELECT o.version_id AS versionId, s.plan, ${ms('o.corrected_at')} AS correctedMs, o.correction, ${PICTURE}, `)}
     WHERE d.occurrence_id = ? AND d.person_id = ? AND d.method = 'inbox' AND d.state = 'delivered'`,
    [occurrenceId, personId],
  );
  return found;
}

/** Notes everything that came to somebody's inbox as read; gives how much of it was not. */
export const markAllRead = (db: Database, personId: number): Promise<number> =>
  change(
    db,
    `UPDATE deliveries SET read_at = NOW(3)
     WHERE person_id = ? AND method = 'inbox' AND state = 'delivered' AND read_at IS NULL`,
    [personId],
  );

/**
 * How somebody reads what is theirs.
 *
 * @returns whether they are here for the first time, not having said yet that they read what is here; and the boards they have
 *   muted or put out of sight
 */
export async function waysOfReading(
  db: Database,
  personId: number,
): Promise<{ fresh: boolean; muted: ReadonlySet<number> }> {
  const [row] = await rows<{ fresh: number; muted: string | null }>(
    db,
    `SELECT p.welcomed_at IS NULL AS fresh, (SELECT JSON_ARRAYAGG(f.subject_id) FROM follows f
       WHERE f.person_id = p.id AND f.subject = 'board' AND f.choice IN ('mute', 'hide')) AS muted
     FROM people p WHERE p.id = ?`,
    [personId],
  );
  return { fresh: row?.fresh === 1, muted: new Set(idsIn(row?.muted ?? null)) };
}

/** Notes that somebody has read what is here. */
export const markWelcomed = (db: Database, personId: number): Promise<number> =>
  change(db, 'UPDATE people SET welcomed_at = NOW(3) WHERE id = ? AND welcomed_at IS NULL', [personId]);

/** Whether the hour an occurrence was meant for had passed in a zone when it was sent, so that it came later there. */
export async function hourPassed(db: Database, occurrenceId: number, zone: string): Promise<boolean> {
  const found = await rows(
    db,
    `SELECT 1 FROM buckets WHERE occurrence_id = ? AND zone = ? AND fate IN ('at once', 'next day')`,
    [occurrenceId, zone],
  );
  return found.length > 0;
}
