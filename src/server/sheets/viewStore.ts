import { viewSchema } from '../../core/sheets/viewSchema.ts';
import type { SheetView } from '../../core/sheets/view.ts';
import { change, rows, type Database } from '../database/connection.ts';

export interface ViewRow {
  id: number;
  name: string;
  shared: boolean;
  madeBy: number;
  view: SheetView;
}
type Stored = Omit<ViewRow, 'shared' | 'view'> & { shared: number; view: string };

const VIEW = 'SELECT id, name, shared, made_by AS madeBy, view FROM sheet_views';
const read = ({ shared, view, ...row }: Stored): ViewRow => ({
  ...row,
  shared: shared === 1,
  view: viewSchema.parse(JSON.parse(view)),
});

/** The views of a sheet that somebody has: their own, and those of everybody. */
export const viewsFor = async (db: Database, sheetId: number, personId: number): Promise<ViewRow[]> =>
  (
    await rows<Stored>(db, `${VIEW} WHERE sheet_id = ? AND (shared OR made_by = ?) ORDER BY name, id`, [
      sheetId,
      personId,
    ])
  ).map(read);

export async function lockView(db: Database, sheetId: number, id: number): Promise<ViewRow | undefined> {
  const [row] = await rows<Stored>(db, `${VIEW} WHERE sheet_id = ? AND id = ? FOR UPDATE`, [sheetId, id]);
  return row && read(row);
}

export async function insertView(
  db: Database,
  sheetId: number,
  by: number,
  { name, shared, view }: Pick<ViewRow, 'name' | 'shared' | 'view'>,
): Promise<number> {
  const [id] = await db('sheet_views').insert({
    sheet_id: sheetId,
    name,
    shared,
    view: JSON.stringify(view),
    made_by: by,
  });
  return id ?? 0;
}

export const saveView = (
  db: Database,
  id: number,
  { name, shared, view }: Pick<ViewRow, 'name' | 'shared' | 'view'>,
): Promise<number> =>
  change(db, 'UPDATE sheet_views SET name = ?, shared = ?, view = ? WHERE id = ?', [
    name,
    shared,
    JSON.stringify(view),
    id,
  ]);

export const deleteViewById = (db: Database, id: number): Promise<number> =>
  change(db, 'DELETE FROM sheet_views WHERE id = ?', [id]);
