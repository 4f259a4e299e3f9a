import { rows, type Database } from './connection.ts';

interface Runs {
  /** Has begun, and may not show what was committed since. */
  begun: Promise<unknown>;
  /** Begins when that is done, for all who have asked meanwhile. */
  next: Promise<unknown> | null;
}
const running = new WeakMap<Database, Map<string, Runs>>();

/**
 * What `rows` gives, for a statement that takes its time and that many ask at once, as every desk does when an answer has come in:
 * it runs once for all who ask while it waits to begin, and once at a time. Each is given what was read after they asked, so that
 * all that was committed before is in it. In a transaction it is asked as any other.
 *
 * @returns rows that others are given as well: nobody changes them
 */
export function rowsTogether<T>(
  db: Database,
  sql: string,
  bindings: readonly unknown[] = [],
): Promise<readonly T[]> {
  if (db.isTransaction) return rows<T>(db, sql, bindings);
  const ofDatabase = running.get(db) ?? new Map<string, Runs>();
  running.set(db, ofDatabase);
  const key = JSON.stringify([sql, bindings]);
  const run = (): Promise<readonly T[]> => rows<T>(db, sql, bindings);
  const known = ofDatabase.get(key);
  if (known) {
    known.next ??= known.begun.then(run, run);
    return known.next as Promise<readonly T[]>;
  }
  const follow = (begun: Promise<unknown>): void => {
    const runs: Runs = { begun, next: null };
    ofDatabase.set(key, runs);
    const done = (): void => {
      if (runs.next) follow(runs.next);
      else ofDatabase.delete(key);
    };
    begun.then(done, done);
  };
  const begun = run();
  follow(begun);
  return begun;
}
