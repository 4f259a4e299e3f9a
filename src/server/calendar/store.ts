import type { Audience } from '../../core/audience/expression.ts';
import { audienceSchema } from '../../core/audience/expression.ts';
import type { SessionInput } from '../../core/calendar/session.ts';
import { ruleSchema } from '../../core/timing/rule.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import type { Sql } from '../audience/sql.ts';

/** A session as it is stored. Instants in milliseconds since 1970. */
export interface CalendarSession extends SessionInput {
  id: number;
  revision: number;
  calledOff: boolean;
  madeBy: number | null;
  /** The calendar elsewhere that it follows; null for our own. */
  followedId: number | null;
  followedName: string | null;
}

interface Row extends Omit<CalendarSession, 'rule' | 'audience' | 'calledOff'> {
  rule: string | null;
  audience: string;
  calledOff: number;
}

const COLUMNS = `s.id, s.title, s.text, s.wall, s.zone, s.minutes, s.place, s.link, s.rule, s.audience, s.capacity,
  s.remind_minutes AS remindMinutes, s.revision, s.called_off_at IS NOT NULL AS calledOff, s.made_by AS madeBy,
  s.followed_id AS followedId, (SELECT f.name FROM followed_calendars f WHERE f.id = s.followed_id) AS followedName`;

const read = (row: Row): CalendarSession => ({
  ...row,
  rule: row.rule === null ? null : ruleSchema.parse(JSON.parse(row.rule)),
  audience: audienceSchema.parse(JSON.parse(row.audience)),
  calledOff: row.calledOff === 1,
});

const instant = (epochMs: number): Date => new Date(epochMs);

/** A session; held until the transaction ends where that is wanted. */
export async function sessionById(
  db: Database,
  id: number,
  held = false,
): Promise<CalendarSession | undefined> {
  const [row] = await rows<Row>(
    db,
    `SELECT ${COLUMNS} FROM calendar_sessions s WHERE s.id = ?${held ? ' FOR UPDATE' : ''}`,
    [id],
  );
  return row && read(row);
}

/** The titles of some sessions. */
export async function sessionTitles(db: Database, ids: readonly number[]): Promise<Map<number, string>> {
  if (ids.length === 0) return new Map();
  const found = await rows<{ id: number; title: string }>(
    db,
    `SELECT id, title FROM calendar_sessions WHERE id IN (${ids.map(() => '?').join(', ')})`,
    ids,
  );
  return new Map(found.map(({ id, title }) => [id, title]));
}

/** The sessions with a date ahead that are not called off, by title, with whom each is for. */
export async function sessionsAhead(
  db: Database,
  most: number,
): Promise<{ id: number; title: string; recurs: boolean; audience: Audience }[]> {
  const found = await rows<{ id: number; title: string; recurs: number; audience: string }>(
    db,
    `SELECT s.id, s.title, s.rule IS NOT NULL AS recurs, s.audience FROM calendar_sessions s
     WHERE s.called_off_at IS NULL AND EXISTS (SELECT 1 FROM session_dates d WHERE d.session_id = s.id AND d.starts_at > NOW(3))
     ORDER BY s.rule IS NULL, s.title, s.id LIMIT ?`,
    [most],
  );
  return found.map(({ recurs, audience, ...row }) => ({
    ...row,
    recurs: recurs === 1,
    audience: audienceSchema.parse(JSON.parse(audience)),
  }));
}

/** The sessions that have a date within a span, with whom each is for. */
export async function sessionsBetween(
  db: Database,
  fromMs: number,
  toMs: number | null,
): Promise<{ id: number; audience: Audience }[]> {
  const found = await rows<{ id: number; audience: string }>(
    db,
    `SELECT s.id, s.audience FROM calendar_sessions s
     WHERE EXISTS (SELECT 1 FROM session_dates d WHERE d.session_id = s.id AND d.starts_at >= ?
       ${toMs === null ? '' : 'AND d.starts_at < ?'})`,
    toMs === null ? [instant(fromMs)] : [instant(fromMs), instant(toMs)],
  );
  return found.map(({ id, audience }) => ({ id, audience: audienceSchema.parse(JSON.parse(audience)) }));
}

