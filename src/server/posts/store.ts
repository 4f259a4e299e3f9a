import type { Body, Importance } from '../../core/content/announcement.ts';
import type { PostState } from '../../core/boards/board.ts';
import { readBody } from '../../core/stored.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

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
  importance: Importance;
  body: Body;
  part: number;
  parts: number;
  partSize: number;
  correctedMs: number | null;
  correction: string | null;
  state: PostState;
  word: string | null;
  decidedBy: string | null;
  locked: number;
  editedMs: number | null;
  originId: number | null;
  replies: number;
}

// The page is picked from the index first and only then joined: otherwise the optimiser may read and sort every post.
const postsOf = (
  page: string,
): string => `SELECT o.id, o.board_id AS boardId, o.version_id AS versionId, o.occurrence_id AS occurrenceId,
    o.author_id AS authorId, a.name AS authorName, ${ms('o.posted_at')} AS postedMs,
    ${ms('IF(o.pin_until IS NULL OR o.pin_until > NOW(3), o.pinned_at, NULL)')} AS pinnedMs, ${ms('o.pin_until')} AS pinUntilMs,
    v.title, v.byline, v.importance, v.body, o.part, o.parts, o.part_size AS partSize,
    ${ms('c.corrected_at')} AS correctedMs, c.correction, o.state, o.word, d.name AS decidedBy,
    o.locked_at IS NOT NULL AS locked, ${ms('o.edited_at')} AS editedMs, o.origin_id AS originId, o.replies
  FROM (${page}) o
    JOIN announcement_versions v ON v.id = o.version_id JOIN people a ON a.id = o.author_id
    LEFT JOIN people d ON d.id = o.decided_by LEFT JOIN occurrences c ON c.id = o.occurrence_id`;

async function posts(db: Database, page: string, order: string, bindings: unknown[]): Promise<PostRow[]> {
  const found = await rows<Omit<PostRow, 'body'> & { body: string }>(
    db,
    `${postsOf(page)} ORDER BY ${order}`,
    bindings,
  );
  return found.map((post) => ({ ...post, body: readBody(post.body) }));
}

const LATEST = 'o.posted_at DESC, o.id DESC';

const PINNED = 'o.pinned_at IS NOT NULL AND (o.pin_until IS NULL OR o.pin_until > NOW(3))';

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
): Promise<PostRow[]> {
  const at = before && new Date(before.postedMs);
  const further = before ? 'AND o.posted_at <= ? AND (o.posted_at < ? OR o.id < ?)' : '';
  return posts(
    db,
    `SELECT * FROM posts o WHERE o.board_id = ? AND o.state = 'up' ${further} ORDER BY ${LATEST} LIMIT ?`,
    LATEST,
    [boardId, ...(before ? [at, at, before.id] : []), most],
  );
}

/**
 * The latest posts on several boards, each thing once however many of them show it, and not what came to the reader's
 * inbox, where it is already. Each board is read by its index and only then are they merged.
 *
 * @param stretch from before a post, and no further back than an instant: of a reader to whom everything on their boards
 *   came to the inbox as well, all of it would be gone through otherwise
 */
