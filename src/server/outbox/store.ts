import { change, rows, type Database } from '../database/connection.ts';

/** Writes what happened. Call it in the transaction that made it happen. */
export async function publish(db: Database, topics: readonly string[]): Promise<void> {
  if (topics.length > 0) await db('outbox').insert(topics.map((topic) => ({ topic })));
}

export interface Happening {
  id: number;
  topic: string;
}

/** What happened in the last seconds, oldest first. Ids may appear out of order: a transaction commits when it commits. */
export function recent(db: Database, seconds: number): Promise<Happening[]> {
  return rows<Happening>(
    db,
    'SELECT id, topic FROM outbox WHERE at > NOW(3) - INTERVAL ? SECOND ORDER BY id',
    [seconds],
  );
}

/** Forgets what is older than a number of hours. Live updates look back seconds only. */
export function forget(db: Database, hours: number): Promise<number> {
  return change(db, 'DELETE FROM outbox WHERE at < NOW(3) - INTERVAL ? HOUR LIMIT 10000', [hours]);
}
