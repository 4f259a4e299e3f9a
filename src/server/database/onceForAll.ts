import { rows, type Database } from './connection.ts';

interface Runs {
  /** The first; once it has begun it may not show what was committed since. */
  first: Promise<unknown>;
  begun: boolean;
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
  if (known && !known.begun) return known.first as Promise<T>;
  if (known) {
    known.next ??= known.first.then(work, work);
    return known.next as Promise<T>;
  }
  const follow = (runs: Runs): void => {
    ofDatabase.set(name, runs);
    const done = (): void => {
      if (runs.next) follow({ first: runs.next, begun: true, next: null });
      else ofDatabase.delete(name);
    };
    runs.first.then(done, done);
  };
  // In a moment, so that all who ask in this one are given the same.
  const first = Promise.resolve().then(() => {
    runs.begun = true;
    return work();
  });
  const runs: Runs = { first, begun: false, next: null };
  follow(runs);
  return first;
}

/** What `rows` gives, for a statement that takes its time and that many ask at once (see `onceForAll`). */
export const rowsForAll = <T>(
  db: Database,
  sql: string,
  bindings: readonly unknown[] = [],
): Promise<readonly T[]> => onceForAll(db, [sql, bindings], () => rows<T>(db, sql, bindings));
