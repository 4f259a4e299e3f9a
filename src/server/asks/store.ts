import type { AskListing, RollPart, RollPerson, Tally } from '../../core/asks/roll.ts';
import type { Sql } from '../audience/sql.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** How many were asked and how many have answered, of each occurrence that asks for something. */
export async function tallies(db: Database, occurrenceIds: readonly number[]): Promise<Map<number, Tally>> {
  if (occurrenceIds.length === 0) return new Map();
  const found = await rows<{ occurrenceId: number; asked: number; answered: number }>(
    db,
    `SELECT occurrence_id AS occurrenceId, COUNT(*) AS asked, COUNT(answered_at) AS answered
     FROM roll WHERE occurrence_id IN (${occurrenceIds.map(() => '?').join(', ')}) GROUP BY occurrence_id`,
    occurrenceIds,
  );
  return new Map(found.map(({ occurrenceId, asked, answered }) => [occurrenceId, { asked, answered }]));
}

/** What a stretch of a roll adds up to: besides the tally, how many opened it and have not answered. */
const SUMS = `COUNT(*) AS asked, COUNT(r.answered_at) AS answered,
  COUNT(IF(r.answered_at IS NULL, d.read_at, NULL)) AS opened`;
const ROLL = `FROM roll r JOIN people p ON p.id = r.person_id
  LEFT JOIN deliveries d ON d.occurrence_id = r.occurrence_id AND d.person_id = r.person_id AND d.method = 'inbox'`;
const EVERYBODY: Sql = { sql: 'TRUE', bindings: [] };

/**
 * Those on a roll of whom a condition over `people p` holds, by station; those at no station come as null.
 *
 * @param who null for everybody
 */
export function talliesByStation(
  db: Database,
  occurrenceId: number,
  who: Sql | null = null,
): Promise<(Tally & { opened: number; name: string | null })[]> {
  const { sql, bindings } = who ?? EVERYBODY;
  return rows(
    db,
    `SELECT s.name, ${SUMS} ${ROLL} LEFT JOIN stations s ON s.id = p.station_id
     WHERE r.occurrence_id = ? AND ${sql} GROUP BY s.id, s.name`,
    [occurrenceId, ...bindings],
  );
}

/** The same for all of whom a condition over `people p` holds: one group's part. */
export async function tallyWhere(
  db: Database,
  occurrenceId: number,
  who: Sql,
): Promise<Tally & { opened: number }> {
  const [row] = await rows<Tally & { opened: number }>(
    db,
    `SELECT ${SUMS} ${ROLL} WHERE r.occurrence_id = ? AND ${who.sql}`,
    [occurrenceId, ...who.bindings],
  );
  return row ?? { asked: 0, answered: 0, opened: 0 };
}

/** The same of several rolls at once. */
export async function talliesWhere(
  db: Database,
  occurrenceIds: readonly number[],
  who: Sql,
): Promise<Map<number, Tally>> {
  if (occurrenceIds.length === 0) return new Map();
  const found = await rows<Tally & { occurrenceId: number }>(
    db,
    `SELECT r.occurrence_id AS occurrenceId, COUNT(*) AS asked, COUNT(r.answered_at) AS answered
     FROM roll r JOIN people p ON p.id = r.person_id
     WHERE r.occurrence_id IN (${occurrenceIds.map(() => '?').join(', ')}) AND ${who.sql} GROUP BY r.occurrence_id`,
    [...occurrenceIds, ...who.bindings],
  );
  return new Map(found.map(({ occurrenceId, ...tally }) => [occurrenceId, tally]));
}

/** How the roll and its audience have grown apart: not asked because they came later, answered and gone since. */
export async function drift(
  db: Database,
  occurrenceId: number,
  audience: Sql,
): Promise<{ joinedSince: number; goneSince: number; earlier: number }> {
  const [row] = await rows<{ joinedSince: number; goneSince: number; earlier: number }>(
    db,
    `SELECT (SELECT COUNT(*) FROM people p WHERE ${audience.sql}
         AND NOT EXISTS (SELECT 1 FROM roll r WHERE r.occurrence_id = ? AND r.person_id = p.id)) AS joinedSince,
       (SELECT COUNT(*) FROM roll r JOIN people p ON p.id = r.person_id
         WHERE r.occurrence_id = ? AND r.answered_at IS NOT NULL AND NOT (${audience.sql})) AS goneSince,
       (SELECT COUNT(DISTINCT person_id) FROM earlier_answers WHERE occurrence_id = ?) AS earlier`,
    [...audience.bindings, occurrenceId, occurrenceId, ...audience.bindings, occurrenceId],
  );
  return row ?? { joinedSince: 0, goneSince: 0, earlier: 0 };
}

