import type { Body, Importance } from '../../core/content/announcement.ts';
import { readBody } from '../announcements/store.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

export interface BoardRow {
  id: number;
  name: string;
  about: string;
  groupId: number | null;
  posting: 'moderators' | 'members';
  sectionLimit: number;
}

const BOARD = 'b.id, b.name, b.about, b.group_id AS groupId, b.posting, b.section_limit AS sectionLimit';

export function allBoards(db: Database): Promise<BoardRow[]> {
  return rows(db, `SELECT ${BOARD} FROM boards b ORDER BY b.position, b.name`);
}

export async function boardsModeratedBy(db: Database, personId: number): Promise<number[]> {
  const found = await rows<{ boardId: number }>(
    db,
    'SELECT board_id AS boardId FROM board_moderators WHERE person_id = ?',
    [personId],
  );
  return found.map((row) => row.boardId);
}

/** The names of each board's moderators who have not left. */
export async function moderatorNames(db: Database): Promise<Map<number, string[]>> {
  const found = await rows<{ boardId: number; name: string }>(
    db,
    `SELECT m.board_id AS boardId, p.name FROM board_moderators m JOIN people p ON p.id = m.person_id
     WHERE p.standing <> 'left' ORDER BY p.name`,
  );
  const names = new Map<number, string[]>();
  for (const { boardId, name } of found) names.set(boardId, [...(names.get(boardId) ?? []), name]);
  return names;
}

/** When each board was last posted to, in milliseconds since 1970. */
export async function lastPosted(db: Database): Promise<Map<number, number>> {
  const found = await rows<{ boardId: number; lastMs: number }>(
    db,
    `SELECT board_id AS boardId, ${ms('MAX(posted_at)')} AS lastMs FROM posts GROUP BY board_id`,
  );
  return new Map(found.map(({ boardId, lastMs }) => [boardId, lastMs]));
}

export interface PostRow {
  id: number;
  occurrenceId: number | null;
  authorName: string;
  postedMs: number;
  pinnedMs: number | null;
  title: string;
  byline: string;
  importance: Importance;
  body: Body;
  part: number;
  parts: number;
  partSize: number;
  correctedMs: number | null;
  correction: string | null;
}

// The page is picked from the index first and only then joined: otherwise the optimiser may read and sort every post.
const postsOf = (
  page: string,
): string => `SELECT o.id, o.occurrence_id AS occurrenceId, a.name AS authorName, ${ms('o.posted_at')} AS postedMs,
    ${ms('o.pinned_at')} AS pinnedMs, v.title, v.byline, v.importance, v.body, o.part, o.parts,
    o.part_size AS partSize, ${ms('c.corrected_at')} AS correctedMs, c.correction
  FROM (SELECT * FROM posts o ${page}) o
    JOIN announcement_versions v ON v.id = o.version_id JOIN people a ON a.id = o.author_id
    LEFT JOIN occurrences c ON c.id = o.occurrence_id`;

async function posts(
  db: Database,
  where: string,
  order: 'posted' | 'pinned',
  bindings: unknown[],
): Promise<PostRow[]> {
  const by = `ORDER BY o.${order}_at DESC, o.id DESC`;
  const found = await rows<Omit<PostRow, 'body'> & { body: string }>(
    db,
    `${postsOf(`${where} ${by} LIMIT ?`)} ${by}`,
    bindings,
  );
  return found.map((post) => ({ ...post, body: readBody(post.body) }));
}

/** What is pinned, the latest pinned first. */
export function pinnedPosts(db: Database, boardId: number): Promise<PostRow[]> {
  return posts(db, 'WHERE o.board_id = ? AND o.pinned_at IS NOT NULL', 'pinned', [boardId, 20]);
}

/** A page of posts, the latest first, from before the last one of the page before. */
export function postsPage(
  db: Database,
  boardId: number,
  before: { postedMs: number; id: number } | null,
  most: number,
): Promise<PostRow[]> {
  if (!before) return posts(db, 'WHERE o.board_id = ?', 'posted', [boardId, most]);
  const at = new Date(before.postedMs);
  return posts(db, 'WHERE o.board_id = ? AND o.posted_at <= ? AND (o.posted_at < ? OR o.id < ?)', 'posted', [
    boardId,
    at,
    at,
    before.id,
    most,
  ]);
}

