import { change, rows, type Database } from '../database/connection.ts';

/** Gives a person's calendar feed a new key; the old address ends. */
export async function setCalendarKey(db: Database, personId: number, hash: Buffer): Promise<void> {
  await change(db, 'UPDATE people SET calendar_key = ? WHERE id = ?', [hash, personId]);
}

export async function personByCalendarKey(
  db: Database,
  hash: Buffer,
): Promise<{ id: number; role: 'coordinator' | 'editor' | 'member' } | undefined> {
  const [row] = await rows<{ id: number; role: 'coordinator' | 'editor' | 'member' }>(
    db,
    "SELECT id, role FROM people WHERE calendar_key = ? AND standing <> 'left'",
    [hash],
  );
  return row;
}
