import type { SheetColumn, SheetRecord } from '../../core/sheets/sheet.ts';
import { CHANGED, type SheetOrder } from '../../core/sheets/view.ts';
import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import type { Narrowing } from './conditionStore.ts';
import { readRecord, RECORD, type StoredRecord } from './store.ts';

/** By which a sheet as it is now is told from the same sheet as it was: when it changed last, how many it has and lost, and its columns. */
export async function stampOf(db: Database, sheetId: number): Promise<{ stamp: string; total: number }> {
  const [row] = await rows<{ at: number | null; total: number; removed: number; revision: number }>(
    db,
    `SELECT (SELECT ${ms('MAX(changed_at)')} FROM records WHERE sheet_id = s.id) AS at, s.records AS total, s.removed, s.revision
     FROM sheets s WHERE s.id = ?`,
    [sheetId],
  );
  const total = row?.total ?? 0;
  return { stamp: `${row?.at ?? 0}.${total}.${row?.removed ?? 0}.${row?.revision ?? 0}`, total };
}

/** The newest records of a sheet, from one place on. */
export const newestIds = async (
  db: Database,
  sheetId: number,
  from: number,
  most: number,
): Promise<number[]> =>
  (
    await rows<{ id: number }>(
      db,
      'SELECT id FROM records WHERE sheet_id = ? ORDER BY id DESC LIMIT ? OFFSET ?',
      [sheetId, most, from],
    )
  ).map(({ id }) => id);

/** How a column is ordered by, empty cells last. */
function orderOf({ column, turned }: SheetOrder, columns: readonly SheetColumn[]): Narrowing | null {
  const way = turned ? 'DESC' : 'ASC';
  if (column === CHANGED) return { sql: `changed_at ${way}`, values: [] };
  const found = columns.find(({ id }) => id === column);
  if (!found) return null;
  const path = `$.${column}`;
  const last = "COALESCE(JSON_VALUE(cells, ?), '') = ''";
  switch (found.kind) {
    case 'number':
      return { sql: `${last}, CAST(JSON_VALUE(cells, ?) AS DOUBLE) ${way}`, values: [path, path] };
    case 'choice':
      // As they are offered, which may be from small to large.
      return {
        sql: `${last}, FIELD(JSON_VALUE(cells, ?) COLLATE utf8mb4_bin${', ?'.repeat(found.choices.length)}) ${way}`,
        values: [path, path, ...found.choices],
      };
    case 'date':
    case 'moment':
    case 'yes or no':
      return { sql: `${last}, JSON_VALUE(cells, ?) ${way}`, values: [path, path] };
    default:
      // Box 2 comes before Box 10.
      return {
        sql: `${last}, NATURAL_SORT_KEY(JSON_VALUE(cells, ?)) COLLATE utf8mb4_unicode_520_ci ${way}`,
        values: [path, path],
      };
  }
}

/** The ids of the records of a sheet that may meet a condition and in which something is found, in order. */
export async function orderedIds(
  db: Database,
  sheetId: number,
  columns: readonly SheetColumn[],
  { narrowed, order, search }: { narrowed: Narrowing; order: readonly SheetOrder[]; search: string },
): Promise<number[]> {
  const by = order.flatMap((each) => orderOf(each, columns) ?? []);
  const found = await rows<{ id: number }>(
    db,
    `SELECT id FROM records WHERE sheet_id = ? AND ${narrowed.sql}
      AND (? = '' OR INSTR(LOWER(JSON_EXTRACT(cells, '$.*')), LOWER(?)) > 0)
     ORDER BY ${[...by.map(({ sql }) => sql), 'id DESC'].join(', ')}`,
    [sheetId, ...narrowed.values, search, search, ...by.flatMap(({ values }) => values)],
  );
  return found.map(({ id }) => id);
}

/** Some records of a sheet; what is gone is left out. */
export async function recordsInOrder(
  db: Database,
  sheetId: number,
  ids: readonly number[],
): Promise<SheetRecord[]> {
  if (ids.length === 0) return [];
  const found = await rows<StoredRecord>(
    db,
    `${RECORD} WHERE r.sheet_id = ? AND r.id IN (${ids.map(() => '?').join(', ')})`,
    [sheetId, ...ids],
  );
  const byId = new Map(found.map((row) => [row.id, readRecord(row)]));
  return ids.flatMap((id) => byId.get(id) ?? []);
}
