import { rows, type Database } from '../database/connection.ts';

const HERE = "guest_until IS NOT NULL AND standing <> 'left'";

/** The zones in which there is a guest. */
export async function zonesOfGuests(db: Database): Promise<string[]> {
  return (await rows<{ zone: string }>(db, `SELECT DISTINCT zone FROM people WHERE ${HERE}`)).map(
    (row) => row.zone,
  );
}

/** The guests of a zone whose last day is before a date; held until the transaction ends. */
export function guestsPast(
  db: Database,
  zone: string,
  date: string,
): Promise<{ id: number; until: string }[]> {
  return rows(
    db,
    `SELECT id, DATE_FORMAT(guest_until, '%Y-%m-%d') AS until FROM people
     WHERE ${HERE} AND guest_until < ? AND zone = ? FOR UPDATE`,
    [date, zone],
  );
}
