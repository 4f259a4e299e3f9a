import {
  highestColumn,
  sheetSchema,
  type Cells,
  type SeenBy,
  type SheetRecord,
  type SheetShape,
} from '../../core/sheets/sheet.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

export interface SheetRow extends SheetShape {
  id: number;
  revision: number;
  formKey: string | null;
  seenBy: SeenBy;
  /** The highest number a column of it ever had. */
  lastColumn: number;
}

interface Stored {
  seenBy: SeenBy;
  lastColumn: number;
  id: number;
  name: string;
  purpose: string;
  columns: string;
  form: string | null;
  formKey: string | null;
  revision: number;
}

const SHEET =
  'SELECT s.id, s.name, s.purpose, s.columns, s.form, s.form_key AS formKey, s.seen_by AS seenBy, s.last_column AS lastColumn, s.revision FROM sheets s';

const read = ({ columns, form, ...row }: Stored): SheetRow => ({
  ...row,
  ...sheetSchema.parse({
    name: row.name,
    purpose: row.purpose,
    columns: JSON.parse(columns) as unknown,
    form: form === null ? null : (JSON.parse(form) as unknown),
  }),
});

export async function sheetById(db: Database, id: number): Promise<SheetRow | undefined> {
  const [row] = await rows<Stored>(db, `${SHEET} WHERE s.id = ?`, [id]);
  return row && read(row);
}

/**
 * A sheet, held until the transaction ends, so that nobody changes its columns while records are written. Shared, several may change
 * records of it side by side; none may be added or deleted.
 */
export async function lockSheet(
  db: Database,
  id: number,
  how: 'FOR UPDATE' | 'LOCK IN SHARE MODE' = 'FOR UPDATE',
): Promise<SheetRow | undefined> {
  const [row] = await rows<Stored>(db, `${SHEET} WHERE s.id = ? ${how}`, [id]);
  return row && read(row);
}

export async function sheetByFormKey(db: Database, key: string): Promise<SheetRow | undefined> {
  const [row] = await rows<Stored>(db, `${SHEET} WHERE s.form_key = ?`, [key]);
  return row && read(row);
}

/** All sheets, by name. */
export async function allSheets(db: Database): Promise<SheetRow[]> {
  return (await rows<Stored>(db, `${SHEET} ORDER BY s.name`)).map(read);
}

/** How many records each sheet has, and when one of it changed last. */
export async function sheetCounts(
  db: Database,
): Promise<Map<number, { records: number; changedMs: number | null }>> {
  const found = await rows<{ id: number; records: number; changedMs: number | null }>(
    db,
    `SELECT sheet_id AS id, COUNT(*) AS records, ${ms('MAX(changed_at)')} AS changedMs FROM records GROUP BY sheet_id`,
  );
  return new Map(found.map(({ id, ...counts }) => [id, counts]));
}

/** @throws the database's duplicate-key error where there is a sheet of this name */
export async function insertSheet(
  db: Database,
  made: SheetShape & { formKey: string | null; by: number },
): Promise<number> {
  const [id] = await db('sheets').insert({
    name: made.name.trim(),
    purpose: made.purpose,
    columns: JSON.stringify(made.columns),
    form: made.form === null ? null : JSON.stringify(made.form),
    form_key: made.formKey,
    made_by: made.by,
    last_column: highestColumn(made.columns),
  });
  return id ?? 0;
}

/** Changes a sheet over the revision its author saw; false where it is not that any more. */
export async function saveSheet(
  db: Database,
  id: number,
  revision: number,
  shape: SheetShape & { formKey: string | null },
): Promise<boolean> {
  return (
    (await change(
      db,
      'UPDATE sheets SET name = ?, purpose = ?, columns = ?, form = ?, form_key = ?, last_column = GREATEST(last_column, ?), revision = revision + 1 WHERE id = ? AND revision = ?',
      [
        shape.name.trim(),
        shape.purpose,
        JSON.stringify(shape.columns),
        shape.form === null ? null : JSON.stringify(shape.form),
        shape.formKey,
        highestColumn(shape.columns),
        id,
        revision,
      ],
    )) === 1
  );
}

export async function deleteSheetById(db: Database, id: number): Promise<void> {
  await change(db, 'DELETE FROM sheets WHERE id = ?', [id]);
}

