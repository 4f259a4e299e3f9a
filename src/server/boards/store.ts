import type { BoardFollowing } from '../../core/boards/board.ts';
import type { BoardChange } from '../../core/boards/boardSchemas.ts';
import type { Switches } from '../../core/boards/switchesSchema.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { rowsForAll } from '../database/onceForAll.ts';

export interface BoardRow extends Switches {
  id: number;
  name: string;
  about: string;
  groupId: number | null;
  sectionLimit: number;
  pinLimit: number;
  ownerId: number | null;
  archived: boolean;
  takesThanks: boolean;
  sessionOf: number | null;
  dateOf: number | null;
  /** Whether linked contacts of its readers may read it by a link of their own. */
  contactsRead: boolean;
}

const BOARD = `b.id, b.name, b.about, b.group_id AS groupId, b.posting, b.replying, b.reacting, b.pinning, b.mentioning,
  b.automations, b.gateways, b.warns, b.passing, b.takes_thanks AS takesThanks, b.section_limit AS sectionLimit,
  b.pin_limit AS pinLimit, b.owner_id AS ownerId, b.archived_at IS NOT NULL AS archived, b.session_of AS sessionOf, b.date_of AS dateOf, b.contacts_read AS contactsRead`;

type Flag = 'automations' | 'gateways' | 'warns' | 'passing' | 'takesThanks' | 'archived' | 'contactsRead';
type Stored = Omit<BoardRow, Flag> & Record<Flag, number>;

const read = (row: Stored): BoardRow => ({
  ...row,
  automations: row.automations === 1,
  gateways: row.gateways === 1,
  warns: row.warns === 1,
  passing: row.passing === 1,
  takesThanks: row.takesThanks === 1,
  archived: row.archived === 1,
  contactsRead: row.contactsRead === 1,
});

/** Every board in its order, the archived ones last. */
export async function allBoards(db: Database): Promise<BoardRow[]> {
  const found = await rowsForAll<Stored>(
    db,
    `SELECT ${BOARD} FROM boards b ORDER BY b.archived_at IS NOT NULL, b.position, b.name`,
  );
  return found.map(read);
}

/** Whether the posts of a board may be passed on. */
export async function mayBePassedOn(db: Database, boardId: number): Promise<boolean> {
  return (await rows(db, 'SELECT 1 FROM boards WHERE id = ? AND passing', [boardId])).length > 0;
}

/** The boards somebody moderates, by being asked to or as their owner. */
export async function boardsModeratedBy(db: Database, personId: number): Promise<number[]> {
  const found = await rows<{ boardId: number }>(
    db,
    `SELECT board_id AS boardId FROM board_moderators WHERE person_id = ?
     UNION SELECT id FROM boards WHERE owner_id = ?`,
    [personId, personId],
  );
  return found.map((row) => row.boardId);
}

export interface ModeratorRow {
  boardId: number;
  personId: number;
  name: string;
  owner: boolean;
}

/** Those who moderate each board and have not left; its owner among them. */
export async function allModerators(db: Database): Promise<ModeratorRow[]> {
  const found = await rowsForAll<Omit<ModeratorRow, 'owner'> & { owner: number }>(
    db,
    `SELECT m.board_id AS boardId, p.id AS personId, p.shown_name AS name, MAX(m.owner) AS owner
     FROM (SELECT board_id, person_id, 0 AS owner FROM board_moderators
           UNION ALL SELECT id, owner_id, 1 FROM boards WHERE owner_id IS NOT NULL) m
       JOIN people p ON p.id = m.person_id
     WHERE p.standing <> 'left' GROUP BY m.board_id, p.id, p.shown_name, p.name ORDER BY p.name`,
  );
  return found.map((row) => ({ ...row, owner: row.owner === 1 }));
}

