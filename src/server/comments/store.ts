import type { DraftComment } from '../../core/desk/comment.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** The comments on a draft, the oldest first. */
export async function commentsOn(db: Database, announcementId: number): Promise<DraftComment[]> {
  return rows(
    db,
    `SELECT c.id, c.author_id AS authorId, p.name AS author, c.text, ${ms('c.written_at')} AS writtenMs,
       ${ms('c.settled_at')} AS settledMs, q.name AS settledBy
     FROM comments c JOIN people p ON p.id = c.author_id LEFT JOIN people q ON q.id = c.settled_by
     WHERE c.announcement_id = ? ORDER BY c.id LIMIT 500`,
    [announcementId],
  );
}

export async function insertComment(
  db: Database,
  comment: { announcementId: number; authorId: number; text: string; mentions: number[] },
): Promise<number> {
  const [id] = await db('comments').insert({
    announcement_id: comment.announcementId,
    author_id: comment.authorId,
    text: comment.text,
    mentions: JSON.stringify(comment.mentions),
  });
  return id ?? 0;
}

/** Marks a comment as settled, or open again; false where that is how it was. */
export async function markComment(
  db: Database,
  announcementId: number,
  id: number,
  settled: boolean,
  by: number,
): Promise<boolean> {
  const changed = await change(
    db,
    settled
      ? 'UPDATE comments SET settled_at = NOW(3), settled_by = ? WHERE id = ? AND announcement_id = ? AND settled_at IS NULL'
      : 'UPDATE comments SET settled_at = NULL, settled_by = NULL WHERE ? IS NOT NULL AND id = ? AND announcement_id = ? AND settled_at IS NOT NULL',
    [by, id, announcementId],
  );
  return changed === 1;
}

/** The drafts on which somebody is called and nobody has settled it, the latest first. */
export function callsOn(
  db: Database,
  personId: number,
  most: number,
): Promise<{ announcementId: number; author: string; text: string; writtenMs: number }[]> {
  return rows(
    db,
    `SELECT c.announcement_id AS announcementId, p.name AS author, c.text, ${ms('c.written_at')} AS writtenMs
     FROM comments c JOIN people p ON p.id = c.author_id JOIN announcements n ON n.id = c.announcement_id
     WHERE c.settled_at IS NULL AND n.state = 'draft' AND c.author_id <> ? AND JSON_CONTAINS(c.mentions, ?)
     ORDER BY c.id DESC LIMIT ?`,
    [personId, String(personId), most],
  );
}

/** The comments on a draft that are not settled, with whom each calls of those at the desk, and its author. */
export async function openCalls(
  db: Database,
  announcementId: number,
): Promise<{ id: number; author: string; text: string; called: number[] }[]> {
  const found = await rows<{ id: number; author: string; authorId: number; text: string; mentions: string }>(
    db,
    `SELECT c.id, a.name AS author, c.author_id AS authorId, c.text, c.mentions
     FROM comments c JOIN people a ON a.id = c.author_id
     WHERE c.announcement_id = ? AND c.settled_at IS NULL ORDER BY c.id`,
    [announcementId],
  );
  const named = found.map((row) => JSON.parse(row.mentions) as number[]);
  const ids = [...new Set(named.flat())];
  if (ids.length === 0) return [];
  const atDesk = await rows<{ id: number }>(
    db,
    `SELECT p.id FROM people p JOIN announcements n ON n.id = ?
     WHERE p.id IN (${ids.map(() => '?').join(', ')}) AND p.standing <> 'left'
       AND (p.role <> 'member' OR p.id = n.author_id)`,
    [announcementId, ...ids],
  );
  const known = new Set(atDesk.map((row) => row.id));
  return found.map(({ id, author, authorId, text }, i) => ({
    id,
    author,
    text,
    called: (named[i] ?? []).filter((person) => person !== authorId && known.has(person)),
  }));
}
