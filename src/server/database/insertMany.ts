import { rows, type Database } from './connection.ts';

const TOGETHER = 500;

/**
 * Inserts rows into a table with an `id`, 500 in a statement, and gives the id that each got, in their order. The ids come back
 * with the rows: nothing rests on their being in sequence, which they are not where several nodes write.
 *
 * @throws the database's duplicate-key error where a key is there already
 */
export async function insertMany(
  db: Database,
  table: string,
  made: readonly Record<string, unknown>[],
): Promise<number[]> {
  const ids: number[] = [];
  for (let at = 0; at < made.length; at += TOGETHER) {
    const { sql, bindings } = db(table)
      .insert(made.slice(at, at + TOGETHER))
      .toSQL()
      .toNative();
    const found = await rows<{ id: number }>(db, `${sql} RETURNING id`, bindings);
    ids.push(...found.map(({ id }) => id));
  }
  return ids;
}

/** As `insertMany`, for one row. */
export async function insertOne(db: Database, table: string, made: Record<string, unknown>): Promise<number> {
  const [id] = await insertMany(db, table, [made]);
  if (id === undefined) throw new Error(`Nothing was inserted into ${table}`);
  return id;
}
