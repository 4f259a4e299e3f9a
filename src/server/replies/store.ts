import type { Doc } from '../../core/content/document.ts';
import { documentSchema } from '../../core/content/documentSchema.ts';
import type { FileLink } from '../../core/content/section.ts';
import { fileSchema } from '../../core/content/sectionSchema.ts';
import { z } from 'zod';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

export interface ReplyRow {
  id: number;
  postId: number;
  authorId: number;
  authorName: string;
  document: Doc;
  files: FileLink[];
  state: 'up' | 'hidden' | 'deleted';
  note: string | null;
  decidedBy: string | null;
  writtenMs: number;
  editedMs: number | null;
}

const REPLY = `SELECT r.id, r.post_id AS postId, r.author_id AS authorId, a.shown_name AS authorName, r.document, r.files, r.state,
    r.word AS note, d.name AS decidedBy, ${ms('r.written_at')} AS writtenMs, ${ms('r.edited_at')} AS editedMs
  FROM replies r JOIN people a ON a.id = r.author_id LEFT JOIN people d ON d.id = r.decided_by`;

type Stored = Omit<ReplyRow, 'document' | 'files'> & { document: string; files: string };
const files = z.array(fileSchema);
const read = (row: Stored): ReplyRow => ({
  ...row,
  document: documentSchema.parse(JSON.parse(row.document)),
  files: files.parse(JSON.parse(row.files)),
});

/** The latest replies to a post from before an id, in the order they were written. */
export async function repliesPage(
  db: Database,
  postId: number,
  before: number | null,
  most: number,
): Promise<ReplyRow[]> {
  const found = await rows<Stored>(
    db,
    `${REPLY} WHERE r.post_id = ? ${before === null ? '' : 'AND r.id < ?'} ORDER BY r.id DESC LIMIT ?`,
    before === null ? [postId, most] : [postId, before, most],
  );
  return found.map(read).reverse();
}

export async function replyById(db: Database, id: number): Promise<ReplyRow | undefined> {
  const [row] = await rows<Stored>(db, `${REPLY} WHERE r.id = ?`, [id]);
  return row && read(row);
}

export async function replyByKey(db: Database, authorId: number, key: string): Promise<number | undefined> {
  const [row] = await rows<{ id: number }>(
    db,
    'SELECT id FROM replies WHERE author_id = ? AND idempotency_key = ?',
    [authorId, key],
  );
  return row?.id;
}

/**
 * Adds a reply to a post that is up and takes replies, in one statement, so that none is added to what was taken down
 * or locked meanwhile; nothing where it was.
 */
export async function insertReply(
  db: Database,
  reply: { postId: number; authorId: number; document: Doc; files: FileLink[]; key: string },
): Promise<number | undefined> {
  const taken = await change(
    db,
    "UPDATE posts SET replies = replies + 1 WHERE id = ? AND state = 'up' AND locked_at IS NULL",
    [reply.postId],
  );
  if (taken !== 1) return undefined;
  const [id] = await db('replies').insert({
    post_id: reply.postId,
    author_id: reply.authorId,
    document: JSON.stringify(reply.document),
    files: JSON.stringify(reply.files),
    idempotency_key: reply.key,
  });
  return id;
}

/** Puts another text in a reply and keeps the one before; false where it is gone meanwhile. */
export async function editReply(db: Database, id: number, document: Doc): Promise<boolean> {
  await change(
    db,
    "INSERT INTO earlier_replies (reply_id, document) SELECT id, document FROM replies WHERE id = ? AND state = 'up'",
    [id],
  );
  const changed = await change(
    db,
    "UPDATE replies SET document = ?, edited_at = NOW(3) WHERE id = ? AND state = 'up'",
    [JSON.stringify(document), id],
  );
  return changed === 1;
}

/** Hides, shows or deletes a reply; false where it was in that state, or is deleted. */
export async function moveReply(
  db: Database,
  reply: { id: number; postId: number },
  to: ReplyRow['state'],
  by: number,
  note: string,
): Promise<boolean> {
  const changed = await change(
    db,
    "UPDATE replies SET state = ?, decided_by = ?, word = ? WHERE id = ? AND state <> ? AND state <> 'deleted'",
    [to, by, note === '' ? null : note, reply.id, to],
  );
  if (changed === 1)
    await change(
      db,
      "UPDATE posts SET replies = (SELECT COUNT(*) FROM replies r WHERE r.post_id = posts.id AND r.state = 'up') WHERE id = ?",
      [reply.postId],
    );
  return changed === 1;
}

/** The texts a reply had before, the latest first. */
export async function earlierReplies(db: Database, id: number): Promise<{ document: Doc; keptMs: number }[]> {
  const found = await rows<{ document: string; keptMs: number }>(
    db,
    `SELECT document, ${ms('kept_at')} AS keptMs FROM earlier_replies WHERE reply_id = ? ORDER BY id DESC LIMIT 50`,
    [id],
  );
  return found.map((row) => ({
    document: documentSchema.parse(JSON.parse(row.document)),
    keptMs: row.keptMs,
  }));
}

/** Those who wrote, replied to or follow a post, and have not muted it. */
export async function followersOfPost(db: Database, postId: number): Promise<number[]> {
  const found = await rows<{ id: number }>(
    db,
    `SELECT w.id FROM (
       SELECT author_id AS id FROM posts WHERE id = ? AND occurrence_id IS NULL
       UNION SELECT author_id FROM replies WHERE post_id = ? AND state = 'up'
       UNION SELECT person_id FROM follows WHERE subject = 'post' AND subject_id = ? AND choice = 'follow') w
     WHERE NOT EXISTS (SELECT 1 FROM follows f WHERE f.subject = 'post' AND f.subject_id = ? AND f.person_id = w.id
       AND f.choice = 'mute')`,
    [postId, postId, postId, postId],
  );
  return found.map((row) => row.id);
}

/** The posts some replies belong to, by the id of the reply. */
export async function postsOfReplies(db: Database, ids: readonly number[]): Promise<Map<number, number>> {
  if (ids.length === 0) return new Map();
  const found = await rows<{ id: number; postId: number }>(
    db,
    `SELECT id, post_id AS postId FROM replies WHERE id IN (${ids.map(() => '?').join(', ')})`,
    ids,
  );
  return new Map(found.map(({ id, postId }) => [id, postId]));
}

/** Replies that are up to what an occurrence put on boards. */
export async function repliesToOccurrence(db: Database, occurrenceId: number): Promise<number> {
  const [row] = await rows<{ n: number | string | null }>(
    db,
    "SELECT SUM(replies) AS n FROM posts WHERE occurrence_id = ? AND state = 'up'",
    [occurrenceId],
  );
  return Number(row?.n ?? 0);
}
