import type { AskListing, RollPart, RollPerson, Tally } from '../../core/asks/roll.ts';
import type { Sql } from '../audience/sql.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { rowsForAll } from '../database/onceForAll.ts';
import { ms } from '../database/instant.ts';
import { keptCounts, sumOf } from '../retention/keptStore.ts';
import type { AnswerCounts } from '../../core/retention/counts.ts';

/** How many were asked and how many have answered, of each occurrence that asks for something. */
export async function tallies(db: Database, occurrenceIds: readonly number[]): Promise<Map<number, Tally>> {
  if (occurrenceIds.length === 0) return new Map();
  const found = await rowsForAll<{ occurrenceId: number; asked: number; answered: number }>(
    db,
    `SELECT occurrence_id AS occurrenceId, COUNT(*) AS asked, COUNT(answered_at) AS answered
     FROM roll WHERE occurrence_id IN (${occurrenceIds.map(() => '?').join(', ')}) GROUP BY occurrence_id`,
    occurrenceIds,
  );
  const counted = new Map(
    found.map(({ occurrenceId, asked, answered }) => [occurrenceId, { asked, answered }]),
  );
  for (const [occurrenceId, { answers }] of await keptCounts(db, occurrenceIds))
    if (answers) counted.set(occurrenceId, sumOf(answers));
  return counted;
}

/** What a part of a roll adds up to: besides the tally, how many opened it and have not answered. */
const SUMS = `COUNT(*) AS asked, COUNT(r.answered_at) AS answered,
  COUNT(IF(r.answered_at IS NULL, d.read_at, NULL)) AS opened`;
const ROLL = `FROM roll r JOIN people p ON p.id = r.person_id
  LEFT JOIN deliveries d ON d.occurrence_id = r.occurrence_id AND d.person_id = r.person_id AND d.method = 'inbox'`;
const EVERYBODY: Sql = { sql: 'TRUE', bindings: [] };

export interface StationTally extends Tally {
  /** Null: those at no station. */
  name: string | null;
  opened: number;
  /** Of those asked, how many are in the audience now; and how many answered and are not. */
  still: number;
  gone: number;
}

/**
 * Those on a roll of whom a condition over `people p` holds, by station. Who opened it is counted beside the rest and only
 * of those who have not answered: as one join over a roll of a hundred thousand it took a half longer.
 *
 * @param who null for everybody
 * @param audience who is in the audience now
 */
export async function talliesByStation(
  db: Database,
  occurrenceId: number,
  who: Sql | null,
  audience: Sql,
): Promise<StationTally[]> {
  const { sql, bindings } = who ?? EVERYBODY;
  const answers = who === null ? await keptAnswers(db, occurrenceId) : null;
  if (answers)
    return answers.map(({ station, ...row }) => ({
      ...row,
      name: station,
      opened: 0,
      still: row.asked,
      gone: 0,
    }));
  const [counted, looked] = await Promise.all([
    rowsForAll<Omit<StationTally, 'opened'> & { stationId: number | null }>(
      db,
      `SELECT x.station_id AS stationId, s.name, x.asked, x.answered, CAST(x.still AS SIGNED) AS still, CAST(x.gone AS SIGNED) AS gone
       FROM (SELECT w.station_id, COUNT(*) AS asked, COUNT(w.answered_at) AS answered, SUM(w.belongs) AS still,
           SUM(w.answered_at IS NOT NULL AND NOT w.belongs) AS gone
         FROM (SELECT p.station_id, r.answered_at, (${audience.sql}) AS belongs
           FROM roll r JOIN people p ON p.id = r.person_id WHERE r.occurrence_id = ? AND ${sql}) w
         GROUP BY w.station_id ORDER BY NULL) x LEFT JOIN stations s ON s.id = x.station_id`,
      [...audience.bindings, occurrenceId, ...bindings],
    ),
    rowsForAll<{ stationId: number | null; opened: number }>(
      db,
      `SELECT p.station_id AS stationId, COUNT(*) AS opened FROM roll r JOIN people p ON p.id = r.person_id
         JOIN deliveries d ON d.occurrence_id = r.occurrence_id AND d.person_id = r.person_id AND d.method = 'inbox'
       WHERE r.occurrence_id = ? AND r.answered_at IS NULL AND d.read_at IS NOT NULL AND ${sql}
       GROUP BY p.station_id ORDER BY NULL`,
      [occurrenceId, ...bindings],
    ),
  ]);
  const opened = new Map(looked.map((row) => [row.stationId, row.opened]));
  return counted.map(({ stationId, ...row }) => ({ ...row, opened: opened.get(stationId) ?? 0 }));
}

/** What a roll came to whose answers were forgotten; null where they are known. */
const keptAnswers = async (db: Database, occurrenceId: number): Promise<AnswerCounts | null> =>
  (await keptCounts(db, [occurrenceId])).get(occurrenceId)?.answers ?? null;

/** How many were asked at each station; those at no station come as null. */
export async function askedByStation(
  db: Database,
  occurrenceId: number,
): Promise<{ name: string | null; asked: number }[]> {
  const answers = await keptAnswers(db, occurrenceId);
  if (answers) return answers.map(({ station, asked }) => ({ name: station, asked }));
  return rows(
    db,
    `SELECT s.name, x.asked FROM (SELECT p.station_id, COUNT(*) AS asked
       FROM roll r JOIN people p ON p.id = r.person_id WHERE r.occurrence_id = ? GROUP BY p.station_id) x
     LEFT JOIN stations s ON s.id = x.station_id`,
    [occurrenceId],
  );
}