export const RECORD = `SELECT r.id, r.cells, ${ms('r.changed_at')} AS changedMs, p.name AS changedBy, r.source_key IS NOT NULL AS outside
  FROM records r LEFT JOIN people p ON p.id = r.changed_by`;
export type StoredRecord = Omit<SheetRecord, 'cells' | 'outside'> & { cells: string; outside: number };
export const readRecord = (row: StoredRecord): SheetRecord => ({
  ...row,
  cells: JSON.parse(row.cells) as Cells,
  outside: row.outside === 1,
});

/** A page of a sheet's records, the newest first, from before a record. */
export async function recordsPage(
  db: Database,
  sheetId: number,
  before: number | null,
  search: string,
  most: number,
): Promise<SheetRecord[]> {
  const found = await rows<StoredRecord>(
    db,
    `${RECORD} WHERE r.sheet_id = ? AND (? IS NULL OR r.id < ?) AND (? = '' OR INSTR(LOWER(JSON_EXTRACT(r.cells, '$.*')), LOWER(?)) > 0)
     ORDER BY r.id DESC LIMIT ?`,
    [sheetId, before, before, search, search, most],
  );
  return found.map(readRecord);
}

export async function countRecords(db: Database, sheetId: number, search: string): Promise<number> {
  if (search === '') {
    const [sheet] = await rows<{ n: number }>(db, 'SELECT records AS n FROM sheets WHERE id = ?', [sheetId]);
    return sheet?.n ?? 0;
  }
  const [row] = await rows<{ n: number }>(
    db,
    "SELECT COUNT(*) AS n FROM records r WHERE r.sheet_id = ? AND (? = '' OR INSTR(LOWER(JSON_EXTRACT(r.cells, '$.*')), LOWER(?)) > 0)",
    [sheetId, search, search],
  );
  return row?.n ?? 0;
}

/** Some records of a sheet, in the order they were made. */
export async function recordsByIds(
  db: Database,
  sheetId: number,
  ids: readonly number[],
): Promise<{ id: number; cells: Cells }[]> {
  const found: { id: number; cells: Cells }[] = [];
  for (let at = 0; at < ids.length; at += 1000) {
    const some = ids.slice(at, at + 1000);
    const part = await rows<{ id: number; cells: string }>(
      db,
      `SELECT id, cells FROM records WHERE sheet_id = ? AND id IN (${some.map(() => '?').join(', ')}) ORDER BY id`,
      [sheetId, ...some],
    );
    found.push(...part.map((row) => ({ id: row.id, cells: JSON.parse(row.cells) as Cells })));
  }
  return found;
}

/** A record, held until the transaction ends. */
export async function lockRecord(
  db: Database,
  id: number,
): Promise<{ sheetId: number; cells: Cells } | undefined> {
  const [row] = await rows<{ sheetId: number; cells: string }>(
    db,
    'SELECT sheet_id AS sheetId, cells FROM records WHERE id = ? FOR UPDATE',
    [id],
  );
  return row && { sheetId: row.sheetId, cells: JSON.parse(row.cells) as Cells };
}

/**
 * Writes records; gives their ids, in order.
 *
 * @param intent of a form that was sent in: what was sent with it before is not written again, and no id is given
 */
export async function insertRecords(
  db: Database,
  sheetId: number,
  made: readonly Cells[],
  by: number | null,
  fromForm: boolean,
  intent: string | null = null,
): Promise<number[]> {
  const ids: number[] = [];
  // One by one they have ids of their own on any database, also a replicated one where ids of one statement are not in a row.
  for (const cells of made) {
    const result = (await db.raw(
      `INSERT INTO records (sheet_id, cells, changed_by, from_form, intent) VALUES (?, ?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE records.id = records.id`,
      [sheetId, JSON.stringify(cells), by, fromForm, intent],
    )) as [{ insertId: number }, unknown];
    if (result[0].insertId > 0) ids.push(result[0].insertId);
  }
  await countIn(db, sheetId, ids.length);
  return ids;
}

/** Records, and characters, written by one statement at most: what the database takes at once is bounded. */
const WRITTEN_AT_ONCE = { records: 500, characters: 2_000_000 };

