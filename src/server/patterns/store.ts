import type { Audience } from '../../core/audience/expression.ts';
import { isReadable } from '../../core/audience/groups.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import type { PatternDocument, PatternKind, PlaceAnswers } from '../../core/patterns/pattern.ts';
import { readPattern, storedPattern } from '../../core/patterns/patternSchema.ts';
import { isIn } from '../audience/store.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** The groups picked by hand in which everybody belongs to another group; not those in which is nobody. */
export async function fixedGroupsWithin(
  db: Database,
  groupId: number,
  now: AudienceContext,
): Promise<number[]> {
  const whole: Audience = { kind: 'group', id: groupId };
  if (!isReadable(whole, now)) return [];
  const within = isIn(whole, now);
  const found = await rows<{ id: number }>(
    db,
    `SELECT m.group_id AS id FROM group_members m JOIN \`groups\` g ON g.id = m.group_id AND g.kind = 'fixed'
       JOIN people p ON p.id = m.person_id AND p.standing <> 'left'
     WHERE m.group_id <> ? GROUP BY m.group_id HAVING SUM(CASE WHEN ${within.sql} THEN 0 ELSE 1 END) = 0`,
    [groupId, ...within.bindings],
  );
  return found.map(({ id }) => id);
}

export interface PatternRow {
  id: number;
  name: string;
  about: string;
  /** The number of the version that holds. */
  number: number;
  /** The place it is taken from, and its name; null where that is gone. */
  boardId: number | null;
  boardName: string | null;
  document: PatternDocument;
  savedMs: number;
  savedBy: string;
  /** How many places were made from it, and how many of them have not all its changes. */
  places: number;
  behind: number;
}

const PATTERN = `SELECT t.id, t.name, t.about, t.number, t.board_id AS boardId, b.name AS boardName, v.document,
    ${ms('v.made_at')} AS savedMs, p.shown_name AS savedBy,
    (SELECT COUNT(*) FROM pattern_places c WHERE c.pattern_id = t.id) AS places,
    (SELECT COUNT(*) FROM pattern_places c WHERE c.pattern_id = t.id AND c.number < t.number) AS behind
  FROM patterns t JOIN pattern_versions v ON v.pattern_id = t.id AND v.number = t.number
    JOIN people p ON p.id = v.made_by LEFT JOIN boards b ON b.id = t.board_id`;

type Stored = Omit<PatternRow, 'document'> & { document: string };
const read = (row: Stored): PatternRow => ({ ...row, document: readPattern(row.document) });

/** Every pattern, by name. */
export const allPatterns = async (db: Database): Promise<PatternRow[]> =>
  (await rows<Stored>(db, `${PATTERN} ORDER BY t.name`)).map(read);

export async function patternById(db: Database, id: number): Promise<PatternRow | undefined> {
  const [row] = await rows<Stored>(db, `${PATTERN} WHERE t.id = ?`, [id]);
  return row && read(row);
}

/** Holds a pattern until the transaction ends; gives the number of the version that holds, or nothing where there is none. */
export async function lockPattern(db: Database, id: number): Promise<number | undefined> {
  const [row] = await rows<{ number: number }>(db, 'SELECT number FROM patterns WHERE id = ? FOR UPDATE', [
    id,
  ]);
  return row?.number;
}

/** @throws the database's duplicate-key error where there is a pattern of that name */
export async function insertPattern(
  db: Database,
  pattern: { name: string; about: string; boardId: number; document: PatternDocument; by: number },
): Promise<number> {
  const { name, about, boardId, document, by } = pattern;
  const [id = 0] = await db('patterns').insert({ name, about, number: 1, board_id: boardId });
  await insertVersion(db, id, 1, document, by);
  return id;
}

export const insertVersion = (
  db: Database,
  id: number,
  number: number,
  document: PatternDocument,
  by: number,
): Promise<number> =>
  change(
    db,
    'INSERT INTO pattern_versions (pattern_id, number, document, made_by, made_at) VALUES (?, ?, ?, ?, NOW(3))',
    [id, number, storedPattern(document), by],
  );

/** Lets another version hold. */
export const setNumber = (db: Database, id: number, number: number): Promise<number> =>
  change(db, 'UPDATE patterns SET number = ? WHERE id = ?', [number, id]);

/** @throws the database's duplicate-key error where there is a pattern of that name */
export const renamePattern = (
  db: Database,
  id: number,
  { name, about }: { name: string; about: string },
): Promise<number> => change(db, 'UPDATE patterns SET name = ?, about = ? WHERE id = ?', [name, about, id]);

export const deletePatternById = (db: Database, id: number): Promise<number> =>
  change(db, 'DELETE FROM patterns WHERE id = ?', [id]);

/** What a version of a pattern said; nothing where there is none. */
export async function versionOf(
  db: Database,
  id: number,
  number: number,
): Promise<PatternDocument | undefined> {
  const [row] = await rows<{ document: string }>(
    db,
    'SELECT document FROM pattern_versions WHERE pattern_id = ? AND number = ?',
    [id, number],
  );
  return row && readPattern(row.document);
}

export interface PlaceRow {
  id: number;
  patternId: number;
  /** The version whose changes it has. */
  number: number;
  name: string;
  answers: PlaceAnswers;
  madeMs: number;
  madeBy: string;
}

const PLACE = `SELECT c.id, c.pattern_id AS patternId, c.number, c.name, c.answers, ${ms('c.made_at')} AS madeMs, p.shown_name AS madeBy
  FROM pattern_places c JOIN people p ON p.id = c.made_by`;
type StoredPlace = Omit<PlaceRow, 'answers'> & { answers: string };
const readPlace = (row: StoredPlace): PlaceRow => ({
  ...row,
  answers: JSON.parse(row.answers) as PlaceAnswers,
});

