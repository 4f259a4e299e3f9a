import type { Stands } from '../../core/audience/stands.ts';
import type { DateChange } from '../../core/calendar/session.ts';
import type { KnownDate, LaidDate } from '../../core/calendar/dates.ts';
import type { Participant } from '../../core/calendar/shown.ts';
import type { Sql } from '../audience/sql.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** A date of a session with what the session says. Instants in milliseconds since 1970. */
export interface DateRow {
  id: number;
  sessionId: number;
  title: string;
  text: string;
  zone: string;
  capacity: number | null;
  startMs: number;
  minutes: number;
  place: string;
  link: string;
  note: string;
  calledOff: boolean;
  sequence: number;
}

const marks = (ids: readonly number[]): string => ids.map(() => '?').join(', ');
const instant = (epochMs: number): Date => new Date(epochMs);

const COLUMNS = `d.id, d.session_id AS sessionId, s.title, s.text, s.zone, s.capacity, ${ms('d.starts_at')} AS startMs, d.minutes,
  d.place, d.link, d.note, d.called_off AS calledOff, d.sequence`;
const FROM = 'session_dates d JOIN calendar_sessions s ON s.id = d.session_id';

type Stored = Omit<DateRow, 'calledOff'> & { calledOff: number };
const read = (row: Stored): DateRow => ({ ...row, calledOff: row.calledOff === 1 });

/** A date; held until the transaction ends where that is wanted. */
export async function dateById(db: Database, id: number, held = false): Promise<DateRow | undefined> {
  // Held by itself, so that answers to other dates of the session need not wait.
  if (held) await rows(db, 'SELECT id FROM session_dates WHERE id = ? FOR UPDATE', [id]);
  const [row] = await rows<Stored>(db, `SELECT ${COLUMNS} FROM ${FROM} WHERE d.id = ?`, [id]);
  return row && read(row);
}

/** Dates of some sessions that end after an instant, by when they begin. */
export async function datesOf(
  db: Database,
  sessionIds: readonly number[],
  span: { endAfterMs: number; beforeMs?: number; after?: { startMs: number; id: number } | null },
  most: number,
): Promise<DateRow[]> {
  if (sessionIds.length === 0) return [];
  const { endAfterMs, beforeMs, after } = span;
  const found = await rows<Stored>(
    db,
    `SELECT ${COLUMNS} FROM ${FROM} WHERE d.session_id IN (${marks(sessionIds)})
       AND d.starts_at + INTERVAL d.minutes MINUTE > ? ${beforeMs === undefined ? '' : 'AND d.starts_at < ?'}
       ${after ? 'AND (d.starts_at > ? OR (d.starts_at = ? AND d.id > ?))' : ''}
     ORDER BY d.starts_at, d.id LIMIT ?`,
    [
      ...sessionIds,
      instant(endAfterMs),
      ...(beforeMs === undefined ? [] : [instant(beforeMs)]),
      ...(after ? [instant(after.startMs), instant(after.startMs), after.id] : []),
      most,
    ],
  );
  return found.map(read);
}

/** The last dates of a session that are over, the latest first. */
export async function datesPast(
  db: Database,
  sessionId: number,
  nowMs: number,
  most: number,
): Promise<DateRow[]> {
  const found = await rows<Stored>(
    db,
    `SELECT ${COLUMNS} FROM ${FROM} WHERE d.session_id = ? AND d.starts_at + INTERVAL d.minutes MINUTE <= ?
     ORDER BY d.starts_at DESC LIMIT ?`,
    [sessionId, instant(nowMs), most],
  );
  return found.map(read);
}

/** The dates of a session that begin after an instant, held, with whether anything was said of them. */
export async function datesToRelay(db: Database, sessionId: number, fromMs: number): Promise<KnownDate[]> {
  const found = await rows<
    Omit<KnownDate, 'own' | 'calledOff' | 'answered'> & { own: number; calledOff: number; answered: number }
  >(
    db,
    `SELECT d.id, d.meant, ${ms('d.starts_at')} AS startMs, d.own, d.called_off AS calledOff,
       EXISTS (SELECT 1 FROM session_answers a WHERE a.date_id = d.id) AS answered
     FROM session_dates d WHERE d.session_id = ? AND d.starts_at > ? ORDER BY d.starts_at FOR UPDATE`,
    [sessionId, instant(fromMs)],
  );
  return found.map((row) => ({
    ...row,
    own: row.own === 1,
    calledOff: row.calledOff === 1,
    answered: row.answered === 1,
  }));
}

interface Whereabouts {
  minutes: number;
  place: string;
  link: string;
  remindMinutes: number | null;
}

const remindAt = (startMs: number, remindMinutes: number | null): Date | null =>
  remindMinutes === null ? null : instant(startMs - remindMinutes * 60_000);

/** Lays dates out; such as are there already stay as they are. */
export async function insertDates(
  db: Database,
  sessionId: number,
  dates: readonly LaidDate[],
  { minutes, place, link, remindMinutes }: Whereabouts,
): Promise<void> {
  if (dates.length === 0) return;
  await db('session_dates')
    .insert(
      dates.map(({ meant, startMs }) => ({
        session_id: sessionId,
        meant,
        starts_at: instant(startMs),
        minutes,
        place,
        link,
        remind_at: remindAt(startMs, remindMinutes),
      })),
    )
    .onConflict(['session_id', 'meant'])
    .ignore();
}

