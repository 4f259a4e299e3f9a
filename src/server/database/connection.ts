import knex, { type Knex } from 'knex';
import { noteDamage } from './damage.ts';
import { ms } from './instant.ts';

export type Database = Knex;
export type Transaction = Knex.Transaction;

/** A connection pool in which every instant is UTC and every statement reads what is committed. */
export function connect(databaseUrl: string, most = 10): Database {
  const address = new URL(databaseUrl);
  // JSON columns stay text until a schema has read them; the types of the query builder do not know that setting.
  const strictJson = { jsonStrings: true };
  const db = knex({
    client: 'mysql2',
    connection: {
      ...strictJson,
      host: address.hostname,
      port: Number(address.port || 3306),
      user: decodeURIComponent(address.username),
      password: decodeURIComponent(address.password),
      database: decodeURIComponent(address.pathname.slice(1)),
      timezone: 'Z',
      charset: 'utf8mb4',
    },
    pool: {
      min: 0,
      max: most,
      afterCreate: (
        connection: { query: (sql: string, done: (error: unknown) => void) => void },
        done: (error: unknown, connection: unknown) => void,
      ) => {
        // Read committed: claims are conditional updates, and gap locks would make engines wait on each other.
        connection.query(
          "SET SESSION time_zone = '+00:00', SESSION sql_mode = 'TRADITIONAL', SESSION tx_isolation = 'READ-COMMITTED'",
          (error) => done(error, connection),
        );
      },
    },
    acquireConnectionTimeout: 20_000,
    // A lost connection comes back as the error of the statement that needed it; it need not be printed as well.
    log: { warn: () => undefined, error: () => undefined },
  });
  noteDamage(db);
  return db;
}

/** MariaDB's errors after which the same transaction may simply be tried again: deadlock, lock wait, certification. */
export const RETRYABLE: ReadonlySet<number> = new Set([1213, 1205, 1020]);

function isRetryable(error: unknown): boolean {
  return error instanceof Error && 'errno' in error && RETRYABLE.has(Number(error.errno));
}

/** Whether an error is an answer of the database to a statement, and not that it could not be reached. */
export const answeredByDatabase = (error: unknown): boolean =>
  error instanceof Error && 'errno' in error && Number(error.errno) > 0 && 'sqlState' in error;

/** Whether an error says that a key is there already. */
export const isDuplicate = (error: unknown): boolean =>
  error instanceof Error && 'errno' in error && error.errno === 1062;

/** Whether an error says that a value is not one that its column takes: too long, out of range, of no such kind, not JSON. */
export const isRefusal = (error: unknown): boolean =>
  error instanceof Error &&
  'errno' in error &&
  [1048, 1264, 1265, 1292, 1364, 1366, 1406, 4025].includes(Number(error.errno));

/** Runs work in a transaction and again, a few times, when the database asks for that. The work must be repeatable. */
export async function transact<T>(db: Database, work: (trx: Transaction) => Promise<T>): Promise<T> {
  for (let attempt = 1; ; attempt++) {
    try {
      return await db.transaction(work);
    } catch (error) {
      // Inside another transaction, all of that is undone already: only the outermost may try again.
      if (attempt >= 5 || db.isTransaction === true || !isRetryable(error)) throw error;
      await new Promise((resolve) => setTimeout(resolve, attempt * 20 * Math.random()));
    }
  }
}

/**
 * The rows of a raw SELECT, in the shape the caller says they have: `scripts/rowTypes.ts` holds it beside what the database answered
 * in the tests.
 */
export async function rows<T>(db: Database, sql: string, bindings: readonly unknown[] = []): Promise<T[]> {
  const result = (await db.raw(sql, bindings as Knex.RawBinding[])) as [T[], unknown];
  return result[0];
}

/** The ids in a list that a statement gathered with JSON_ARRAYAGG; none where there was nothing to gather. */
export const idsIn = (list: string | null): number[] => (list === null ? [] : (JSON.parse(list) as number[]));

/** Runs a raw change and tells how many rows it touched. */
export async function change(db: Database, sql: string, bindings: readonly unknown[] = []): Promise<number> {
  const result = (await db.raw(sql, bindings as Knex.RawBinding[])) as [{ affectedRows: number }, unknown];
  return result[0].affectedRows;
}

/** The database's clock, the one clock of the whole application, in milliseconds since 1970. */
export async function databaseNow(db: Database): Promise<number> {
  const [row] = await rows<{ now: number }>(db, `SELECT ${ms('NOW(3)')} AS now`);
  if (!row) throw new Error('The database did not tell the time');
  return row.now;
}