/** The places made from a pattern, the latest first. */
export const placesOf = async (db: Database, patternId: number, most: number): Promise<PlaceRow[]> =>
  (
    await rows<StoredPlace>(db, `${PLACE} WHERE c.pattern_id = ? ORDER BY c.id DESC LIMIT ?`, [
      patternId,
      most,
    ])
  ).map(readPlace);

export async function placeById(db: Database, id: number): Promise<PlaceRow | undefined> {
  const [row] = await rows<StoredPlace>(db, `${PLACE} WHERE c.id = ?`, [id]);
  return row && readPlace(row);
}

/** The place from a pattern that a board is of; nothing where it is of none. */
export async function placeOfBoard(
  db: Database,
  boardId: number,
): Promise<{ id: number; pattern: string; behind: boolean } | undefined> {
  const [row] = await rows<{ id: number; pattern: string; behind: number }>(
    db,
    `SELECT c.id, t.name AS pattern, c.number < t.number AS behind
     FROM pattern_place_parts m JOIN pattern_places c ON c.id = m.place_id JOIN patterns t ON t.id = c.pattern_id
     WHERE m.kind = 'board' AND m.made_id = ?`,
    [boardId],
  );
  return row && { ...row, behind: row.behind === 1 };
}

/** Holds a place until the transaction ends; false where there is none. */
export const lockPlace = async (db: Database, id: number): Promise<boolean> =>
  (await rows(db, 'SELECT id FROM pattern_places WHERE id = ? FOR UPDATE', [id])).length === 1;

export async function insertPlace(
  db: Database,
  place: { patternId: number; number: number; name: string; answers: PlaceAnswers; by: number },
): Promise<number> {
  const [id] = await db('pattern_places').insert({
    pattern_id: place.patternId,
    number: place.number,
    name: place.name,
    answers: JSON.stringify(place.answers),
    made_by: place.by,
    made_at: db.fn.now(3),
  });
  return id ?? 0;
}

/** Holds boards until the transaction ends, so that nothing goes up on them meanwhile. */
export const lockBoards = async (db: Database, ids: readonly number[]): Promise<void> => {
  if (ids.length > 0)
    await rows(db, `SELECT id FROM boards WHERE id IN (${ids.map(() => '?').join(', ')}) FOR UPDATE`, ids);
};

export const setPlaceNumber = (db: Database, id: number, number: number): Promise<number> =>
  change(db, 'UPDATE pattern_places SET number = ? WHERE id = ?', [number, id]);

export const deletePlaceById = (db: Database, id: number): Promise<number> =>
  change(db, 'DELETE FROM pattern_places WHERE id = ?', [id]);

export interface PlacePart {
  kind: PatternKind;
  /** Its id in the pattern, and here. */
  partId: number;
  madeId: number;
}

export const partsOfPlace = (db: Database, placeId: number): Promise<PlacePart[]> =>
  rows(
    db,
    'SELECT kind, part_id AS partId, made_id AS madeId FROM pattern_place_parts WHERE place_id = ? ORDER BY kind, part_id',
    [placeId],
  );

export const insertPlacePart = (db: Database, placeId: number, part: PlacePart): Promise<number> =>
  change(db, 'INSERT INTO pattern_place_parts (place_id, kind, part_id, made_id) VALUES (?, ?, ?, ?)', [
    placeId,
    part.kind,
    part.partId,
    part.madeId,
  ]);

/** What of a group, a board or a sheet, or on it, is not of the pattern: how many people, posts, replies, records. */
export const peopleIn = async (db: Database, groupId: number, but: number): Promise<number> =>
  counted(db, 'SELECT COUNT(*) AS n FROM group_members WHERE group_id = ? AND person_id <> ?', [
    groupId,
    but,
  ]);

export const recordsIn = (db: Database, sheetId: number): Promise<number> =>
  counted(db, 'SELECT COUNT(*) AS n FROM records WHERE sheet_id = ?', [sheetId]);

/** Runs of an automation besides those that wait for their time. */
export const runsOf = (db: Database, automationId: number): Promise<number> =>
  counted(db, "SELECT COUNT(*) AS n FROM automation_runs WHERE automation_id = ? AND state <> 'waiting'", [
    automationId,
  ]);

/** Posts on a board besides some, whatever became of them; replies to any of them, and how often those were passed on to others. */
export async function talkOn(
  db: Database,
  boardId: number,
  but: readonly number[],
): Promise<{ posts: number; replies: number; passedOn: number }> {
  const marks = [0, ...but].map(() => '?').join(', ');
  return {
    posts: await counted(db, `SELECT COUNT(*) AS n FROM posts WHERE board_id = ? AND id NOT IN (${marks})`, [
      boardId,
      0,
      ...but,
    ]),
    replies: await counted(
      db,
      'SELECT COUNT(*) AS n FROM replies r JOIN posts o ON o.id = r.post_id WHERE o.board_id = ?',
      [boardId],
    ),
    passedOn: await counted(
      db,
      'SELECT COUNT(*) AS n FROM posts c JOIN posts o ON o.id = c.origin_id WHERE o.board_id = ? AND c.board_id <> ?',
      [boardId, boardId],
    ),
  };
}

/** Every post that ever stood on a board, whatever became of it. */
export const postsOn = async (db: Database, boardId: number): Promise<number[]> =>
  (await rows<{ id: number }>(db, 'SELECT id FROM posts WHERE board_id = ?', [boardId])).map(({ id }) => id);

async function counted(db: Database, sql: string, bindings: readonly (string | number)[]): Promise<number> {
  const [row] = await rows<{ n: number }>(db, sql, bindings);
  return row?.n ?? 0;
}