/** Makes somebody a moderator, or takes that back; false where that is how it was. */
export async function setModerator(
  db: Database,
  boardId: number,
  personId: number,
  moderates: boolean,
): Promise<boolean> {
  const changed = moderates
    ? await change(
        db,
        'INSERT INTO board_moderators (board_id, person_id) VALUES (?, ?) ON DUPLICATE KEY UPDATE board_id = board_id',
        [boardId, personId],
      )
    : await change(db, 'DELETE FROM board_moderators WHERE board_id = ? AND person_id = ?', [
        boardId,
        personId,
      ]);
  return changed > 0;
}

/** When each board was last posted to, in milliseconds since 1970. */
export async function lastPosted(
  db: Database,
): Promise<Map<number, { postId: number; title: string; atMs: number }>> {
  const found = await rows<{ boardId: number; postId: number; title: string; atMs: number }>(
    db,
    `SELECT b.id AS boardId, o.id AS postId, v.title, ${ms('o.posted_at')} AS atMs
     FROM boards b JOIN posts o ON o.id = (SELECT l.id FROM posts l WHERE l.board_id = b.id AND l.state = 'up'
         ORDER BY l.posted_at DESC, l.id DESC LIMIT 1)
       JOIN announcement_versions v ON v.id = o.version_id`,
  );
  return new Map(found.map(({ boardId, ...latest }) => [boardId, latest]));
}

const COLUMNS: Record<Exclude<keyof BoardChange, 'archived'>, string> = {
  name: 'name',
  about: 'about',
  groupId: 'group_id',
  posting: 'posting',
  replying: 'replying',
  reacting: 'reacting',
  pinning: 'pinning',
  mentioning: 'mentioning',
  automations: 'automations',
  gateways: 'gateways',
  warns: 'warns',
  passing: 'passing',
  sectionLimit: 'section_limit',
  pinLimit: 'pin_limit',
  contactsRead: 'contacts_read',
  ownerId: 'owner_id',
  position: 'position',
};

/**
 * Changes what is given of a board and leaves the rest.
 *
 * @throws the database's duplicate-key error where another board has the name
 */
export async function changeBoard(db: Database, id: number, given: BoardChange): Promise<void> {
  const { archived, ...values } = given;
  const set: Record<string, unknown> = {};
  for (const [name, column] of Object.entries(COLUMNS)) {
    const value = values[name as keyof typeof COLUMNS];
    if (value !== undefined) set[column] = value;
  }
  if (archived !== undefined) set.archived_at = archived ? db.raw('COALESCE(archived_at, NOW(3))') : null;
  await db('boards').where({ id }).update(set);
}

export interface NewBoard extends Partial<Switches> {
  name: string;
  about: string;
  groupId: number | null;
  posting: Switches['posting'];
  position?: number;
  ownerId?: number;
  sessionOf?: number | null;
  dateOf?: number | null;
  takesThanks?: boolean;
}

/** @throws the database's duplicate-key error where another board has the name, or the session has a board */
/** The board that was made for those who come to a date of the calendar; null where there is none. */
export async function boardOfDate(db: Database, dateId: number): Promise<number | null> {
  const [row] = await rows<{ id: number }>(db, 'SELECT id FROM boards WHERE date_of = ?', [dateId]);
  return row?.id ?? null;
}

export async function insertBoard(db: Database, board: NewBoard): Promise<number> {
  const { groupId, ownerId, sessionOf, dateOf, takesThanks, position, ...rest } = board;
  const [id] = await db('boards').insert({
    ...rest,
    group_id: groupId,
    owner_id: ownerId ?? null,
    session_of: sessionOf ?? null,
    date_of: dateOf ?? null,
    takes_thanks: takesThanks ?? false,
    position:
      position ?? db.raw('(SELECT last FROM (SELECT COALESCE(MAX(position), 0) + 1 AS last FROM boards) b)'),
  });
  return id ?? 0;
}

