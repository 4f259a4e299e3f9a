import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { PINNED } from './store.ts';

/**
 * Pins a post at the end of what is pinned, unless as many are pinned as may be; false where it could not be, or was.
 * The limit is part of the statement, so that two who pin at once cannot both take the last place.
 */
export async function pinPost(
  db: Database,
  post: { id: number; boardId: number },
  by: number,
  untilMs: number | null,
  limit: number,
): Promise<boolean> {
  // The board's row is the gate: whoever pins on it goes through one after the other.
  await rows(db, 'SELECT id FROM boards WHERE id = ? FOR UPDATE', [post.boardId]);
  const changed = await change(
    db,
    `UPDATE posts o SET o.pinned_at = NOW(3), o.pinned_by = ?, o.pin_until = ?, o.pin_place = COALESCE((SELECT last FROM
         (SELECT MAX(q.pin_place) + 1 AS last FROM posts q WHERE q.board_id = ?) w), 1)
     WHERE o.id = ? AND o.board_id = ? AND o.state = 'up' AND NOT (${PINNED})
       AND (SELECT n FROM (SELECT COUNT(*) AS n FROM posts o WHERE o.board_id = ? AND o.state = 'up' AND ${PINNED}) w) < ?`,
    [
      by,
      untilMs === null ? null : new Date(untilMs),
      post.boardId,
      post.id,
      post.boardId,
      post.boardId,
      limit,
    ],
  );
  return changed === 1;
}

/** Sets until when a pinned post is pinned. */
export const pinUntil = (db: Database, id: number, untilMs: number | null): Promise<number> =>
  change(db, `UPDATE posts o SET o.pin_until = ? WHERE o.id = ? AND ${PINNED}`, [
    untilMs === null ? null : new Date(untilMs),
    id,
  ]);

/** Unpins; false where it was not pinned. */
export async function unpinPost(db: Database, post: { id: number; boardId: number }): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE posts SET pinned_at = NULL, pinned_by = NULL, pin_until = NULL, pin_place = NULL
     WHERE id = ? AND board_id = ? AND pinned_at IS NOT NULL`,
    [post.id, post.boardId],
  );
  return changed === 1;
}

/** Sets the order of what is pinned on a board: first is first. */
export async function orderPins(db: Database, boardId: number, ids: readonly number[]): Promise<void> {
  for (const [i, id] of ids.entries())
    await change(
      db,
      'UPDATE posts SET pin_place = ? WHERE id = ? AND board_id = ? AND pinned_at IS NOT NULL',
      [i + 1, id, boardId],
    );
}

/** What has been pinned on some boards for longer than so many days and has no last day, the longest first. */
export function stalePins(
  db: Database,
  boardIds: readonly number[],
  days: number,
): Promise<{ postId: number; boardId: number; title: string; pinnedMs: number }[]> {
  if (boardIds.length === 0) return Promise.resolve([]);
  return rows(
    db,
    `SELECT o.id AS postId, o.board_id AS boardId, v.title, ${ms('o.pinned_at')} AS pinnedMs
     FROM posts o JOIN announcement_versions v ON v.id = o.version_id
     WHERE o.board_id IN (${boardIds.map(() => '?').join(', ')}) AND o.state = 'up' AND o.pinned_at < NOW(3) - INTERVAL ? DAY
       AND o.pin_until IS NULL ORDER BY o.pinned_at LIMIT 10`,
    [...boardIds, days],
  );
}
