import { change, rows, type Database } from '../database/connection.ts';

/**
 * Which of some posts a reader has not seen: they are past the reader's mark on their board, were not opened by
 * themselves, and what they show was read neither in the inbox nor on another board. What was forgotten to whom it went is old.
 */
export async function unreadAmong(
  db: Database,
  personId: number,
  ids: readonly number[],
): Promise<Set<number>> {
  if (ids.length === 0) return new Set();
  const found = await rows<{ id: number }>(
    db,
    `SELECT o.id FROM posts o WHERE o.id IN (${ids.map(() => '?').join(', ')}) AND ${UNREAD}`,
    [...ids, ...unreadBindings(personId)],
  );
  return new Set(found.map((row) => row.id));
}

/** A condition over `posts o`: its reader has not read it. Bind with `unreadBindings`. */
export const UNREAD = `o.author_id <> ? AND o.posted_at > COALESCE((SELECT m.read_to FROM board_marks m WHERE m.person_id = ? AND m.board_id = o.board_id), '1970-01-01')
  AND NOT EXISTS (SELECT 1 FROM post_reads r WHERE r.person_id = ? AND r.post_id = o.id)
  AND (o.occurrence_id IS NULL OR (
    NOT EXISTS (SELECT 1 FROM kept_counts k WHERE k.occurrence_id = o.occurrence_id AND k.deliveries_at IS NOT NULL)
    AND NOT EXISTS (SELECT 1 FROM deliveries d WHERE d.occurrence_id = o.occurrence_id AND d.person_id = ? AND d.method = 'inbox'
      AND d.read_at IS NOT NULL)
    AND NOT EXISTS (SELECT 1 FROM posts q JOIN board_marks n ON n.board_id = q.board_id AND n.person_id = ?
      WHERE q.occurrence_id = o.occurrence_id AND q.posted_at <= n.read_to)
    AND NOT EXISTS (SELECT 1 FROM posts q JOIN post_reads r ON r.post_id = q.id AND r.person_id = ?
      WHERE q.occurrence_id = o.occurrence_id)))`;
export const unreadBindings = (personId: number): number[] => Array<number>(6).fill(personId);

/** Most unread posts that are counted: past it a reader wants to know that there are many. */
const MOST_UNREAD = 100;

/** How many posts of each board a reader has not seen, counted up to a hundred. */
export async function unreadOn(
  db: Database,
  personId: number,
  boardIds: readonly number[],
): Promise<Map<number, number>> {
  const counts = new Map<number, number>();
  if (boardIds.length === 0) return counts;
  const one = `SELECT ? AS boardId, COUNT(*) AS n FROM (SELECT 1 FROM posts o FORCE INDEX (posts_of_board)
    WHERE o.board_id = ? AND o.state = 'up' AND o.part = 1 AND ${UNREAD} LIMIT ${MOST_UNREAD}) u`;
  const found = await rows<{ boardId: number; n: number }>(
    db,
    boardIds.map(() => one).join(' UNION ALL '),
    boardIds.flatMap((id) => [id, id, ...unreadBindings(personId)]),
  );
  for (const { boardId, n } of found) counts.set(boardId, n);
  return counts;
}

/** Notes which of some posts of a board somebody has read, and what of them lies in their inbox; gives how many were new to them. */
export async function markRead(
  db: Database,
  personId: number,
  boardId: number,
  ids: readonly number[],
): Promise<number> {
  const marks = ids.map(() => '?').join(', ');
  const here = `o.id IN (${marks}) AND o.board_id = ? AND o.state = 'up'`;
  const read = await change(
    db,
    `INSERT IGNORE INTO post_reads (person_id, post_id) SELECT ?, o.id FROM posts o WHERE ${here}`,
    [personId, ...ids, boardId],
  );
  await change(
    db,
    `UPDATE deliveries d JOIN posts o ON o.occurrence_id = d.occurrence_id SET d.read_at = NOW(3)
     WHERE ${here} AND d.person_id = ? AND d.method = 'inbox' AND d.state = 'delivered' AND d.read_at IS NULL`,
    [...ids, boardId, personId],
  );
  return read;
}

/** Notes as read in the inbox what a reader has seen on a board up to an instant. */
export async function readInInbox(
  db: Database,
  personId: number,
  boardId: number,
  toMs: number,
): Promise<void> {
  await change(
    db,
    `UPDATE deliveries d JOIN (SELECT o.occurrence_id FROM posts o WHERE o.board_id = ? AND o.state = 'up' AND o.posted_at <= ?
       AND o.occurrence_id IS NOT NULL ORDER BY o.posted_at DESC LIMIT 60) s ON s.occurrence_id = d.occurrence_id
     SET d.read_at = NOW(3) WHERE d.person_id = ? AND d.method = 'inbox' AND d.state = 'delivered' AND d.read_at IS NULL`,
    [boardId, new Date(toMs), personId],
  );
}