const values = (input: SessionInput): unknown[] => [
  input.title,
  input.text,
  input.wall,
  input.zone,
  input.minutes,
  input.place,
  input.link,
  input.rule && JSON.stringify(input.rule),
  JSON.stringify(input.audience),
  input.capacity,
  input.remindMinutes,
];

export async function insertSession(
  db: Database,
  input: SessionInput,
  madeBy: number | null,
  laidToMs: number,
): Promise<number> {
  const [id] = (await db('calendar_sessions').insert({
    title: input.title,
    text: input.text,
    wall: input.wall,
    zone: input.zone,
    minutes: input.minutes,
    place: input.place,
    link: input.link,
    rule: input.rule && JSON.stringify(input.rule),
    audience: JSON.stringify(input.audience),
    capacity: input.capacity,
    remind_minutes: input.remindMinutes,
    made_by: madeBy,
    laid_to: instant(laidToMs),
  })) as [number];
  return id;
}

export const updateSession = (
  db: Database,
  id: number,
  input: SessionInput,
  laidToMs: number,
): Promise<number> =>
  change(
    db,
    `UPDATE calendar_sessions SET title = ?, text = ?, wall = ?, zone = ?, minutes = ?, place = ?, link = ?, rule = ?,
       audience = ?, capacity = ?, remind_minutes = ?, laid_to = ?, revision = revision + 1 WHERE id = ?`,
    [...values(input), instant(laidToMs), id],
  );

export const markCalledOff = (db: Database, id: number): Promise<number> =>
  change(db, 'UPDATE calendar_sessions SET called_off_at = NOW(3), revision = revision + 1 WHERE id = ?', [
    id,
  ]);

/** A recurring session whose dates are not laid out far enough ahead, held; null where there is none. */
export async function sessionToLay(db: Database, beforeMs: number): Promise<CalendarSession | null> {
  const [row] = await rows<Row>(
    db,
    `SELECT ${COLUMNS} FROM calendar_sessions s
     WHERE s.called_off_at IS NULL AND s.laid_to < ? AND s.rule IS NOT NULL LIMIT 1 FOR UPDATE SKIP LOCKED`,
    [instant(beforeMs)],
  );
  return row ? read(row) : null;
}

export const setLaidTo = (db: Database, id: number, laidToMs: number): Promise<number> =>
  change(db, 'UPDATE calendar_sessions SET laid_to = ? WHERE id = ?', [instant(laidToMs), id]);

/** Which of some sessions are for a person, each told by a condition over `people p`. */
export async function matchingSessions(
  db: Database,
  personId: number,
  conditions: readonly { id: number; who: Sql }[],
): Promise<number[]> {
  if (conditions.length === 0) return [];
  const found = await rows<{ id: number }>(
    db,
    conditions
      .map(({ who }) => `(SELECT ? AS id FROM people p WHERE p.id = ? AND ${who.sql})`)
      .join(' UNION ALL '),
    conditions.flatMap(({ id, who }) => [id, personId, ...who.bindings]),
  );
  return found.map((row) => row.id);
}

export async function personBySessionsKey(db: Database, hash: Buffer): Promise<{ id: number } | undefined> {
  const [row] = await rows<{ id: number }>(
    db,
    "SELECT id FROM people WHERE sessions_key = ? AND standing <> 'left'",
    [hash],
  );
  return row;
}

export const setSessionsKey = (db: Database, personId: number, hash: Buffer): Promise<number> =>
  change(db, 'UPDATE people SET sessions_key = ? WHERE id = ?', [hash, personId]);

/** Dates by what they are of and when they begin: those of some ids, or those a month back and three months ahead. */
export function namedDates(
  db: Database,
  ids: readonly number[] | null,
): Promise<{ id: number; title: string; startMs: number; zone: string }[]> {
  const near = 'd.starts_at BETWEEN NOW(3) - INTERVAL 30 DAY AND NOW(3) + INTERVAL 90 DAY';
  if (ids?.length === 0) return Promise.resolve([]);
  return rows(
    db,
    `SELECT d.id, s.title, ${ms('d.starts_at')} AS startMs, s.zone
     FROM session_dates d JOIN calendar_sessions s ON s.id = d.session_id
     WHERE ${ids === null ? near : `d.id IN (${ids.map(() => '?').join(', ')})`} ORDER BY d.starts_at, d.id LIMIT 200`,
    ids ?? [],
  );
}
