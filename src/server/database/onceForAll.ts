import { rows, type Database } from './connection.ts';

interface Runs {
  /** Has begun, and may not show what was committed since. */
  begun: Promise<unknown>;
  /** Begins when that is done, for all who have asked meanwhile. */
  next: Promise<unknown> | null;
}
const running = new WeakMap<Database, Map<string, Runs>>();

/**
 * Does once what many ask for at the same moment, as every desk does when an answer has come in: for all who ask while it waits to
 * begin, and one at a time. Each is given what was read after they asked, so that all that was committed before is in it. In a
 * transaction it is done for itself.
 *
 * @param key what is asked for, and all it depends on; whether somebody may ask is for the caller to know before
 * @param work reads, and changes nothing
 * @returns what others are given as well: nobody changes it
 */
export function onceForAll<T>(db: Database, key: readonly unknown[], work: () => Promise<T>): Promise<T> {
  if (db.isTransaction) return work();
  const ofDatabase = running.get(db) ?? new Map<string, Runs>();
  running.set(db, ofDatabase);
  const name = JSON.stringify(key);
  const known = ofDatabase.get(name);
  if (known) {
    known.next ??= known.begun.then(work, work);
    return known.next as Promise<T>;
  }
  const follow = (begun: Promise<unknown>): void => {
    const runs: Runs = { begun, next: null };
    ofDatabase.set(name, runs);
    const done = (): void => {
      if (runs.next) follow(runs.next);
      else ofDatabase.delete(name);
    };
    begun.then(done, done);
  };
  const begun = work();
  follow(begun);
  return begun;
}

/** What `rows` gives, for a statement that takes its time and that many ask at once (see `onceForAll`). */
export const rowsForAll = <T>(
  db: Database,
  sql: string,
  bindings: readonly unknown[] = [],
): Promise<readonly T[]> => onceForAll(db, [sql, bindings], () => rows<T>(db, sql, bindings));
