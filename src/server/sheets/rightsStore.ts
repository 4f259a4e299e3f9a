import type { SheetRights } from '../../core/sheets/sheet.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** Who is named for a sheet, by name. */
export async function peopleOfSheet(db: Database, sheetId: number): Promise<SheetRights['people']> {
  const found = await rows<{ id: number; name: string; mayChange: number }>(
    db,
    `SELECT n.person_id AS id, p.shown_name AS name, n.may_change AS mayChange
     FROM sheet_people n JOIN people p ON p.id = n.person_id WHERE n.sheet_id = ? ORDER BY p.shown_name, p.id`,
    [sheetId],
  );
  return found.map(({ mayChange, ...person }) => ({ ...person, mayChange: mayChange === 1 }));
}

/** What somebody may who is named for a sheet; undefined where they are not named. */
export async function namedFor(
  db: Database,
  sheetId: number,
  personId: number,
): Promise<{ mayChange: boolean } | undefined> {
  const [row] = await rows<{ mayChange: number }>(
    db,
    'SELECT may_change AS mayChange FROM sheet_people WHERE sheet_id = ? AND person_id = ?',
    [sheetId, personId],
  );
  return row && { mayChange: row.mayChange === 1 };
}

/** The sheets that are for those who are named, and that do not name somebody. */
export const sheetsWithout = (db: Database, personId: number): Promise<{ id: number }[]> =>
  rows(
    db,
    `SELECT s.id FROM sheets s WHERE s.seen_by = 'named'
       AND NOT EXISTS (SELECT 1 FROM sheet_people n WHERE n.sheet_id = s.id AND n.person_id = ?)`,
    [personId],
  );

/** Says who sees and changes a sheet. Whoever changes its columns meanwhile saves over another revision. */
export async function saveRights(
  db: Database,
  sheetId: number,
  { seenBy, people }: { seenBy: string; people: readonly { id: number; mayChange: boolean }[] },
): Promise<void> {
  await change(db, 'UPDATE sheets SET seen_by = ? WHERE id = ?', [seenBy, sheetId]);
  await change(db, 'DELETE FROM sheet_people WHERE sheet_id = ?', [sheetId]);
  for (const { id, mayChange } of people)
    await change(db, 'INSERT INTO sheet_people (sheet_id, person_id, may_change) VALUES (?, ?, ?)', [
      sheetId,
      id,
      mayChange,
    ]);
}