/** Moves dates to other times. Two of a session may change places. */
export async function moveDates(
  db: Database,
  moves: readonly { id: number; to: LaidDate }[],
  remindMinutes: number | null,
): Promise<void> {
  for (const { id } of moves)
    await change(db, "UPDATE session_dates SET meant = CONCAT('~', id) WHERE id = ?", [id]);
  for (const { id, to } of moves)
    await change(
      db,
      `UPDATE session_dates SET meant = ?, starts_at = ?, remind_at = ?, reminded = FALSE, sequence = sequence + 1
       WHERE id = ?`,
      [to.meant, instant(to.startMs), remindAt(to.startMs, remindMinutes), id],
    );
}

/** Has the dates ahead of a session that follow it be as long, at the place and reminded of as it says. */
export const followSession = (
  db: Database,
  sessionId: number,
  fromMs: number,
  { minutes, place, link, remindMinutes }: Whereabouts,
): Promise<number> =>
  change(
    db,
    `UPDATE session_dates SET sequence = sequence + 1, minutes = IF(own, minutes, ?), place = IF(own, place, ?),
       link = IF(own, link, ?), reminded = reminded AND remind_at <=> ${remindSql(remindMinutes)},
       remind_at = ${remindSql(remindMinutes)}
     WHERE session_id = ? AND starts_at > ?`,
    [
      minutes,
      place,
      link,
      ...remindBinding(remindMinutes),
      ...remindBinding(remindMinutes),
      sessionId,
      instant(fromMs),
    ],
  );
const remindSql = (remindMinutes: number | null): string =>
  remindMinutes === null ? 'NULL' : 'starts_at - INTERVAL ? MINUTE';
const remindBinding = (remindMinutes: number | null): number[] =>
  remindMinutes === null ? [] : [remindMinutes];

/** Changes one date by itself. */
export const changeDate = (
  db: Database,
  id: number,
  startMs: number,
  { minutes, place, link, note }: DateChange,
  remindMinutes: number | null,
): Promise<number> =>
  change(
    db,
    `UPDATE session_dates SET reminded = reminded AND starts_at = ?, starts_at = ?, minutes = ?, place = ?, link = ?, note = ?,
       own = TRUE, sequence = sequence + 1, remind_at = ? WHERE id = ?`,
    [instant(startMs), instant(startMs), minutes, place, link, note, remindAt(startMs, remindMinutes), id],
  );

/** Calls dates off, or has them take place again. */
export async function setCalledOff(
  db: Database,
  ids: readonly number[],
  calledOff: boolean,
  note: string,
): Promise<void> {
  if (ids.length === 0) return;
  await change(
    db,
    `UPDATE session_dates SET called_off = ?, note = ?, sequence = sequence + 1 WHERE id IN (${marks(ids)})`,
    [calledOff, note, ...ids],
  );
}

export async function deleteDates(db: Database, ids: readonly number[]): Promise<void> {
  if (ids.length > 0) await change(db, `DELETE FROM session_dates WHERE id IN (${marks(ids)})`, ids);
}

/** How many stand how to each of some dates; those who have left are not counted. */
export async function countsOf(
  db: Database,
  dateIds: readonly number[],
): Promise<Map<number, Record<Stands, number>>> {
  const counts = new Map(dateIds.map((id) => [id, { yes: 0, waiting: 0, perhaps: 0, no: 0 }]));
  if (dateIds.length === 0) return counts;
  for (const { dateId, stands, n } of await rows<{ dateId: number; stands: Stands; n: number }>(
    db,
    `SELECT a.date_id AS dateId, a.stands, COUNT(*) AS n FROM session_answers a JOIN people p ON p.id = a.person_id
     WHERE a.date_id IN (${marks(dateIds)}) AND p.standing <> 'left' GROUP BY a.date_id, a.stands`,
    dateIds,
  )) {
    const of = counts.get(dateId);
    if (of) of[stands] = n;
  }
  return counts;
}

/** What a person has said of some dates. */
export async function saidBy(
  db: Database,
  personId: number,
  dateIds: readonly number[],
): Promise<Map<number, Stands>> {
  if (dateIds.length === 0) return new Map();
  const found = await rows<{ dateId: number; stands: Stands }>(
    db,
    `SELECT date_id AS dateId, stands FROM session_answers WHERE person_id = ? AND date_id IN (${marks(dateIds)})`,
    [personId, ...dateIds],
  );
  return new Map(found.map((row) => [row.dateId, row.stands]));
}

/** Keeps what somebody says of a date. Who waits already keeps their place in the line. */
export const putAnswer = (
  db: Database,
  answer: { dateId: number; personId: number; stands: Stands; via: 'page' | 'mail' },
): Promise<number> =>
  change(
    db,
    `INSERT INTO session_answers (date_id, person_id, stands, said_at, via) VALUES (?, ?, ?, NOW(3), ?)
     ON DUPLICATE KEY UPDATE said_at = IF(stands = VALUES(stands), said_at, NOW(3)), stands = VALUES(stands), via = VALUES(via)`,
    [answer.dateId, answer.personId, answer.stands, answer.via],
  );