/** Key links and files beside what is pinned. */
export function linksOf(
  db: Database,
  boardId: number,
): Promise<{ id: number; label: string; url: string }[]> {
  return rows(db, 'SELECT id, label, url FROM board_links WHERE board_id = ? ORDER BY place, id', [boardId]);
}

export async function replaceLinks(
  db: Database,
  boardId: number,
  links: readonly { label: string; url: string }[],
): Promise<void> {
  await change(db, 'DELETE FROM board_links WHERE board_id = ?', [boardId]);
  if (links.length > 0)
    await db('board_links').insert(links.map((link, place) => ({ ...link, board_id: boardId, place })));
}

/** Sets the order of boards: first is first. */
export async function orderBoards(db: Database, ids: readonly number[]): Promise<void> {
  for (const [i, id] of ids.entries())
    await change(db, 'UPDATE boards SET position = ? WHERE id = ?', [i + 1, id]);
}

/** Moves a reader's mark on a board forward; false where it was further already. */
export async function markSeen(
  db: Database,
  personId: number,
  boardId: number,
  toMs: number,
): Promise<boolean> {
  const at = new Date(toMs);
  const changed = await change(
    db,
    `INSERT INTO board_marks (person_id, board_id, read_to) VALUES (?, ?, LEAST(?, NOW(3)))
     ON DUPLICATE KEY UPDATE read_to = GREATEST(read_to, VALUES(read_to))`,
    [personId, boardId, at],
  );
  return changed > 0;
}

/** Whether a reader follows a board or a post, has muted it, or has put a board out of sight. */
export async function followsOf(
  db: Database,
  personId: number,
  subject: 'board' | 'post',
  ids: readonly number[],
): Promise<Map<number, BoardFollowing>> {
  if (ids.length === 0) return new Map();
  const found = await rows<{ id: number; choice: BoardFollowing }>(
    db,
    `SELECT subject_id AS id, choice FROM follows
     WHERE person_id = ? AND subject = ? AND subject_id IN (${ids.map(() => '?').join(', ')})`,
    [personId, subject, ...ids],
  );
  return new Map(found.map(({ id, choice }) => [id, choice]));
}

export async function setFollow(
  db: Database,
  personId: number,
  subject: 'board' | 'post',
  id: number,
  choice: BoardFollowing | null,
): Promise<void> {
  if (choice === null)
    await change(db, 'DELETE FROM follows WHERE subject = ? AND subject_id = ? AND person_id = ?', [
      subject,
      id,
      personId,
    ]);
  else
    await change(
      db,
      `INSERT INTO follows (subject, subject_id, person_id, choice) VALUES (?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE choice = VALUES(choice)`,
      [subject, id, personId, choice],
    );
}

/** How much waits for the moderators of each of some boards: held posts and reports. */
export async function waitingOn(
  db: Database,
  boardIds: readonly number[],
  personId: number,
): Promise<Map<number, number>> {
  if (boardIds.length === 0) return new Map();
  const marks = boardIds.map(() => '?').join(', ');
  const found = await rows<{ boardId: number; n: number }>(
    db,
    `SELECT w.boardId, CAST(SUM(w.n) AS INT) AS n FROM (
       SELECT board_id AS boardId, COUNT(*) AS n FROM posts WHERE state = 'held' AND board_id IN (${marks}) GROUP BY board_id
       UNION ALL SELECT r.board_id, COUNT(*) FROM reports r
         LEFT JOIN replies y ON r.subject = 'reply' AND y.id = r.subject_id
         LEFT JOIN posts o ON r.subject = 'post' AND o.id = r.subject_id
       WHERE r.settled_at IS NULL AND r.board_id IN (${marks}) AND COALESCE(y.author_id, o.author_id) <> ? GROUP BY r.board_id
     ) w GROUP BY w.boardId`,
    [...boardIds, ...boardIds, personId],
  );
  return new Map(found.map(({ boardId, n }) => [boardId, n]));
}
