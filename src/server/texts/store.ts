import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

export interface PostText {
  id: number;
  versionId: number;
  by: string;
  atMs: number;
  replies: number;
}

/** What stands on a board, a page of it after a post: each text once, also where it stands in parts, and nothing that was withdrawn. */
export const postTexts = (db: Database, boardId: number, after: number, most: number): Promise<PostText[]> =>
  rows(
    db,
    `SELECT o.id, o.version_id AS versionId, COALESCE(NULLIF(v.byline, ''), a.shown_name) AS \`by\`, ${ms('o.posted_at')} AS atMs, o.replies
     FROM posts o JOIN announcement_versions v ON v.id = o.version_id JOIN people a ON a.id = o.author_id
       LEFT JOIN occurrences c ON c.id = o.occurrence_id
     WHERE o.board_id = ? AND o.state = 'up' AND o.part = 1 AND c.withdrawn_at IS NULL AND o.id > ? ORDER BY o.id LIMIT ?`,
    [boardId, after, most],
  );
