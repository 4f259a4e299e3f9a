import type { Cells } from '../../core/sheets/sheet.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** When records are to be calculated anew: now, where there are some. */
export const CALCULATING_DUE =
  'SELECT IF(EXISTS (SELECT 1 FROM sheets WHERE calculate_after IS NOT NULL), NOW(3), NULL)';

/** Has all records of a sheet calculated anew, from the first. */
export const recalculate = (db: Database, sheetId: number): Promise<number> =>
  change(db, 'UPDATE sheets SET calculate_after = 0 WHERE id = ?', [sheetId]);

/** The sheets of which records are to be calculated anew. */
export const sheetsToCalculate = (db: Database): Promise<{ id: number }[]> =>
  rows(db, 'SELECT id FROM sheets WHERE calculate_after IS NOT NULL ORDER BY id');

/** The next records of a sheet that are to be calculated, held until the transaction ends; undefined where all are. */
export async function recordsToCalculate(
  db: Database,
  sheetId: number,
  most: number,
): Promise<{ id: number; cells: Cells }[] | undefined> {
  const [sheet] = await rows<{ after: number | null }>(
    db,
    'SELECT calculate_after AS `after` FROM sheets WHERE id = ? FOR UPDATE',
    [sheetId],
  );
  if (!sheet || sheet.after === null) return undefined;
  const found = await rows<{ id: number; cells: string }>(
    db,
    'SELECT id, cells FROM records WHERE sheet_id = ? AND id > ? ORDER BY id LIMIT ? FOR UPDATE',
    [sheetId, sheet.after, most],
  );
  return found.map(({ id, cells }) => ({ id, cells: JSON.parse(cells) as Cells }));
}

/** Writes what was calculated. It is no change by anybody: neither who changed a record nor when is touched. */
export const saveCalculated = (db: Database, id: number, cells: Cells): Promise<number> =>
  change(db, 'UPDATE records SET cells = ? WHERE id = ?', [JSON.stringify(cells), id]);

/** Notes how far a sheet is calculated; null where it is done. What was read of it is told apart from what is there now. */
export const calculatedTo = (db: Database, sheetId: number, last: number | null): Promise<number> =>
  change(db, 'UPDATE sheets SET calculate_after = ?, removed = removed + 1 WHERE id = ?', [last, sheetId]);
