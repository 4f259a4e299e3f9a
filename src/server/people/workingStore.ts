import type { Absence, Holiday } from '../../core/people/working.ts';
import { workDaysFromBits, workDaysToBits } from '../../core/timing/working.ts';
import { change, rows, type Database } from '../database/connection.ts';

export async function workDaysOf(db: Database, personId: number): Promise<number[]> {
  const [row] = await rows<{ bits: number }>(db, 'SELECT work_days AS bits FROM people WHERE id = ?', [
    personId,
  ]);
  return workDaysFromBits(row?.bits ?? 0);
}

export async function setWorkDays(db: Database, personId: number, days: readonly number[]): Promise<void> {
  await change(db, 'UPDATE people SET work_days = ? WHERE id = ?', [workDaysToBits(days), personId]);
}

/** Absences that have not ended a month ago, the nearest first. */
export function absencesOf(db: Database, personId: number): Promise<Absence[]> {
  return rows(
    db,
    `SELECT id, DATE_FORMAT(from_on, '%Y-%m-%d') AS \`from\`, DATE_FORMAT(to_on, '%Y-%m-%d') AS \`to\` FROM absences
     WHERE person_id = ? AND to_on > CURRENT_DATE - INTERVAL 30 DAY ORDER BY from_on LIMIT 100`,
    [personId],
  );
}

export async function insertAbsence(
  db: Database,
  personId: number,
  { from, to }: Pick<Absence, 'from' | 'to'>,
): Promise<number> {
  const [id] = await db('absences').insert({ person_id: personId, from_on: from, to_on: to });
  return id ?? 0;
}

export async function deleteAbsence(db: Database, personId: number, id: number): Promise<boolean> {
  return (await change(db, 'DELETE FROM absences WHERE id = ? AND person_id = ?', [id, personId])) === 1;
}

/** Holidays from a month ago on, in order. */
export function holidays(db: Database): Promise<Holiday[]> {
  return rows(
    db,
    `SELECT h.id, DATE_FORMAT(h.on_date, '%Y-%m-%d') AS \`on\`, h.name, h.station_id AS stationId, s.name AS station
     FROM holidays h LEFT JOIN stations s ON s.id = h.station_id
     WHERE h.on_date > CURRENT_DATE - INTERVAL 30 DAY ORDER BY h.on_date, s.name LIMIT 500`,
  );
}

export async function insertHoliday(
  db: Database,
  holiday: Pick<Holiday, 'on' | 'name' | 'stationId'>,
): Promise<number> {
  const [id] = await db('holidays').insert({
    on_date: holiday.on,
    name: holiday.name,
    station_id: holiday.stationId,
  });
  return id ?? 0;
}

export async function deleteHoliday(db: Database, id: number): Promise<boolean> {
  return (await change(db, 'DELETE FROM holidays WHERE id = ?', [id])) === 1;
}
