import { change, isDuplicate, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** Reports something; gives the id of the report, or null where this person had reported it. */
export async function insertReport(
  db: Database,
  report: {
    subject: 'post' | 'reply';
    subjectId: number;
    boardId: number;
    reporterId: number;
    reason: string;
  },
): Promise<number | null> {
  try {
    const [result] = (await db.raw(
      'INSERT INTO reports (subject, subject_id, board_id, reporter_id, reason) VALUES (?, ?, ?, ?, ?)',
      [report.subject, report.subjectId, report.boardId, report.reporterId, report.reason],
    )) as [{ insertId: number }, unknown];
    return result.insertId;
  } catch (error) {
    if (isDuplicate(error)) return null;
    throw error;
  }
}

export interface ReportRow {
  id: number;
  subject: 'post' | 'reply';
  subjectId: number;
  postId: number;
  title: string;
  document: string | null;
  reporter: string;
  reason: string;
  atMs: number;
}

/** What was reported on a board and is not settled, the first first; without what one person wrote themselves. */
export function openReports(db: Database, boardId: number, butBy: number): Promise<ReportRow[]> {
  return rows(
    db,
    `SELECT r.id, r.subject, r.subject_id AS subjectId, o.id AS postId, v.title, y.document, p.shown_name AS reporter, r.reason,
       ${ms('r.at')} AS atMs
     FROM reports r JOIN people p ON p.id = r.reporter_id
       LEFT JOIN replies y ON r.subject = 'reply' AND y.id = r.subject_id
       JOIN posts o ON o.id = IF(r.subject = 'post', r.subject_id, y.post_id)
       JOIN announcement_versions v ON v.id = o.version_id
     WHERE r.board_id = ? AND r.settled_at IS NULL AND COALESCE(y.author_id, o.author_id) <> ?
     ORDER BY r.id LIMIT 50`,
    [boardId, butBy],
  );
}

export async function reportById(
  db: Database,
  id: number,
): Promise<
  | {
      boardId: number;
      subject: 'post' | 'reply';
      subjectId: number;
      reporterId: number;
      /** Who wrote what was reported. */
      authorId: number;
      reason: string;
      settled: number;
    }
  | undefined
> {
  const [row] = await rows<NonNullable<Awaited<ReturnType<typeof reportById>>>>(
    db,
    `SELECT r.board_id AS boardId, r.subject, r.subject_id AS subjectId, r.reporter_id AS reporterId, r.reason,
       COALESCE(y.author_id, o.author_id) AS authorId, r.settled_at IS NOT NULL AS settled
     FROM reports r LEFT JOIN replies y ON r.subject = 'reply' AND y.id = r.subject_id
       LEFT JOIN posts o ON r.subject = 'post' AND o.id = r.subject_id WHERE r.id = ?`,
    [id],
  );
  return row;
}

/** Closes reports of something; gives how many were open. */
export const closeReports = (
  db: Database,
  by: number,
  of: { id: number } | { subject: 'post' | 'reply'; subjectId: number },
): Promise<number> =>
  'id' in of
    ? change(
        db,
        'UPDATE reports SET settled_at = NOW(3), settled_by = ? WHERE id = ? AND settled_at IS NULL',
        [by, of.id],
      )
    : change(
        db,
        'UPDATE reports SET settled_at = NOW(3), settled_by = ? WHERE subject = ? AND subject_id = ? AND settled_at IS NULL',
        [by, of.subject, of.subjectId],
      );

/** Who reported something, each once. */
export async function reportersOf(
  db: Database,
  subject: 'post' | 'reply',
  subjectId: number,
): Promise<number[]> {
  const found = await rows<{ id: number }>(
    db,
    'SELECT reporter_id AS id FROM reports WHERE subject = ? AND subject_id = ? ORDER BY reporter_id',
    [subject, subjectId],
  );
  return found.map((row) => row.id);
}
