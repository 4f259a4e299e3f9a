import type { StationLine } from '../../core/people/person.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** The stations by name, with how many are at each. */
export async function stationLines(db: Database): Promise<StationLine[]> {
  const found = await rows<Omit<StationLine, 'retired'> & { retired: number }>(
    db,
    `SELECT s.id, s.name, s.zone, s.retired_at IS NOT NULL AS retired, COUNT(p.id) AS people, COUNT(CASE WHEN p.zone = s.zone THEN 1 END) AS byItsClock
     FROM stations s LEFT JOIN people p ON p.station_id = s.id AND p.standing <> 'left' AND p.linked_to IS NULL
     GROUP BY s.id, s.name, s.zone, s.retired_at ORDER BY s.name`,
  );
  return found.map((row) => ({ ...row, retired: row.retired === 1 }));
}

/** Retires a station, or takes it into use again; false where that is how it was. */
export async function setRetired(db: Database, id: number, retired: boolean): Promise<boolean> {
  const changed = await change(
    db,
    retired
      ? 'UPDATE stations SET retired_at = NOW(3) WHERE id = ? AND retired_at IS NULL'
      : 'UPDATE stations SET retired_at = NULL WHERE id = ? AND retired_at IS NOT NULL',
    [id],
  );
  return changed === 1;
}

/**
 * Lets everything that is at one station be at another: people, also those who have left, the votes noted by it, and its
 * holidays that the other has not.
 *
 * @returns how many people are moved
 */
export async function moveAll(db: Database, from: number, into: number): Promise<number> {
  const moved = await change(db, 'UPDATE people SET station_id = ? WHERE station_id = ?', [into, from]);
  await change(db, 'UPDATE ballots SET station_id = ? WHERE station_id = ?', [into, from]);
  await change(
    db,
    `UPDATE holidays SET station_id = ? WHERE station_id = ?
     AND on_date NOT IN (SELECT on_date FROM (SELECT on_date FROM holidays WHERE station_id = ?) there)`,
    [into, from, into],
  );
  return moved;
}

/** Holds a station's row until the transaction ends; nothing where there is none. */
export async function lockStation(db: Database, id: number): Promise<{ zone: string } | undefined> {
  const [row] = await rows<{ zone: string }>(db, 'SELECT zone FROM stations WHERE id = ? FOR UPDATE', [id]);
  return row;
}

/** @throws the database's duplicate-key error where there is a station of that name */
export async function insertStation(db: Database, name: string, zone: string): Promise<number> {
  const [id] = await db('stations').insert({ name, zone });
  return id ?? 0;
}

/** @throws the database's duplicate-key error where there is a station of that name */
export async function changeStation(db: Database, id: number, name: string, zone: string): Promise<void> {
  await change(db, 'UPDATE stations SET name = ?, zone = ? WHERE id = ?', [name, zone, id]);
}

/** Moves those at a station who read by one clock to another; gives how many. */
export function moveClocks(db: Database, id: number, from: string, to: string): Promise<number> {
  return change(db, 'UPDATE people SET zone = ? WHERE station_id = ? AND zone = ?', [to, id, from]);
}

/** Whether anybody is or was at a station. */
export async function isInUse(db: Database, id: number): Promise<boolean> {
  return (await rows(db, 'SELECT 1 FROM people WHERE station_id = ? LIMIT 1', [id])).length > 0;
}

export async function deleteStationById(db: Database, id: number): Promise<void> {
  await change(db, 'DELETE FROM holidays WHERE station_id = ?', [id]);
  await change(db, 'DELETE FROM stations WHERE id = ?', [id]);
}

/** The stations by their names in small letters. */
export async function stationIds(
  db: Database,
): Promise<Map<string, { id: number; name: string; zone: string }>> {
  const found = await rows<{ id: number; name: string; zone: string }>(
    db,
    'SELECT id, name, zone FROM stations',
  );
  return new Map(found.map((station) => [station.name.toLowerCase(), station]));
}
