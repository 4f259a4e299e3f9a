import { change, rows, type Database } from '../database/connection.ts';

/** What is planned of an announcement that tells of a date of the calendar, and has not begun to go. */
export interface PlannedOfDate {
  occurrenceId: number;
  sendId: number;
  dateId: number;
}

const DATE_OF = "CAST(JSON_VALUE(v.body, '$.event.sessionDateId') AS UNSIGNED)";

/** What is planned of the dates of a session, and of dates that are there no more. */
export function plannedOfSession(db: Database, sessionId: number): Promise<PlannedOfDate[]> {
  return rows(
    db,
    `SELECT o.id AS occurrenceId, o.send_id AS sendId, ${DATE_OF} AS dateId FROM occurrences o
       JOIN announcement_versions v ON v.id = o.version_id AND INSTR(v.body, '"sessionDateId"') > 0
       LEFT JOIN session_dates d ON d.id = ${DATE_OF}
     WHERE o.state = 'scheduled' AND (d.session_id = ? OR (d.id IS NULL AND ${DATE_OF} IS NOT NULL))
     ORDER BY o.id`,
    [sessionId],
  );
}

/** The drafts that tell of a date of a session, held until the transaction ends. */
export function draftsOfSession(
  db: Database,
  sessionId: number,
): Promise<{ id: number; authorId: number; dateId: number }[]> {
  const dateOf = "CAST(JSON_VALUE(a.content, '$.event.sessionDateId') AS UNSIGNED)";
  return rows(
    db,
    `SELECT a.id, a.author_id AS authorId, d.id AS dateId FROM announcements a JOIN session_dates d ON d.id = ${dateOf}
     WHERE a.state = 'draft' AND INSTR(a.content, '"sessionDateId"') > 0 AND d.session_id = ? ORDER BY a.id FOR UPDATE`,
    [sessionId],
  );
}

/** Gives what has not begun to go another text; false where it has begun. */
export async function giveText(db: Database, occurrenceId: number, versionId: number): Promise<boolean> {
  const changed = await change(
    db,
    "UPDATE occurrences SET version_id = ? WHERE id = ? AND state = 'scheduled'",
    [versionId, occurrenceId],
  );
  return changed === 1;
}

/** Whoever edits a draft meanwhile is told that it was changed. */
export const countRevision = (db: Database, announcementId: number): Promise<number> =>
  change(db, 'UPDATE announcements SET revision = revision + 1 WHERE id = ?', [announcementId]);