/** The same for all of whom a condition over `people p` holds: one group's part. */
export async function tallyWhere(
  db: Database,
  occurrenceId: number,
  who: Sql,
): Promise<Tally & { opened: number }> {
  const [row] = await rowsForAll<Tally & { opened: number }>(
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

/** How many had acknowledged an earlier text of this. */
export async function earlierCount(db: Database, occurrenceId: number): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    'SELECT COUNT(DISTINCT person_id) AS n FROM earlier_answers WHERE occurrence_id = ?',
    [occurrenceId],
  );
  return row?.n ?? 0;
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
    `SELECT p.id AS personId, p.shown_name AS name, s.name AS station, p.mail, p.standing = 'left' AS \`left\`,
       NOT (${options.audience.sql}) AS gone, ${ms('d.read_at')} AS openedMs,
       r.answered_at IS NOT NULL AS answered, ${ms('r.answered_at')} AS answeredMs, r.via,
       (SELECT ${ms('MAX(e.answered_at)')} FROM earlier_answers e WHERE e.occurrence_id = r.occurrence_id AND e.person_id = r.person_id) AS earlierMs
     ${ROLL} LEFT JOIN stations s ON s.id = p.station_id
     WHERE r.occurrence_id = ? AND ${part} AND ${who.sql} AND (? = '' OR p.name LIKE ? OR s.name LIKE ?)
       AND (? IS NULL OR (p.name, p.id) > ((SELECT q.name FROM people q WHERE q.id = ?), ?))
     ORDER BY p.name, p.id LIMIT ?`,
    [
      ...options.audience.bindings,
      occurrenceId,
      ...who.bindings,
      options.search,
      like,
      like,
      options.after?.id ?? null,
      options.after?.id ?? 0,
      options.after?.id ?? 0,
      options.most,
    ],
  );
}

/** Somebody's place on a roll. */
export interface PlaceOnRoll {
  personId: number;
  answeredMs: number | null;
}

/** The places of some people on a roll, held until the transaction ends: of two answers of one at once one goes after the other. */
export async function holdOnRoll(
  db: Database,
  occurrenceId: number,
  personIds: readonly number[],
): Promise<Map<number, PlaceOnRoll>> {
  const found = await rows<PlaceOnRoll>(
    db,
    `SELECT r.person_id AS personId, ${ms('r.answered_at')} AS answeredMs FROM roll r
     WHERE r.occurrence_id = ? AND r.person_id IN (${personIds.map(() => '?').join(', ')}) ORDER BY r.person_id FOR UPDATE`,
    [occurrenceId, ...personIds],
  );
  return new Map(found.map((place) => [place.personId, place]));
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

/** Keeps the answers to an earlier text and asks everybody again, open if it was closed; gives how many had answered. */
export async function askAgain(db: Database, occurrenceId: number, versionId: number): Promise<number> {
  await change(
    db,
    `INSERT INTO earlier_answers (occurrence_id, person_id, version_id, answered_at, via)
     SELECT occurrence_id, person_id, ?, answered_at, via FROM roll WHERE occurrence_id = ? AND answered_at IS NOT NULL
     ON DUPLICATE KEY UPDATE earlier_answers.via = earlier_answers.via`,
    [versionId, occurrenceId],
  );
  await change(
    db,
    'UPDATE asks SET closed_at = NULL, closed_by = NULL, closed_why = NULL, settled_at = NULL WHERE occurrence_id = ?',
    [occurrenceId],
  );
  return change(
    db,
    'UPDATE roll SET answered_at = NULL, via = NULL WHERE occurrence_id = ? AND answered_at IS NOT NULL',
    [occurrenceId],
  );
}

/** Writes on a roll that some people have answered, those of them who had not yet. */
export async function noteAnswered(
  db: Database,
  occurrenceId: number,
  personIds: readonly number[],
  via: 'page' | 'mail' | 'push',
): Promise<void> {
  if (personIds.length === 0) return;
  await change(
    db,
    `UPDATE roll SET answered_at = NOW(3), via = ?
     WHERE occurrence_id = ? AND person_id IN (${personIds.map(() => '?').join(', ')}) AND answered_at IS NULL`,
    [via, occurrenceId, ...personIds],
  );
}

/** Forgets an answer given within so many minutes; false where it is older, or there is none. */
export async function forgetAnswer(
  db: Database,
  occurrenceId: number,
  personId: number,
  minutes: number,
): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE roll SET answered_at = NULL, via = NULL
     WHERE occurrence_id = ? AND person_id = ? AND answered_at > NOW(3) - INTERVAL ? MINUTE`,
    [occurrenceId, personId, minutes],
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

/** When the list of who is missing goes to the owners of groups, in milliseconds since 1970, or null. */
export async function listDue(db: Database, occurrenceId: number): Promise<number | null> {
  const [row] = await rows<{ listMs: number | null }>(
    db,
    `SELECT ${ms('list_at')} AS listMs FROM asks WHERE occurrence_id = ?`,
    [occurrenceId],
  );
  return row?.listMs ?? null;
}

/** The zones of those on a roll. */
export async function zonesOnRoll(db: Database, occurrenceId: number): Promise<string[]> {
  const found = await rows<{ zone: string }>(
    db,
    'SELECT DISTINCT p.zone FROM roll r JOIN people p ON p.id = r.person_id WHERE r.occurrence_id = ?',
    [occurrenceId],
  );
  return found.map((row) => row.zone);
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