/** Pins or unpins; false where that is how it was. */
export async function setPinned(
  db: Database,
  post: { id: number; boardId: number },
  pinned: boolean,
  by: number,
): Promise<boolean> {
  const changed = pinned
    ? await change(
        db,
        'UPDATE posts SET pinned_at = NOW(3), pinned_by = ? WHERE id = ? AND board_id = ? AND pinned_at IS NULL',
        [by, post.id, post.boardId],
      )
    : await change(
        db,
        'UPDATE posts SET pinned_at = NULL, pinned_by = NULL WHERE id = ? AND board_id = ? AND pinned_at IS NOT NULL',
        [post.id, post.boardId],
      );
  return changed === 1;
}

export async function boardOfPost(db: Database, postId: number): Promise<number | undefined> {
  const [row] = await rows<{ boardId: number }>(db, 'SELECT board_id AS boardId FROM posts WHERE id = ?', [
    postId,
  ]);
  return row?.boardId;
}

export async function postByKey(db: Database, authorId: number, key: string): Promise<number | undefined> {
  const [row] = await rows<{ id: number }>(
    db,
    'SELECT id FROM posts WHERE author_id = ? AND idempotency_key = ?',
    [authorId, key],
  );
  return row?.id;
}

export async function insertMemberPost(
  db: Database,
  post: { boardId: number; versionId: number; authorId: number; key: string },
): Promise<number> {
  const [id] = await db('posts').insert({
    board_id: post.boardId,
    version_id: post.versionId,
    author_id: post.authorId,
    idempotency_key: post.key,
    posted_at: db.raw('NOW(3)'),
  });
  return id ?? 0;
}

/** The parts of a text on some boards, written so that the first part stands above the others. */
async function insertParts(
  db: Database,
  occurrence: { id: number; versionId: number; createdBy: number },
  boards: readonly { id: number; partSize: number; sections: number | null; at: Date | null }[],
): Promise<void> {
  const values = boards.flatMap(({ id, partSize, sections, at }) => {
    const parts = Math.max(1, Math.ceil((sections ?? 1) / partSize));
    return Array.from({ length: parts }, (_, i) => [id, i + 1, parts, partSize, at, i * 1000]);
  });
  if (values.length === 0) return;
  await change(
    db,
    `INSERT INTO posts (board_id, part, parts, part_size, version_id, occurrence_id, author_id, posted_at)
     VALUES ${values.map(() => '(?, ?, ?, ?, ?, ?, ?, COALESCE(?, NOW(3)) - INTERVAL ? MICROSECOND)').join(', ')}
     ON DUPLICATE KEY UPDATE posts.board_id = posts.board_id`,
    values.flatMap(([board, part, parts, size, at, later]) => [
      board,
      part,
      parts,
      size,
      occurrence.versionId,
      occurrence.id,
      occurrence.createdBy,
      at,
      later,
    ]),
  );
}

/**
 * Puts an occurrence on the boards of its plan, once each, however often it is asked. On a board with a limit of
 * sections it stands in parts.
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
     FROM boards b JOIN announcement_versions v ON v.id = ? WHERE b.id IN (${boards.map(() => '?').join(', ')})`,
    [occurrence.versionId, ...boards],
  );
  await insertParts(db, occurrence, found);
}

/** Puts another text in the place of what an occurrence said on its boards, in as many parts as it now takes. */
export async function repostOccurrence(
  db: Database,
  occurrence: { id: number; versionId: number; createdBy: number },
): Promise<void> {
  const found = await rows<{ id: number; partSize: number; sections: number | null; at: Date }>(
    db,
    `SELECT o.board_id AS id, o.part_size AS partSize, JSON_LENGTH(v.body, '$.sections') AS sections, o.posted_at AS at
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

/** Sets how many sections a post on a board has at most. */
export async function setSectionLimit(db: Database, boardId: number, limit: number): Promise<void> {
  await change(db, 'UPDATE boards SET section_limit = ? WHERE id = ?', [limit, boardId]);
}

export async function insertBoard(
  db: Database,
  board: Omit<BoardRow, 'id' | 'sectionLimit'> & { position?: number },
): Promise<number> {
  const [id] = await db('boards').insert({
    name: board.name,
    about: board.about,
    group_id: board.groupId,
    posting: board.posting,
    position: board.position ?? 0,
  });
  return id ?? 0;
}
