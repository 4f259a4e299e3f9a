import type { StationLine } from '../../core/people/person.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** The stations by name, with how many are at each. */
export function stationLines(db: Database): Promise<StationLine[]> {
  return rows(
    db,
    `SELECT s.id, s.name, s.zone, COUNT(p.id) AS people, COUNT(CASE WHEN p.zone = s.zone THEN 1 END) AS byItsClock
     FROM stations s LEFT JOIN people p ON p.station_id = s.id AND p.standing <> 'left' AND p.linked_to IS NULL
     GROUP BY s.id, s.name, s.zone ORDER BY s.name`,
  );
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
