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

/** The same by station, for one occurrence; those at no station come as null. */
export function talliesByStation(
  db: Database,
  occurrenceId: number,
): Promise<(Tally & { name: string | null })[]> {
  return rows(
    db,
    `SELECT s.name, COUNT(*) AS asked, COUNT(r.answered_at) AS answered
     FROM roll r JOIN people p ON p.id = r.person_id LEFT JOIN stations s ON s.id = p.station_id
     WHERE r.occurrence_id = ? GROUP BY s.id, s.name`,
    [occurrenceId],
  );
}

/** The same for those on the roll of whom a condition over `people p` holds: one group's part. */
export async function tallyWhere(db: Database, occurrenceId: number, who: Sql): Promise<Tally> {
  const [row] = await rows<Tally>(
    db,
    `SELECT COUNT(*) AS asked, COUNT(r.answered_at) AS answered
     FROM roll r JOIN people p ON p.id = r.person_id WHERE r.occurrence_id = ? AND ${who.sql}`,
    [occurrenceId, ...who.bindings],
  );
  return row ?? { asked: 0, answered: 0 };
}

export type RollRow = Omit<RollPerson, 'left'> & { left: number };

/** A page of a roll by name: all of it, or one part, with those whose name or station contains the search. */
export function rollPage(
  db: Database,
  occurrenceId: number,
  options: { part: RollPart; search: string; after: { name: string; id: number } | null; most: number },
): Promise<RollRow[]> {
  const part = {
    all: 'TRUE',
    answered: 'r.answered_at IS NOT NULL',
    waiting: 'r.answered_at IS NULL',
  }[options.part];
  const like = `%${options.search.replace(/[\\%_]/g, (mark) => `\\${mark}`)}%`;
  return rows(
    db,
    `SELECT p.id AS personId, p.name, s.name AS station, p.mail, p.standing = 'left' AS \`left\`,
       ${ms('r.answered_at')} AS answeredMs, r.via
     FROM roll r JOIN people p ON p.id = r.person_id LEFT JOIN stations s ON s.id = p.station_id
     WHERE r.occurrence_id = ? AND ${part} AND (? = '' OR p.name LIKE ? OR s.name LIKE ?)
       AND (? IS NULL OR (p.name, p.id) > (?, ?))
     ORDER BY p.name, p.id LIMIT ?`,
    [
      occurrenceId,
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

/** Records an answer: true for the first one only, false where there was one already or nothing was asked. */
export async function answerOnce(
  db: Database,
  occurrenceId: number,
  personId: number,
  via: 'page' | 'mail',
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
    `SELECT o.id AS occurrenceId, v.title, s.created_by AS createdBy, o.state, ${ms('o.due_at')} AS dueMs,
       ${ms('o.deadline_at')} AS deadlineMs
     FROM occurrences o JOIN sends s ON s.id = o.send_id JOIN announcement_versions v ON v.id = o.version_id
     WHERE o.state IN ('going out', 'sent') AND JSON_VALUE(s.plan, '$.ask.kind') <> 'nothing'
       AND (? IS NULL OR s.created_by = ?)
     ORDER BY o.due_at DESC, o.id DESC LIMIT ?`,
    [authorId, authorId, most],
  );
}
