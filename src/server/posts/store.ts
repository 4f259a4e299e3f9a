import type { Body, Importance } from '../../core/content/announcement.ts';
import type { PostState } from '../../core/boards/board.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { insertMany } from '../database/insertMany.ts';
import { ms } from '../database/instant.ts';
import { PICTURE } from '../senders/store.ts';
import { UNREAD, unreadBindings } from './readStore.ts';
import { sharedBody } from './rendering.ts';

export interface PostRow {
  id: number;
  boardId: number;
  versionId: number;
  occurrenceId: number | null;
  authorId: number;
  authorName: string;
  postedMs: number;
  pinnedMs: number | null;
  pinUntilMs: number | null;
  title: string;
  byline: string;
  /** Of whom it stands under, for `pictureOf`; null where it has none. */
  senderPicture: string | null;
  importance: Importance;
  body: Body;
  part: number;
  parts: number;
  partSize: number;
  correctedMs: number | null;
  correction: string | null;
  state: PostState;
  note: string | null;
  decidedBy: string | null;
  locked: number;
  editedMs: number | null;
  originId: number | null;
  replies: number;
  /** The way in it came by, and who looks after that. */
  hookName: string | null;
  hookOwner: string | null;
  /** Whether it gives thanks. */
  thanked: number;
  /** When it was looked up. */
  nowMs: number;
}

/** A post where it is one line among others. */
export type PostLine = Pick<
  PostRow,
  'id' | 'boardId' | 'postedMs' | 'title' | 'byline' | 'authorName' | 'importance'
> & { excerpt: string; unread: boolean };

// The page is picked from the index first and only then joined: otherwise the optimiser may read and sort every post.
const postsOf = (
  page: string,
): string => `SELECT o.id, o.board_id AS boardId, o.version_id AS versionId, o.occurrence_id AS occurrenceId,
    o.author_id AS authorId, a.shown_name AS authorName, ${ms('o.posted_at')} AS postedMs,
    ${ms('IF(o.pin_until IS NULL OR o.pin_until > NOW(3), o.pinned_at, NULL)')} AS pinnedMs, ${ms('o.pin_until')} AS pinUntilMs,
    v.title, v.byline, ${PICTURE}, v.importance, v.body, o.part, o.parts, o.part_size AS partSize,
    ${ms('c.corrected_at')} AS correctedMs, c.correction, o.state, o.word AS note, d.name AS decidedBy,
    o.locked_at IS NOT NULL AS locked, ${ms('o.edited_at')} AS editedMs, o.origin_id AS originId, o.replies,
    h.name AS hookName, ho.name AS hookOwner, EXISTS (SELECT 1 FROM thanks t WHERE t.post_id = o.id) AS thanked, ${ms('NOW(3)')} AS nowMs
  FROM (${page}) o
    JOIN announcement_versions v ON v.id = o.version_id JOIN people a ON a.id = o.author_id
    LEFT JOIN people d ON d.id = o.decided_by LEFT JOIN occurrences c ON c.id = o.occurrence_id
    LEFT JOIN hooks_in h ON h.id = o.hook_id LEFT JOIN people ho ON ho.id = h.owner_id`;

async function posts(db: Database, page: string, order: string, bindings: unknown[]): Promise<PostRow[]> {
  const found = await rows<Omit<PostRow, 'body'> & { body: string }>(
    db,
    `${postsOf(page)} ORDER BY ${order}`,
    bindings,
  );
  return found.map((post) => ({ ...post, body: sharedBody(post.body) }));
}

const LATEST = 'o.posted_at DESC, o.id DESC';

export const PINNED = 'o.pinned_at IS NOT NULL AND (o.pin_until IS NULL OR o.pin_until > NOW(3))';

/** What is pinned, in its order. */
export function pinnedPosts(db: Database, boardId: number): Promise<PostRow[]> {
  return posts(
    db,
    `SELECT * FROM posts o WHERE o.board_id = ? AND o.state = 'up' AND ${PINNED} ORDER BY o.pin_place LIMIT 30`,
    'o.pin_place',
    [boardId],
  );
}

/** A page of posts, the latest first, from before the last one of the page before. */
export function postsPage(
  db: Database,
  boardId: number,
  before: { postedMs: number; id: number } | null,
  most: number,
  unreadBy: number | null = null,
): Promise<PostRow[]> {
  const at = before && new Date(before.postedMs);
  const further = [
    before ? 'AND o.posted_at <= ? AND (o.posted_at < ? OR o.id < ?)' : '',
    unreadBy === null ? '' : `AND ${UNREAD}`,
  ].join(' ');
  return posts(
    db,
    `SELECT * FROM posts o WHERE o.board_id = ? AND o.state = 'up' ${further} ORDER BY ${LATEST} LIMIT ?`,
    LATEST,
    [
      boardId,
      ...(before ? [at, at, before.id] : []),
      ...(unreadBy === null ? [] : unreadBindings(unreadBy)),
      most,
    ],
  );
}

