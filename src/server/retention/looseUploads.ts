import { change, rows, transact, type Database } from '../database/connection.ts';
import { keysIn } from '../uploads/service.ts';

/** How many are looked for in one turn. */
const MOST = 50;

/** Notes the uploads that some texts, as they are stored, name and which are about to go. Whether anything else names them is looked up later. */
export async function noteLoose(db: Database, texts: readonly string[]): Promise<void> {
  const keys = keysIn(texts.map((text): unknown => JSON.parse(text)));
  if (keys.length === 0) return;
  await change(
    db,
    `INSERT IGNORE INTO loose_uploads (upload_key) SELECT upload_key FROM uploads WHERE upload_key IN (${keys.map(() => '?').join(', ')})`,
    keys,
  );
}

/** Every column in which a document can stand. */
const documentColumns = (db: Database): Promise<{ t: string; c: string }[]> =>
  rows(
    db,
    `SELECT c.TABLE_NAME AS t, c.COLUMN_NAME AS c FROM information_schema.COLUMNS c
       JOIN information_schema.TABLES t ON t.TABLE_SCHEMA = c.TABLE_SCHEMA AND t.TABLE_NAME = c.TABLE_NAME
     WHERE c.TABLE_SCHEMA = DATABASE() AND t.TABLE_TYPE = 'BASE TABLE' AND c.DATA_TYPE IN ('text', 'mediumtext', 'longtext', 'json')
       AND c.TABLE_NAME NOT IN ('findables', 'hook_deliveries', 'events', 'audit')`,
  );

/** Deletes noted uploads that nothing names any more, so many at a time; gives whether there are more. */
export async function deleteLoose(db: Database): Promise<boolean> {
  const noted = (
    await rows<{ key: string }>(db, 'SELECT upload_key AS `key` FROM loose_uploads LIMIT ?', [MOST])
  ).map((row) => row.key);
  if (noted.length === 0) return false;
  const loose = new Set(noted);
  for (const { t, c } of await documentColumns(db)) {
    if (loose.size === 0) break;
    const named = await rows<{ key: string }>(
      db,
      // Not of what is noted: another engine may have done with it meanwhile, and it would look as if nothing named it.
      `SELECT k.upload_key AS \`key\` FROM uploads k WHERE k.upload_key IN (${[...loose].map(() => '?').join(', ')})
         AND EXISTS (SELECT 1 FROM \`${t}\` x WHERE x.\`${c}\` LIKE CONCAT('%', k.upload_key, '%'))`,
      [...loose],
    );
    for (const { key } of named) loose.delete(key);
  }
  await transact(db, async (trx) => {
    for (const key of loose)
      for (const table of ['archived_files', 'upload_parts', 'uploads'])
        await change(trx, `DELETE FROM ${table} WHERE upload_key = ?`, [key]);
    await change(
      trx,
      `DELETE FROM loose_uploads WHERE upload_key IN (${noted.map(() => '?').join(', ')})`,
      noted,
    );
  });
  return noted.length === MOST;
}
