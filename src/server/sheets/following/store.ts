import { followingSchema, type FollowedSource } from '../../../core/sheets/followingSchema.ts';
import type { Cells } from '../../../core/sheets/sheet.ts';
import { change, rows, type Database } from '../../database/connection.ts';
import { ms } from '../../database/instant.ts';
import { countIn } from '../store.ts';

/** What a sheet follows, as it is stored. Instants are milliseconds since 1970. */
export interface SheetSourceRow {
  sheetId: number;
  source: FollowedSource;
  sealed: Buffer | null;
  etag: string | null;
  modified: string | null;
  position: string;
  warnings: string[];
  trouble: string | null;
  readMs: number | null;
  tryMs: number;
  revision: number;
}

type Stored = Omit<SheetSourceRow, 'source' | 'warnings'> & { source: string; warnings: string };
const SOURCE = `SELECT f.sheet_id AS sheetId, f.source, f.secret AS sealed, f.etag, f.modified, f.position, f.warnings, f.trouble,
    ${ms('f.read_at')} AS readMs, ${ms('f.try_at')} AS tryMs, f.revision FROM sheet_sources f`;
const read = (row: Stored): SheetSourceRow => ({
  ...row,
  source: followingSchema.parse(JSON.parse(row.source)),
  warnings: JSON.parse(row.warnings) as string[],
});

export async function sourceOfSheet(db: Database, sheetId: number): Promise<SheetSourceRow | undefined> {
  const [row] = await rows<Stored>(db, `${SOURCE} WHERE f.sheet_id = ?`, [sheetId]);
  return row && read(row);
}

/** Has a sheet follow a source. @throws the database's duplicate-key error where it follows one already */
export async function insertSource(
  db: Database,
  sheetId: number,
  made: { source: FollowedSource; sealed: Buffer | null; madeBy: number },
): Promise<void> {
  await db('sheet_sources').insert({
    sheet_id: sheetId,
    source: JSON.stringify(made.source),
    secret: made.sealed,
    warnings: '[]',
    try_at: db.raw('NOW(3) + INTERVAL 2 MINUTE'),
    made_by: made.madeBy,
  });
}

/**
 * Has a sheet follow its source in another way, over the revision its author saw; false where it is not that any more. It is read anew
 * from the beginning.
 *
 * @param sealed the secret; undefined leaves it
 */
export async function saveSource(
  db: Database,
  sheetId: number,
  revision: number,
  source: FollowedSource,
  sealed: Buffer | null | undefined,
): Promise<boolean> {
  return (
    (await change(
      db,
      `UPDATE sheet_sources SET source = ?, secret = ${sealed === undefined ? 'secret' : '?'}, etag = NULL, modified = NULL, position = '',
         failures = 0, revision = revision + 1 WHERE sheet_id = ? AND revision = ?`,
      [JSON.stringify(source), ...(sealed === undefined ? [] : [sealed]), sheetId, revision],
    )) === 1
  );
}

/** Has a sheet follow nothing; its records are its own from then on. */
export async function deleteSource(db: Database, sheetId: number): Promise<boolean> {
  const gone = await change(db, 'DELETE FROM sheet_sources WHERE sheet_id = ?', [sheetId]);
  await change(db, 'UPDATE records SET source_key = NULL WHERE sheet_id = ? AND source_key IS NOT NULL', [
    sheetId,
  ]);
  return gone === 1;
}

/** Notes that a source was read, and what it said of itself. */
export async function markRead(
  db: Database,
  { sheetId, revision }: SheetSourceRow,
  said: { etag: string | null; modified: string | null; position: string; warnings: readonly string[] },
): Promise<void> {
  await change(
    db,
    `UPDATE sheet_sources SET etag = ?, modified = ?, position = ?, warnings = ?, trouble = NULL, failures = 0, read_at = NOW(3),
       try_at = NOW(3) + INTERVAL JSON_VALUE(source, '$.everyMinutes') MINUTE WHERE sheet_id = ? AND revision = ?`,
    [
      said.etag?.slice(0, 300) ?? null,
      said.modified?.slice(0, 100) ?? null,
      said.position.slice(0, 300),
      JSON.stringify(said.warnings),
      sheetId,
      revision,
    ],
  );
}