/** Parts a list into pieces of so many, and of so many characters together; what is longer alone is a piece of its own. */
function* pieces(texts: readonly string[]): Generator<string[]> {
  let piece: string[] = [];
  let characters = 0;
  for (const text of texts) {
    const full =
      piece.length >= WRITTEN_AT_ONCE.records || characters + text.length > WRITTEN_AT_ONCE.characters;
    if (full && piece.length > 0) {
      yield piece;
      piece = [];
      characters = 0;
    }
    piece.push(text);
    characters += text.length;
  }
  if (piece.length > 0) yield piece;
}

/**
 * Writes many records of a sheet that is held; gives their ids, in order. Nobody else adds to it meanwhile, so that those after the
 * last one before are these, also where the ids of one statement are not in a row.
 */
export async function insertManyRecords(
  trx: Database,
  sheetId: number,
  made: readonly Cells[],
  by: number,
): Promise<number[]> {
  const [last] = await rows<{ id: number | null }>(
    trx,
    'SELECT id FROM records WHERE sheet_id = ? ORDER BY id DESC LIMIT 1',
    [sheetId],
  );
  for (const some of pieces(made.map((cells) => JSON.stringify(cells))))
    await change(
      trx,
      `INSERT INTO records (sheet_id, cells, changed_by, from_form) VALUES ${some.map(() => '(?, ?, ?, FALSE)').join(', ')}`,
      some.flatMap((cells) => [sheetId, cells, by]),
    );
  await countIn(trx, sheetId, made.length);
  const found = await rows<{ id: number }>(
    trx,
    'SELECT id FROM records WHERE sheet_id = ? AND id > ? ORDER BY id',
    [sheetId, last?.id ?? 0],
  );
  return found.map(({ id }) => id);
}

/** Gives a record other cells, and keeps what it held. */
export async function changeRecord(
  db: Database,
  id: number,
  before: Cells,
  after: Cells,
  by: number | null,
): Promise<void> {
  await change(db, 'UPDATE records SET cells = ?, changed_at = NOW(3), changed_by = ? WHERE id = ?', [
    JSON.stringify(after),
    by,
    id,
  ]);
  await change(
    db,
    'INSERT INTO record_changes (record_id, before_cells, after_cells, changed_by) VALUES (?, ?, ?, ?)',
    [id, JSON.stringify(before), JSON.stringify(after), by],
  );
}

export async function deleteRecordById(db: Database, sheetId: number, id: number): Promise<void> {
  if ((await change(db, 'DELETE FROM records WHERE id = ?', [id])) === 0) return;
  await change(
    db,
    'UPDATE sheets SET records = IF(records > 0, records - 1, 0), removed = removed + 1 WHERE id = ?',
    [sheetId],
  );
}

/** Counts records that came into a sheet. */
export const countIn = (db: Database, sheetId: number, made: number): Promise<number> =>
  change(db, 'UPDATE sheets SET records = records + ? WHERE id = ?', [made, sheetId]);

/** Counts all sheets anew where the count is not what is there: after records were written by other ways, or by an older version. */
export const recountRecords = (db: Database): Promise<number> =>
  change(
    db,
    `UPDATE sheets s LEFT JOIN (SELECT sheet_id, COUNT(*) AS n FROM records GROUP BY sheet_id) r ON r.sheet_id = s.id
     SET s.records = COALESCE(r.n, 0), s.removed = s.removed + 1 WHERE s.records <> COALESCE(r.n, 0)`,
  );

/** What a record held before, the latest change first. */
export async function changesOfRecord(
  db: Database,
  id: number,
  most: number,
): Promise<{ before: Cells; after: Cells; atMs: number; by: string | null }[]> {
  const found = await rows<{ before: string; after: string; atMs: number; by: string | null }>(
    db,
    `SELECT c.before_cells AS \`before\`, c.after_cells AS \`after\`, ${ms('c.changed_at')} AS atMs, p.name AS \`by\`
     FROM record_changes c LEFT JOIN people p ON p.id = c.changed_by WHERE c.record_id = ? ORDER BY c.id DESC LIMIT ?`,
    [id, most],
  );
  return found.map((row) => ({
    ...row,
    before: JSON.parse(row.before) as Cells,
    after: JSON.parse(row.after) as Cells,
  }));
}