export type RollRow = Omit<RollPerson, 'left' | 'gone' | 'answered'> & {
  left: number;
  gone: number;
  answered: number;
};

/**
 * A page of a roll by name: all of it, or one part, with those whose name or station contains the search.
 *
 * @param options.who those whom who looks may see; null for everybody
 * @param options.audience who is in the audience now
 */
export function rollPage(
  db: Database,
  occurrenceId: number,
  options: {
    part: RollPart;
    search: string;
    after: { name: string; id: number } | null;
    most: number;
    who: Sql | null;
    audience: Sql;
  },
): Promise<RollRow[]> {
  const part = {
    all: 'TRUE',
    answered: 'r.answered_at IS NOT NULL',
    opened: 'r.answered_at IS NULL AND d.read_at IS NOT NULL',
    waiting: 'r.answered_at IS NULL',
  }[options.part];
  const like = `%${options.search.replace(/[\\%_]/g, (mark) => `\\${mark}`)}%`;
  const who = options.who ?? EVERYBODY;
  return rows(
    db,
    `SELECT p.id AS personId, p.name, s.name AS station, p.mail, p.standing = 'left' AS \`left\`,
       NOT (${options.audience.sql}) AS gone, ${ms('d.read_at')} AS openedMs,
       r.answered_at IS NOT NULL AS answered, ${ms('r.answered_at')} AS answeredMs, r.via,
       (SELECT ${ms('MAX(e.answered_at)')} FROM earlier_answers e WHERE e.occurrence_id = r.occurrence_id AND e.person_id = r.person_id) AS earlierMs
     ${ROLL} LEFT JOIN stations s ON s.id = p.station_id
     WHERE r.occurrence_id = ? AND ${part} AND ${who.sql} AND (? = '' OR p.name LIKE ? OR s.name LIKE ?)
       AND (? IS NULL OR (p.name, p.id) > (?, ?))
     ORDER BY p.name, p.id LIMIT ?`,
    [
      ...options.audience.bindings,
      occurrenceId,
      ...who.bindings,
      options.search,
      like,
      like,
      options.after?.id ?? null,
      options.after?.name ?? '',
      options.after?.id ?? 0,
      options.most,
    ],
  );
}

/** Somebody's place on a roll, held until the transaction ends: of two answers at once one goes after the other. */
export async function holdOnRoll(
  db: Database,
  occurrenceId: number,
  personId: number,
): Promise<{ answeredMs: number | null; overdue: number } | undefined> {
  const [row] = await rows<{ answeredMs: number | null; overdue: number }>(
    db,
    `SELECT ${ms('r.answered_at')} AS answeredMs, COALESCE((SELECT a.closes_at <= NOW(3) FROM asks a WHERE a.occurrence_id = r.occurrence_id), FALSE) AS overdue
     FROM roll r WHERE r.occurrence_id = ? AND r.person_id = ? FOR UPDATE`,
    [occurrenceId, personId],
  );
  return row;
}

/** When somebody acknowledged an earlier text of this, in milliseconds since 1970, or null. */
export async function earlierAnswer(
  db: Database,
  occurrenceId: number,
  personId: number,
): Promise<number | null> {
  const [row] = await rows<{ earlierMs: number | null }>(
    db,
    `SELECT ${ms('MIN(answered_at)')} AS earlierMs FROM earlier_answers WHERE occurrence_id = ? AND person_id = ?`,
    [occurrenceId, personId],
  );
  return row?.earlierMs ?? null;
}