/**
 * The latest posts on several boards, each thing once however many of them show it, and not what came to the reader's
 * inbox, where it is already. Each board is read by its index and only then are they merged.
 *
 * @param part from before a post, and no further back than an instant: of a reader to whom everything on their boards
 *   came to the inbox as well, all of it would be gone through otherwise
 */
export async function postsForReader(
  db: Database,
  personId: number,
  boardIds: readonly number[],
  part: { before: { postedMs: number; id: number } | null; sinceMs: number | null },
  most: number,
): Promise<PostLine[]> {
  if (boardIds.length === 0) return [];
  const { before, sinceMs } = part;
  const at = before && new Date(before.postedMs);
  const further = `${before ? 'AND o.posted_at <= ? AND (o.posted_at < ? OR o.id < ?)' : ''} ${sinceMs === null ? '' : 'AND o.posted_at >= ?'}`;
  const marks = boardIds.map(() => '?').join(', ');
  const one = `(SELECT o.id, o.posted_at FROM posts o WHERE o.board_id = ? AND o.state = 'up' AND o.part = 1 ${further}
    AND (o.occurrence_id IS NULL OR (
      NOT EXISTS (SELECT 1 FROM deliveries d WHERE d.occurrence_id = o.occurrence_id AND d.person_id = ? AND d.method = 'inbox'
        AND d.state = 'delivered')
      AND NOT EXISTS (SELECT 1 FROM posts q WHERE q.occurrence_id = o.occurrence_id AND q.board_id IN (${marks})
        AND q.part = 1 AND q.state = 'up' AND q.id < o.id)))
    ORDER BY ${LATEST} LIMIT ?)`;
  const ofOne = (boardId: number): unknown[] => [
    boardId,
    ...(before ? [at, at, before.id] : []),
    ...(sinceMs === null ? [] : [new Date(sinceMs)]),
    personId,
    ...boardIds,
    most,
  ];
  const found = await rows<Omit<PostLine, 'unread'> & { unread: number }>(
    db,
    `SELECT o.id, o.board_id AS boardId, ${ms('o.posted_at')} AS postedMs, v.title, v.byline, a.shown_name AS authorName,
       v.importance, v.excerpt, (${UNREAD}) AS unread
     FROM (SELECT m.id FROM (${boardIds.map(() => one).join(' UNION ALL ')}) m ORDER BY m.posted_at DESC, m.id DESC LIMIT ?) k
       JOIN posts o ON o.id = k.id JOIN announcement_versions v ON v.id = o.version_id JOIN people a ON a.id = o.author_id
     ORDER BY ${LATEST}`,
    [...unreadBindings(personId), ...boardIds.flatMap(ofOne), most],
  );
  return found.map((post) => ({ ...post, unread: post.unread === 1 }));
}

/** What waits for a board's moderators, the longest waiting first. */
export function heldPosts(db: Database, boardId: number): Promise<PostRow[]> {
  return posts(
    db,
    "SELECT * FROM posts o WHERE o.state = 'held' AND o.board_id = ? ORDER BY o.posted_at LIMIT 50",
    'o.posted_at',
    [boardId],
  );
}

/** Posts of one person on a board that are not up, the latest first. */
export function ownNotUp(db: Database, boardId: number, authorId: number): Promise<PostRow[]> {
  return posts(
    db,
    `SELECT * FROM posts o WHERE o.author_id = ? AND o.state IN ('held', 'returned', 'declined', 'hidden') AND o.board_id = ?
     ORDER BY o.id DESC LIMIT 20`,
    'o.id DESC',
    [authorId, boardId],
  );
}

export async function postById(db: Database, id: number): Promise<PostRow | undefined> {
  const [post] = await posts(db, 'SELECT * FROM posts o WHERE o.id = ?', 'o.id', [id]);
  return post;
}

/** Some posts, by their id. */
export async function postsByIds(db: Database, ids: readonly number[]): Promise<Map<number, PostRow>> {
  if (ids.length === 0) return new Map();
  const found = await posts(
    db,
    `SELECT * FROM posts o WHERE o.id IN (${ids.map(() => '?').join(', ')})`,
    'o.id',
    [...ids],
  );
  return new Map(found.map((post) => [post.id, post]));
}

export async function postByKey(
  db: Database,
  authorId: number,
  key: string,
): Promise<{ id: number; state: PostState } | undefined> {
  const [row] = await rows<{ id: number; state: PostState }>(
    db,
    'SELECT id, state FROM posts WHERE author_id = ? AND idempotency_key = ?',
    [authorId, key],
  );
  return row;
}

