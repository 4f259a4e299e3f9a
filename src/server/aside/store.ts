import type { ConsumerName } from '../../core/events/consumer.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** Work of the engine in which one row may fail without holding up the next. */
export type AsideKind = 'closing' | 'list' | 'joiners' | 'planning' | 'sending' | 'notice' | ConsumerName;

/** After so many failed attempts it is given up, until somebody has it tried again. */
export const MOST_ATTEMPTS = 10;
/** The first wait; each further one is twice as long, up to half an hour: ten attempts take about three quarters of an hour. */
const FIRST_WAIT_S = 5;
const LONGEST_WAIT_S = 1_800;

/** What an error is told as: its first line, without what a database adds of the statement. */
export function reasonOf(error: unknown): string {
  const message = error instanceof Error ? error.message : String(error);
  const said =
    'sqlMessage' in Object(error) ? String((error as { sqlMessage: unknown }).sqlMessage) : message;
  return (said.split('\n')[0] ?? '').slice(0, 300) || 'An error without words';
}

/**
 * Sets a row aside whose work failed: it is tried again after a growing wait, and given up after a stated number of
 * attempts. What failed stays as it was.
 *
 * @param occurrenceId the send it belongs to, for whoever is shown it; null where there is none
 */
export async function setAside(
  db: Database,
  kind: AsideKind,
  subjectId: number,
  occurrenceId: number | null,
  error: unknown,
): Promise<void> {
  await change(
    db,
    `INSERT INTO set_aside (kind, subject_id, occurrence_id, reason, try_at) VALUES (?, ?, ?, ?, NOW(3) + INTERVAL ? SECOND)
     ON DUPLICATE KEY UPDATE reason = VALUES(reason), attempts = attempts + 1,
       given_up_at = IF(attempts >= ?, NOW(3), NULL),
       try_at = NOW(3) + INTERVAL LEAST(?, ? * POW(2, LEAST(20, attempts - 1))) SECOND`,
    [
      kind,
      subjectId,
      occurrenceId,
      reasonOf(error),
      FIRST_WAIT_S,
      MOST_ATTEMPTS,
      LONGEST_WAIT_S,
      FIRST_WAIT_S,
    ],
  );
}

/** Notes at once that something was given up, where its attempts were counted elsewhere. */
export async function giveUp(
  db: Database,
  kind: AsideKind,
  subjectId: number,
  occurrenceId: number | null,
  reason: string,
): Promise<void> {
  await change(
    db,
    `INSERT INTO set_aside (kind, subject_id, occurrence_id, reason, try_at, given_up_at) VALUES (?, ?, ?, ?, NOW(3), NOW(3))
     ON DUPLICATE KEY UPDATE reason = VALUES(reason), given_up_at = NOW(3)`,
    [kind, subjectId, occurrenceId, reason.slice(0, 300)],
  );
}

/** A condition that holds for a row that is not set aside at this moment. */
export const notAside = (kind: AsideKind, id: string): string =>
  `NOT EXISTS (SELECT 1 FROM set_aside x WHERE x.kind = '${kind}' AND x.subject_id = ${id}
     AND (x.given_up_at IS NOT NULL OR x.try_at > NOW(3)))`;

/** Forgets that a row was set aside: its work is done, or is to be tried again at once. False where it was not. */
export async function takeUpAgain(db: Database, kind: AsideKind, subjectId: number): Promise<boolean> {
  return (await change(db, 'DELETE FROM set_aside WHERE kind = ? AND subject_id = ?', [kind, subjectId])) > 0;
}

/** Has what was set aside tried at once, with as many attempts as at first. False where it was not set aside. */
export const tryAsideNow = async (db: Database, kind: AsideKind, subjectId: number): Promise<boolean> =>
  (await change(
    db,
    'UPDATE set_aside SET attempts = 0, given_up_at = NULL, try_at = NOW(3) WHERE kind = ? AND subject_id = ?',
    [kind, subjectId],
  )) > 0;

export interface AsideRow {
  kind: AsideKind;
  subjectId: number;
  occurrenceId: number | null;
  title: string | null;
  createdBy: number | null;
  reason: string;
  attempts: number;
  tryMs: number;
  givenUp: number;
}

/** What is set aside, what was given up first. */
export const allAside = (db: Database, most: number): Promise<AsideRow[]> =>
  rows(
    db,
    `SELECT x.kind, x.subject_id AS subjectId, x.occurrence_id AS occurrenceId, v.title, s.created_by AS createdBy, x.reason,
       x.attempts, ${ms('x.try_at')} AS tryMs, x.given_up_at IS NOT NULL AS givenUp
     FROM set_aside x LEFT JOIN occurrences o ON o.id = x.occurrence_id LEFT JOIN sends s ON s.id = o.send_id
       LEFT JOIN announcement_versions v ON v.id = o.version_id
     ORDER BY x.given_up_at IS NULL, x.try_at LIMIT ?`,
    [most],
  );