export const deleteAnswer = (db: Database, dateId: number, personId: number): Promise<number> =>
  change(db, 'DELETE FROM session_answers WHERE date_id = ? AND person_id = ?', [dateId, personId]);

/** Those who wait for a place, the longest waiting first. */
export async function waitingFor(db: Database, dateId: number, most: number): Promise<number[]> {
  const found = await rows<{ id: number }>(
    db,
    `SELECT a.person_id AS id FROM session_answers a JOIN people p ON p.id = a.person_id
     WHERE a.date_id = ? AND a.stands = 'waiting' AND p.standing <> 'left' ORDER BY a.said_at, a.person_id LIMIT ?`,
    [dateId, most],
  );
  return found.map((row) => row.id);
}

export const letCome = (db: Database, dateId: number, people: readonly number[]): Promise<number> =>
  change(
    db,
    `UPDATE session_answers SET stands = 'yes', said_at = NOW(3)
     WHERE date_id = ? AND stands = 'waiting' AND person_id IN (${marks(people)})`,
    [dateId, ...people],
  );

/** The dates ahead that somebody waits for, where whoever comes has left or the session takes more than it did. */
export async function datesWithRoom(db: Database, most: number): Promise<number[]> {
  const found = await rows<{ id: number }>(
    db,
    `SELECT d.id FROM (SELECT DISTINCT date_id FROM session_answers WHERE stands = 'waiting') w
       JOIN session_dates d ON d.id = w.date_id JOIN calendar_sessions s ON s.id = d.session_id
     WHERE d.starts_at > NOW(3) AND NOT d.called_off AND (s.capacity IS NULL OR s.capacity >
       (SELECT COUNT(*) FROM session_answers a JOIN people p ON p.id = a.person_id
        WHERE a.date_id = d.id AND a.stands = 'yes' AND p.standing <> 'left')) LIMIT ?`,
    [most],
  );
  return found.map((row) => row.id);
}

/** A condition over `people p`: who has not said no to a date. */
export const hasNotDeclined = (dateId: number): Sql => ({
  sql: "NOT EXISTS (SELECT 1 FROM session_answers a WHERE a.date_id = ? AND a.person_id = p.id AND a.stands = 'no')",
  bindings: [dateId],
});

/** A condition over `people p`: who has said nothing of a date. */
export const hasSaidNothing = (dateId: number): Sql => ({
  sql: 'NOT EXISTS (SELECT 1 FROM session_answers a WHERE a.date_id = ? AND a.person_id = p.id)',
  bindings: [dateId],
});

/** Claims a date whose participants are to be reminded now; held until the transaction ends. */
export async function claimReminder(db: Database): Promise<{ id: number } | undefined> {
  const [row] = await rows<{ id: number }>(
    db,
    `SELECT d.id FROM session_dates d WHERE NOT d.reminded AND d.remind_at <= NOW(3) AND NOT d.called_off
     ORDER BY d.remind_at LIMIT 1 FOR UPDATE SKIP LOCKED`,
  );
  if (row) await change(db, 'UPDATE session_dates SET reminded = TRUE WHERE id = ?', [row.id]);
  return row;
}

/** SQL for the next instant at which participants of a date are to be reminded. */
export const REMINDER_DUE =
  'SELECT MIN(remind_at) FROM session_dates WHERE NOT reminded AND remind_at IS NOT NULL AND NOT called_off';

/** A page of those a date is for, by name, with what they have said. */
export function participants(
  db: Database,
  dateId: number,
  who: Sql,
  filter: { stands: Stands | 'silent' | 'all'; after: { name: string; personId: number } | null },
  most: number,
): Promise<Participant[]> {
  const { stands, after } = filter;
  const standing = stands === 'all' ? '' : stands === 'silent' ? 'AND a.stands IS NULL' : 'AND a.stands = ?';
  return rows(
    db,
    `SELECT p.id AS personId, p.shown_name AS name, CONCAT_WS(', ', NULLIF(p.occupation, ''), t.name) AS detail, a.stands,
       ${ms('a.said_at')} AS saidMs
     FROM people p LEFT JOIN stations t ON t.id = p.station_id
       LEFT JOIN session_answers a ON a.person_id = p.id AND a.date_id = ?
     WHERE ((${who.sql}) OR (a.stands IS NOT NULL AND p.standing <> 'left')) ${standing}
       ${after ? 'AND (p.name > (SELECT q.name FROM people q WHERE q.id = ?) OR (p.name = (SELECT q.name FROM people q WHERE q.id = ?) AND p.id > ?))' : ''}
     ORDER BY p.name, p.id LIMIT ?`,
    [
      dateId,
      ...who.bindings,
      ...(stands === 'all' || stands === 'silent' ? [] : [stands]),
      ...(after ? [after.personId, after.personId, after.personId] : []),
      most,
    ],
  );
}