export interface NewPost {
  boardId: number;
  versionId: number;
  authorId: number;
  key: string;
  state?: 'up' | 'held';
  originId?: number | null;
  /** The way in it came by. */
  hookId?: number | null;
  /** Which part of how many it is, of so many sections each. */
  part?: { number: number; of: number; size: number };
}

export async function insertMemberPost(db: Database, post: NewPost): Promise<number> {
  const [id] = await insertMemberPosts(db, [post]);
  return id ?? 0;
}

/** Puts posts on boards; gives their ids, in their order. */
export const insertMemberPosts = (db: Database, posts: readonly NewPost[]): Promise<number[]> =>
  insertMany(
    db,
    'posts',
    posts.map((post) => ({
      board_id: post.boardId,
      version_id: post.versionId,
      author_id: post.authorId,
      idempotency_key: post.key,
      state: post.state ?? 'up',
      origin_id: post.originId ?? null,
      hook_id: post.hookId ?? null,
      part: post.part?.number ?? 1,
      parts: post.part?.of ?? 1,
      part_size: post.part?.size ?? 60,
      // The first part stands above the others.
      posted_at: db.raw('NOW(3) - INTERVAL ? MICROSECOND', [((post.part?.number ?? 1) - 1) * 1000]),
    })),
  );

/** The one state a post must be in for a decision, and the one it then is in. */
const MOVES = {
  approve: { from: ['held'], to: 'up' },
  return: { from: ['held'], to: 'returned' },
  decline: { from: ['held'], to: 'declined' },
  hide: { from: ['up'], to: 'hidden' },
  show: { from: ['hidden'], to: 'up' },
  delete: { from: ['up', 'held', 'returned', 'declined', 'hidden'], to: 'deleted' },
} as const satisfies Record<string, { from: readonly PostState[]; to: PostState }>;
export type Move = keyof typeof MOVES;

/** Moves a post to another state; false where somebody decided otherwise meanwhile. What is approved is posted now. */
export async function movePost(
  db: Database,
  id: number,
  move: Move,
  by: number,
  note: string,
): Promise<boolean> {
  const { from, to } = MOVES[move];
  const changed = await change(
    db,
    `UPDATE posts SET state = ?, decided_by = ?, decided_at = NOW(3), word = ?,
       posted_at = IF(? = 'approve', NOW(3), posted_at), pinned_at = IF(? = 'up', pinned_at, NULL)
     WHERE id = ? AND state IN (${from.map(() => '?').join(', ')})`,
    [to, by, note === '' ? null : note, move, to, id, ...from],
  );
  return changed === 1;
}

const EDITABLE: readonly PostState[] = ['up', 'held', 'returned'];

/** Takes replies no more, or again; false where that is how it was. */
export async function lockPost(db: Database, id: number, locked: boolean): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE posts SET locked_at = ${locked ? 'NOW(3)' : 'NULL'} WHERE id = ? AND locked_at IS ${locked ? '' : 'NOT '}NULL`,
    [id],
  );
  return changed === 1;
}

/**
 * Puts another text in a post of its author's, and with it another standing; false where it stands no more as it did when that
 * was settled, since a moderator may have decided on it meanwhile.
 */
export async function editPost(
  db: Database,
  id: number,
  versionId: number,
  from: PostState,
  to: 'up' | 'held',
): Promise<boolean> {
  if (!EDITABLE.includes(from)) return false;
  const changed = await change(
    db,
    `UPDATE posts SET version_id = ?, edited_at = NOW(3), state = ?, decided_by = NULL, word = NULL
     WHERE id = ? AND state = ?`,
    [versionId, to, id, from],
  );
  return changed === 1;
}

/** Who decided on a post last, by name. */
export async function deciderOf(db: Database, id: number): Promise<string | null> {
  const [row] = await rows<{ name: string | null }>(
    db,
    'SELECT p.name FROM posts o LEFT JOIN people p ON p.id = o.decided_by WHERE o.id = ?',
    [id],
  );
  return row?.name ?? null;
}

/** The texts a post had, the latest first. */
export function textsOf(
  db: Database,
  versionId: number,
): Promise<{ versionId: number; title: string; body: string; keptMs: number }[]> {
  return rows(
    db,
    `SELECT v.id AS versionId, v.title, v.body, ${ms('v.created_at')} AS keptMs FROM announcement_versions v
     WHERE v.announcement_id = (SELECT w.announcement_id FROM announcement_versions w WHERE w.id = ?) AND v.kind = 'sent'
     ORDER BY v.id DESC LIMIT 50`,
    [versionId],
  );
}

export async function announcementOf(db: Database, versionId: number): Promise<number> {
  const [row] = await rows<{ id: number }>(
    db,
    'SELECT announcement_id AS id FROM announcement_versions WHERE id = ?',
    [versionId],
  );
  return row?.id ?? 0;
}