/** Notes that a source says what it said before. */
export const markSame = (db: Database, sheetId: number): Promise<number> =>
  change(
    db,
    `UPDATE sheet_sources SET trouble = NULL, failures = 0, read_at = NOW(3),
       try_at = NOW(3) + INTERVAL JSON_VALUE(source, '$.everyMinutes') MINUTE WHERE sheet_id = ?`,
    [sheetId],
  );

/** Notes why a source could not be read; it is tried again after growing waits of at most six hours. */
export const markTrouble = (db: Database, sheetId: number, trouble: string): Promise<number> =>
  change(
    db,
    `UPDATE sheet_sources SET trouble = ?, failures = LEAST(failures + 1, 1000), try_at = NOW(3) + INTERVAL LEAST(
       GREATEST(JSON_VALUE(source, '$.everyMinutes'), 360), JSON_VALUE(source, '$.everyMinutes') * POW(2, LEAST(failures, 8))) MINUTE
     WHERE sheet_id = ?`,
    [trouble.slice(0, 300), sheetId],
  );

/** How long one reading has a source to itself, in minutes. */
const CLAIM_MINUTES = 10;

/** Claims a source that is due to be read, so that no other engine reads it meanwhile; nothing where none is. */
export async function claimSource(db: Database): Promise<SheetSourceRow | undefined> {
  const [row] = await rows<Stored>(
    db,
    `${SOURCE} WHERE f.try_at <= NOW(3) ORDER BY f.try_at LIMIT 1 FOR UPDATE SKIP LOCKED`,
  );
  if (!row) return undefined;
  await change(db, 'UPDATE sheet_sources SET try_at = NOW(3) + INTERVAL ? MINUTE WHERE sheet_id = ?', [
    CLAIM_MINUTES,
    row.sheetId,
  ]);
  return read(row);
}

export interface FollowedRecord {
  id: number;
  key: string;
  cells: Cells;
}

/** The records of a sheet that have one of these keys at their source, held until the transaction ends. */
export async function recordsByKeys(
  db: Database,
  sheetId: number,
  keys: readonly string[],
): Promise<Map<string, FollowedRecord>> {
  if (keys.length === 0) return new Map();
  const found = await rows<Omit<FollowedRecord, 'cells'> & { cells: string }>(
    db,
    `SELECT id, source_key AS \`key\`, cells FROM records WHERE sheet_id = ? AND source_key IN (${keys.map(() => '?').join(', ')}) FOR UPDATE`,
    [sheetId, ...keys],
  );
  return new Map(found.map((row) => [row.key, { ...row, cells: JSON.parse(row.cells) as Cells }]));
}

/** The keys of all records of a sheet that come from its source, with their ids. */
export async function keysOf(db: Database, sheetId: number): Promise<Map<string, number>> {
  const found = await rows<{ id: number; key: string }>(
    db,
    'SELECT id, source_key AS `key` FROM records WHERE sheet_id = ? AND source_key IS NOT NULL',
    [sheetId],
  );
  return new Map(found.map(({ id, key }) => [key, id]));
}

/** How many records of a sheet come from its source. */
export async function countFollowed(db: Database, sheetId: number): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    'SELECT COUNT(*) AS n FROM records WHERE sheet_id = ? AND source_key IS NOT NULL',
    [sheetId],
  );
  return row?.n ?? 0;
}

/** Writes a record that comes from a source; gives its id. */
export async function insertFollowedRecord(
  db: Database,
  sheetId: number,
  key: string,
  cells: Cells,
): Promise<number> {
  const [id] = await db('records').insert({
    sheet_id: sheetId,
    source_key: key,
    cells: JSON.stringify(cells),
  });
  await countIn(db, sheetId, 1);
  return id ?? 0;
}

/** What sets a record apart at its source; null where it is the sheet's own. */
export async function sourceKeyOf(db: Database, recordId: number): Promise<string | null> {
  const [row] = await rows<{ key: string | null }>(
    db,
    'SELECT source_key AS `key` FROM records WHERE id = ?',
    [recordId],
  );
  return row?.key ?? null;
}
