import type { Ribbon, ThanksGiven, ThanksListed } from '../../core/thanks/ribbon.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

interface Row {
  id: number;
  atMs: number;
  postId: number | null;
  boardId: number | null;
  ribbonId: number;
  name: string;
  emblem: Ribbon['emblem'];
  colour: Ribbon['colour'];
  sender: string;
  sentence: string;
}

const THANKS = `SELECT t.id, ${ms('t.at')} AS atMs, t.post_id AS postId, o.board_id AS boardId, r.id AS ribbonId, r.name, r.emblem,
    r.colour, f.shown_name AS sender, t.sentence
  FROM thanks t JOIN ribbons r ON r.id = t.ribbon_id JOIN people f ON f.id = t.from_id LEFT JOIN posts o ON o.id = t.post_id`;

async function withNames(db: Database, found: readonly Row[]): Promise<(Row & { given: ThanksGiven })[]> {
  if (found.length === 0) return [];
  const names = await rows<{ thanksId: number; id: number; name: string }>(
    db,
    `SELECT t.thanks_id AS thanksId, p.id, p.shown_name AS name FROM thanked t JOIN people p ON p.id = t.person_id
     WHERE t.thanks_id IN (${found.map(() => '?').join(', ')}) ORDER BY p.name`,
    found.map((row) => row.id),
  );
  return found.map((row) => ({
    ...row,
    given: {
      ribbon: { id: row.ribbonId, name: row.name, emblem: row.emblem, colour: row.colour },
      from: row.sender,
      to: names.filter((name) => name.thanksId === row.id).map(({ id, name }) => ({ id, name })),
      sentence: row.sentence,
    },
  }));
}

/** The thanks some posts say. */
export async function thanksOfPosts(
  db: Database,
  postIds: readonly number[],
): Promise<Map<number, ThanksGiven>> {
  if (postIds.length === 0) return new Map();
  const found = await withNames(
    db,
    await rows<Row>(db, `${THANKS} WHERE t.post_id IN (${postIds.map(() => '?').join(', ')})`, postIds),
  );
  return new Map(found.flatMap(({ postId, given }) => (postId === null ? [] : [[postId, given] as const])));
}

const listed = (found: (Row & { given: ThanksGiven })[], seen: ReadonlySet<number>): ThanksListed[] =>
  found.map(({ id, atMs, postId, boardId, given }) => ({
    id,
    atMs,
    ...given,
    postPath: postId !== null && boardId !== null && seen.has(boardId) ? `/posts/${postId}` : null,
  }));

// Thanks whose post was taken down are not counted, and none is shown to whoever may not see its board.
const SHOWN = (boards: readonly number[]): string =>
  `o.state = 'up' AND o.board_id IN (${boards.length > 0 ? boards.map(() => '?').join(', ') : 'NULL'})`;

/** What somebody was thanked for, the latest first. */
export async function thanksTo(
  db: Database,
  personId: number,
  boards: readonly number[],
): Promise<ThanksListed[]> {
  const found = await rows<Row>(
    db,
    `${THANKS} JOIN thanked w ON w.thanks_id = t.id WHERE w.person_id = ? AND ${SHOWN(boards)} ORDER BY t.at DESC, t.id DESC LIMIT 200`,
    [personId, ...boards],
  );
  return listed(await withNames(db, found), new Set(boards));
}

/** The thanks of a period of time, the latest first. */
export async function thanksBetween(
  db: Database,
  fromMs: number,
  toMs: number,
  boards: readonly number[],
): Promise<ThanksListed[]> {
  const found = await rows<Row>(
    db,
    `${THANKS} WHERE t.at >= ? AND t.at < ? AND ${SHOWN(boards)} ORDER BY t.at DESC, t.id DESC LIMIT 500`,
    [new Date(fromMs), new Date(toMs), ...boards],
  );
  return listed(await withNames(db, found), new Set(boards));
}

/** Ribbons that can be given, by name; with the retired ones where they are wanted. */
export function ribbons(db: Database, retired = false): Promise<(Ribbon & { retired: number })[]> {
  return rows(
    db,
    `SELECT id, name, emblem, colour, retired_at IS NOT NULL AS retired FROM ribbons
     ${retired ? '' : 'WHERE retired_at IS NULL'} ORDER BY name`,
  );
}

/** @throws the database's duplicate-key error where there is a ribbon of that name */
export async function insertRibbon(db: Database, ribbon: Omit<Ribbon, 'id'>): Promise<number> {
  const [id] = await db('ribbons').insert(ribbon);
  return id ?? 0;
}

export async function retireRibbon(db: Database, id: number, retired: boolean): Promise<boolean> {
  return (
    (await change(db, `UPDATE ribbons SET retired_at = ${retired ? 'NOW(3)' : 'NULL'} WHERE id = ?`, [id])) >
    0
  );
}

export async function insertThanks(
  db: Database,
  given: { ribbonId: number; fromId: number; sentence: string; postId: number; to: readonly number[] },
): Promise<number> {
  const [id] = await db('thanks').insert({
    ribbon_id: given.ribbonId,
    from_id: given.fromId,
    sentence: given.sentence,
    post_id: given.postId,
  });
  await db('thanked').insert(given.to.map((personId) => ({ thanks_id: id, person_id: personId })));
  return id ?? 0;
}
