import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** After how many seconds without a sign whoever makes an archive is taken for gone. */
const GONE_SECONDS = 60;

export interface TakeoutRow {
  id: number;
  madeBy: number;
  by: string;
  state: 'under way' | 'ready' | 'failed';
  name: string;
  done: number;
  total: number;
  bytes: number;
  begunMs: number;
  endedMs: number | null;
  why: string | null;
  gone: boolean;
}

const TAKEOUT = `SELECT t.id, t.made_by AS madeBy, p.name AS \`by\`, t.state, t.name, t.done, t.total, t.bytes, ${ms('t.begun_at')} AS begunMs,
    ${ms('t.ended_at')} AS endedMs, t.why, t.state = 'under way' AND t.beat_at < NOW(3) - INTERVAL ${GONE_SECONDS} SECOND AS gone
  FROM takeouts t JOIN people p ON p.id = t.made_by`;

const read = ({ gone, ...row }: Omit<TakeoutRow, 'gone'> & { gone: number }): TakeoutRow => ({
  ...row,
  gone: gone === 1,
});

export async function latestTakeout(db: Database): Promise<TakeoutRow | undefined> {
  const [row] = await rows<Omit<TakeoutRow, 'gone'> & { gone: number }>(
    db,
    `${TAKEOUT} ORDER BY t.id DESC LIMIT 1`,
  );
  return row && read(row);
}

export async function takeoutById(db: Database, id: number): Promise<TakeoutRow | undefined> {
  const [row] = await rows<Omit<TakeoutRow, 'gone'> & { gone: number }>(db, `${TAKEOUT} WHERE t.id = ?`, [
    id,
  ]);
  return row && read(row);
}

/** Makes one where none is under way; the row of the organisation is held, so that of two that begin one does. */
export async function insertTakeout(trx: Database, by: number): Promise<number | undefined> {
  await rows(trx, 'SELECT id FROM organisation FOR UPDATE');
  const [row] = await rows(
    trx,
    `SELECT 1 FROM takeouts WHERE state = 'under way' AND beat_at >= NOW(3) - INTERVAL ${GONE_SECONDS} SECOND LIMIT 1`,
  );
  if (row) return undefined;
  await change(trx, 'DELETE FROM takeouts');
  const [id] = await trx('takeouts').insert({ made_by: by });
  return id;
}

/** Says how far it is. @returns whether it is still wanted */
export async function notifyTakeout(
  db: Database,
  id: number,
  { done, total, bytes }: { done: number; total: number; bytes: number },
): Promise<boolean> {
  return (
    (await change(
      db,
      "UPDATE takeouts SET done = ?, total = ?, bytes = ?, beat_at = NOW(3) WHERE id = ? AND state = 'under way'",
      [done, total, bytes, id],
    )) === 1
  );
}

export const insertTakeoutPart = (db: Database, id: number, n: number, bytes: Buffer): Promise<number> =>
  change(db, 'INSERT INTO takeout_parts (takeout_id, n, bytes) VALUES (?, ?, ?)', [id, n, bytes]);

/** Ends one that is under way. */
export const endTakeout = (
  db: Database,
  id: number,
  end: { state: 'ready'; name: string; bytes: number } | { state: 'failed'; why: string },
): Promise<number> =>
  change(
    db,
    "UPDATE takeouts SET state = ?, name = ?, bytes = ?, why = ?, ended_at = NOW(3) WHERE id = ? AND state = 'under way'",
    end.state === 'ready'
      ? [end.state, end.name, end.bytes, null, id]
      : [end.state, '', 0, end.why.slice(0, 300), id],
  );

export const dropTakeoutParts = (db: Database, id: number): Promise<number> =>
  change(db, 'DELETE FROM takeout_parts WHERE takeout_id = ?', [id]);

export const deleteTakeout = (db: Database, id: number): Promise<number> =>
  change(db, 'DELETE FROM takeouts WHERE id = ?', [id]);

/** Deletes archives that were ready, or given up, so many hours ago. */
export const forgetTakeouts = (db: Database, hours: number): Promise<number> =>
  change(db, 'DELETE FROM takeouts WHERE COALESCE(ended_at, beat_at) < NOW(3) - INTERVAL ? HOUR', [hours]);

export async function takeoutPart(db: Database, id: number, n: number): Promise<Buffer | undefined> {
  const [row] = await rows<{ bytes: Buffer }>(
    db,
    'SELECT bytes FROM takeout_parts WHERE takeout_id = ? AND n = ?',
    [id, n],
  );
  return row?.bytes;
}

/** How much there is to be read, as the database estimates it. */
export async function estimated(db: Database, tables: readonly string[]): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    `SELECT CAST(COALESCE(SUM(TABLE_ROWS), 0) AS SIGNED) AS n FROM information_schema.TABLES
     WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME IN (${tables.map(() => '?').join(', ')})`,
    [...tables],
  );
  return row?.n ?? 0;
}