export function postsForReader(
  db: Database,
  personId: number,
  boardIds: readonly number[],
  stretch: { before: { postedMs: number; id: number } | null; sinceMs: number | null },
  most: number,
): Promise<PostRow[]> {
  if (boardIds.length === 0) return Promise.resolve([]);
  const { before, sinceMs } = stretch;
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
  return posts(
    db,
    `SELECT p.* FROM (SELECT m.id FROM (${boardIds.map(() => one).join(' UNION ALL ')}) m
       ORDER BY m.posted_at DESC, m.id DESC LIMIT ?) k JOIN posts p ON p.id = k.id`,
    LATEST,
    [...boardIds.flatMap(ofOne), most],
  );
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

/**
 * Which of some posts a reader has not seen: they are past the reader's mark on their board, were not opened by
 * themselves, and what they show was read neither in the inbox nor on another board.
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

const UNREAD = `o.author_id <> ? AND o.posted_at > COALESCE((SELECT m.read_to FROM board_marks m WHERE m.person_id = ? AND m.board_id = o.board_id), '1970-01-01')
  AND NOT EXISTS (SELECT 1 FROM post_reads r WHERE r.person_id = ? AND r.post_id = o.id)
  AND (o.occurrence_id IS NULL OR (
    NOT EXISTS (SELECT 1 FROM deliveries d WHERE d.occurrence_id = o.occurrence_id AND d.person_id = ? AND d.method = 'inbox'
      AND d.read_at IS NOT NULL)
    AND NOT EXISTS (SELECT 1 FROM posts q JOIN board_marks n ON n.board_id = q.board_id AND n.person_id = ?
      WHERE q.occurrence_id = o.occurrence_id AND q.posted_at <= n.read_to)
    AND NOT EXISTS (SELECT 1 FROM posts q JOIN post_reads r ON r.post_id = q.id AND r.person_id = ?
      WHERE q.occurrence_id = o.occurrence_id)))`;
const unreadBindings = (personId: number): number[] => Array<number>(6).fill(personId);

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

/** Notes that somebody opened a post; false where they had before. */
export async function markOpened(db: Database, personId: number, postId: number): Promise<boolean> {
  return (
    (await change(
      db,
      'INSERT INTO post_reads (person_id, post_id) VALUES (?, ?) ON DUPLICATE KEY UPDATE post_id = post_id',
      [personId, postId],
    )) === 1
  );
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

export async function insertMemberPost(
  db: Database,
  post: {
    boardId: number;
    versionId: number;
    authorId: number;
    key: string;
    state?: 'up' | 'held';
    originId?: number | null;
  },
): Promise<number> {
  const [id] = await db('posts').insert({
    board_id: post.boardId,
    version_id: post.versionId,
    author_id: post.authorId,
    idempotency_key: post.key,
    state: post.state ?? 'up',
    origin_id: post.originId ?? null,
    posted_at: db.raw('NOW(3)'),
  });
  return id ?? 0;
}

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
  word: string,
): Promise<boolean> {
  const { from, to } = MOVES[move];
  const changed = await change(
    db,
    `UPDATE posts SET state = ?, decided_by = ?, decided_at = NOW(3), word = ?,
       posted_at = IF(? = 'approve', NOW(3), posted_at), pinned_at = IF(? = 'up', pinned_at, NULL)
     WHERE id = ? AND state IN (${from.map(() => '?').join(', ')})`,
    [to, by, word === '' ? null : word, move, to, id, ...from],
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

/** Reports something; false where this person had reported it. */
export async function insertReport(
  db: Database,
  report: {
    subject: 'post' | 'reply';
    subjectId: number;
    boardId: number;
    reporterId: number;
    reason: string;
  },
): Promise<boolean> {
  const changed = await change(
    db,
    `INSERT INTO reports (subject, subject_id, board_id, reporter_id, reason) VALUES (?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE subject_id = subject_id`,
    [report.subject, report.subjectId, report.boardId, report.reporterId, report.reason],
  );
  return changed === 1;
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

/** What was reported on a board and is not settled, the first first. */
export function openReports(db: Database, boardId: number): Promise<ReportRow[]> {
  return rows(
    db,
    `SELECT r.id, r.subject, r.subject_id AS subjectId, o.id AS postId, v.title, y.document, p.name AS reporter, r.reason,
       ${ms('r.at')} AS atMs
     FROM reports r JOIN people p ON p.id = r.reporter_id
       LEFT JOIN replies y ON r.subject = 'reply' AND y.id = r.subject_id
       JOIN posts o ON o.id = IF(r.subject = 'post', r.subject_id, y.post_id)
       JOIN announcement_versions v ON v.id = o.version_id
     WHERE r.board_id = ? AND r.settled_at IS NULL ORDER BY r.id LIMIT 50`,
    [boardId],
  );
}

export async function reportById(
  db: Database,
  id: number,
): Promise<{ boardId: number; settled: number } | undefined> {
  const [row] = await rows<{ boardId: number; settled: number }>(
    db,
    'SELECT board_id AS boardId, settled_at IS NOT NULL AS settled FROM reports WHERE id = ?',
    [id],
  );
  return row;
}

/** Settles reports of something; gives how many were open. */
export const settleReports = (
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

/** The parts of a text on some boards, written so that the first part stands above the others. */
async function insertParts(
  db: Database,
  occurrence: { id: number; versionId: number; createdBy: number },
  boards: readonly {
    id: number;
    partSize: number;
    sections: number | null;
    at: Date | null;
    state?: PostState;
  }[],
): Promise<void> {
  // A part that comes on top stands as the others do: where a moderator took them down, it is not up.
  const values = boards.flatMap(({ id, partSize, sections, at, state = 'up' }) => {
    const parts = Math.max(1, Math.ceil((sections ?? 1) / partSize));
    return Array.from(
      { length: parts },
      (_, i) => [id, i + 1, parts, partSize, at, i * 1000, state] as const,
    );
  });
  if (values.length === 0) return;
  await change(
    db,
    `INSERT INTO posts (board_id, part, parts, part_size, version_id, occurrence_id, author_id, posted_at, state)
     VALUES ${values.map(() => '(?, ?, ?, ?, ?, ?, ?, COALESCE(?, NOW(3)) - INTERVAL ? MICROSECOND, ?)').join(', ')}
     ON DUPLICATE KEY UPDATE posts.board_id = posts.board_id`,
    values.flatMap(([board, part, parts, size, at, later, state]) => [
      board,
      part,
      parts,
      size,
      occurrence.versionId,
      occurrence.id,
      occurrence.createdBy,
      at,
      later,
      state,
    ]),
  );
}

/**
 * Puts an occurrence on the boards of its plan, once each, however often it is asked. On a board with a limit of
 * sections it stands in parts; not on one that has been archived since, or that no longer takes what recurs by itself.
 */
export async function postOccurrence(
  db: Database,
  occurrence: { id: number; versionId: number; createdBy: number; plan: { boards: readonly number[] } },
): Promise<void> {
  const { boards } = occurrence.plan;
  if (boards.length === 0) return;
  const found = await rows<{ id: number; partSize: number; sections: number | null; at: null }>(
    db,
    `SELECT b.id, b.section_limit AS partSize, JSON_LENGTH(v.body, '$.sections') AS sections, NULL AS at
     FROM boards b JOIN announcement_versions v ON v.id = ? JOIN occurrences c ON c.id = ? JOIN sends s ON s.id = c.send_id
     WHERE b.archived_at IS NULL AND (b.automations OR NOT s.recurring) AND b.id IN (${boards.map(() => '?').join(', ')})`,
    [occurrence.versionId, occurrence.id, ...boards],
  );
  await insertParts(db, occurrence, found);
}

/** Puts another text in the place of what an occurrence said on its boards, in as many parts as it now takes. */
export async function repostOccurrence(
  db: Database,
  occurrence: { id: number; versionId: number; createdBy: number },
): Promise<void> {
  const found = await rows<{
    id: number;
    partSize: number;
    sections: number | null;
    at: Date;
    state: PostState;
  }>(
    db,
    `SELECT o.board_id AS id, o.state, o.part_size AS partSize, JSON_LENGTH(v.body, '$.sections') AS sections, o.posted_at AS at
     FROM posts o JOIN announcement_versions v ON v.id = ? WHERE o.occurrence_id = ? AND o.part = 1`,
    [occurrence.versionId, occurrence.id],
  );
  for (const { id, partSize, sections } of found) {
    const parts = Math.max(1, Math.ceil((sections ?? 1) / partSize));
    await change(db, 'UPDATE posts SET version_id = ?, parts = ? WHERE occurrence_id = ? AND board_id = ?', [
      occurrence.versionId,
      parts,
      occurrence.id,
      id,
    ]);
    await change(db, 'DELETE FROM posts WHERE occurrence_id = ? AND board_id = ? AND part > ?', [
      occurrence.id,
      id,
      parts,
    ]);
  }
  await insertParts(db, occurrence, found);
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

/** What an occurrence put on boards, once a board, with what is needed to tell of it. */
export function postsOfOccurrence(
  db: Database,
  occurrenceId: number,
): Promise<
  {
    id: number;
    authorId: number;
    title: string;
    excerpt: string;
    boardId: number;
    boardName: string;
    groupId: number | null;
  }[]
> {
  return rows(
    db,
    `SELECT o.id, o.author_id AS authorId, v.title, v.excerpt, b.id AS boardId, b.name AS boardName, b.group_id AS groupId
     FROM posts o JOIN announcement_versions v ON v.id = o.version_id JOIN boards b ON b.id = o.board_id
     WHERE o.occurrence_id = ? AND o.part = 1 AND o.state = 'up'`,
    [occurrenceId],
  );
}