/** Keeps the answers to an earlier text and asks everybody again; gives how many had answered. */
export async function askAgain(db: Database, occurrenceId: number, versionId: number): Promise<number> {
  await change(
    db,
    `INSERT INTO earlier_answers (occurrence_id, person_id, version_id, answered_at, via)
     SELECT occurrence_id, person_id, ?, answered_at, via FROM roll WHERE occurrence_id = ? AND answered_at IS NOT NULL
     ON DUPLICATE KEY UPDATE earlier_answers.via = earlier_answers.via`,
    [versionId, occurrenceId],
  );
  return change(
    db,
    'UPDATE roll SET answered_at = NULL, via = NULL WHERE occurrence_id = ? AND answered_at IS NOT NULL',
    [occurrenceId],
  );
}

/** Records an answer: true for the first one only, false where there was one already or nothing was asked. */
export async function answerOnce(
  db: Database,
  occurrenceId: number,
  personId: number,
  via: 'page' | 'mail' | 'push',
): Promise<boolean> {
  const changed = await change(
    db,
    'UPDATE roll SET answered_at = NOW(3), via = ? WHERE occurrence_id = ? AND person_id = ? AND answered_at IS NULL',
    [via, occurrenceId, personId],
  );
  return changed === 1;
}

/** When this person answered: an instant, null for not yet, undefined where they were not asked. */
export async function answerOf(
  db: Database,
  occurrenceId: number,
  personId: number,
): Promise<number | null | undefined> {
  const [row] = await rows<{ answeredMs: number | null }>(
    db,
    `SELECT ${ms('answered_at')} AS answeredMs FROM roll WHERE occurrence_id = ? AND person_id = ?`,
    [occurrenceId, personId],
  );
  return row?.answeredMs;
}

/** Sends that ask for something and have begun to go, the latest first; one author's, or all. */
export function asks(
  db: Database,
  authorId: number | null,
  most: number,
): Promise<Omit<AskListing, 'tally'>[]> {
  return rows(
    db,
    `SELECT o.id AS occurrenceId, a.kind, v.title, s.created_by AS createdBy, p.name AS author, o.state, ${ms('o.due_at')} AS dueMs,
       ${ms('o.deadline_at')} AS deadlineMs, ${ms('a.closed_at')} AS closedMs
     FROM asks a JOIN occurrences o ON o.id = a.occurrence_id JOIN sends s ON s.id = o.send_id
       JOIN announcement_versions v ON v.id = o.version_id JOIN people p ON p.id = s.created_by
     WHERE (? IS NULL OR s.created_by = ?)
     ORDER BY o.due_at DESC, o.id DESC LIMIT ?`,
    [authorId, authorId, most],
  );
}

/** The groups somebody owns. */
export function groupsOwnedBy(db: Database, personId: number): Promise<{ id: number; name: string }[]> {
  return rows(db, 'SELECT id, name FROM `groups` WHERE owner_id = ? ORDER BY name', [personId]);
}

/** When the list of who is missing goes to the owners of groups, in milliseconds since 1970, or null. */
export async function listDue(db: Database, occurrenceId: number): Promise<number | null> {
  const [row] = await rows<{ listMs: number | null }>(
    db,
    `SELECT ${ms('list_at')} AS listMs FROM asks WHERE occurrence_id = ?`,
    [occurrenceId],
  );
  return row?.listMs ?? null;
}

/** Groups that have an owner who is still here. */
export function ownedGroups(db: Database): Promise<{ id: number; name: string; ownerId: number }[]> {
  return rows(
    db,
    `SELECT g.id, g.name, g.owner_id AS ownerId FROM \`groups\` g JOIN people p ON p.id = g.owner_id
     WHERE p.standing <> 'left' ORDER BY g.id`,
  );
}

/** Which of some occurrences ask something of a person. */
export async function askedAmong(
  db: Database,
  personId: number,
  occurrenceIds: readonly number[],
): Promise<Set<number>> {
  if (occurrenceIds.length === 0) return new Set();
  const found = await rows<{ id: number }>(
    db,
    `SELECT occurrence_id AS id FROM roll WHERE person_id = ? AND occurrence_id IN (${occurrenceIds.map(() => '?').join(', ')})`,
    [personId, ...occurrenceIds],
  );
  return new Set(found.map((row) => row.id));
}
