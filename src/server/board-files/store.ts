import type { FileOrder } from '../../core/boards/files.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

export interface FileRow {
  key: string;
  name: string;
  bytes: number;
  /** The post it stands in, or whose reply it is; null of a key link. */
  postId: number | null;
  replyId: number | null;
  title: string;
  by: string;
  atMs: number | null;
  archived: number;
}

const FILE = "`key` VARCHAR(22) PATH '$.key', name VARCHAR(200) PATH '$.name', bytes BIGINT PATH '$.bytes'";
const PREFIX = '/files/'.length;
// What comes out of JSON has the collation of JSON; it is listed with what is kept in columns.
const WORDS = 'utf8mb4_unicode_520_ci';
const KEY = `j.\`key\` COLLATE ${WORDS}`;
const NAME = `j.name COLLATE ${WORDS}`;
const ORDER: Record<FileOrder, string> = {
  newest: 'f.atMs IS NULL DESC, f.atMs DESC, f.name',
  name: 'f.name, f.atMs DESC',
  size: 'f.bytes DESC, f.name',
};

/** The files that stand on a board now, in its posts, their replies and its key links; each as often as it stands there. */
export function filesOn(db: Database, boardId: number, order: FileOrder, most: number): Promise<FileRow[]> {
  return rows(
    db,
    `SELECT f.*, EXISTS (SELECT 1 FROM archived_files a WHERE a.board_id = ? AND a.upload_key = CONVERT(f.\`key\` USING ascii) COLLATE ascii_bin) AS archived FROM (
       SELECT ${KEY} AS \`key\`, ${NAME} AS name, j.bytes, CAST(p.id AS SIGNED) AS postId, CAST(NULL AS SIGNED) AS replyId, v.title, n.name AS \`by\`, ${ms('p.posted_at')} AS atMs
       FROM posts p JOIN announcement_versions v ON v.id = p.version_id JOIN people n ON n.id = p.author_id
         JOIN JSON_TABLE(v.body, '$.sections[*].files[*]' COLUMNS (${FILE})) j
       WHERE p.board_id = ? AND p.state = 'up' AND p.part = 1 AND v.body LIKE '%"files":[{%'
       UNION ALL
       SELECT ${KEY}, ${NAME}, j.bytes, CAST(p.id AS SIGNED), CAST(r.id AS SIGNED), v.title, n.name, ${ms('r.written_at')}
       FROM posts p JOIN replies r ON r.post_id = p.id JOIN announcement_versions v ON v.id = p.version_id
         JOIN people n ON n.id = r.author_id JOIN JSON_TABLE(r.files, '$[*]' COLUMNS (${FILE})) j
       WHERE p.board_id = ? AND p.state = 'up' AND r.state = 'up' AND JSON_LENGTH(r.files) > 0
       UNION ALL
       SELECT CONVERT(u.upload_key USING utf8mb4) COLLATE ${WORDS}, l.label, CAST(COALESCE(u.size, LENGTH(u.bytes)) AS SIGNED), NULL, NULL, '', '', NULL
       FROM board_links l JOIN uploads u ON u.upload_key = SUBSTRING(l.url, ${PREFIX + 1}, 22)
       WHERE l.board_id = ? AND l.url LIKE '/files/%') f
     ORDER BY ${ORDER[order]} LIMIT ?`,
    [boardId, boardId, boardId, boardId, most],
  );
}

/** Lists a file of a board apart, or again with the others; false where that is how it was. */
export async function setArchived(
  db: Database,
  boardId: number,
  key: string,
  archived: boolean,
  by: number,
): Promise<boolean> {
  const changed = archived
    ? await change(
        db,
        'INSERT IGNORE INTO archived_files (board_id, upload_key, archived_by) VALUES (?, ?, ?)',
        [boardId, key, by],
      )
    : await change(db, 'DELETE FROM archived_files WHERE board_id = ? AND upload_key = ?', [boardId, key]);
  return changed > 0;
}
