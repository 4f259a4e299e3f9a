import { transact, type Database } from './connection.ts';

/** So long a claim that has ended is left to whoever held it, from when this process first saw that, in milliseconds. */
export const LEFT_MS = 4_000;
const FORGOTTEN_MS = 60_000;

/** How rows of one kind of work are claimed. */
export interface Claiming<T> {
  /** In which state a row waits, and in which it is claimed. */
  states: readonly [waiting: string, claimed: string];
  most: number;
  /**
   * Rows of a state that are due to be tried, the longest due first, locked, without those that another process is claiming
   * (`FOR UPDATE SKIP LOCKED`). The end of a claim is kept where the next try is, so that both are one search of one index.
   */
  due: (trx: Database, state: string, limit: number) => Promise<T[]>;
  /** Where what was done cannot be taken back: by what its ended claims are known, to be left alone for some seconds. */
  left?: { kind: string; keyOf: (each: T) => string | number };
  /** What else is claimed with these, as the rest of a bundle. */
  along?: (trx: Database, found: readonly T[]) => Promise<T[]>;
  /** Marks rows as claimed, with whose they are, until when, and one try more. */
  mark: (trx: Database, found: readonly T[]) => Promise<unknown>;
}

/**
 * Claims what is due, and after it what was claimed by a process that died: of any number of processes one gets each row. One
 * state is searched after the other: with both in one search the rows are sorted, and sorting locks every one that is due.
 */
export function claimDue<T>(
  db: Database,
  { states, most, due, left, along, mark }: Claiming<T>,
): Promise<T[]> {
  const [waiting, claimed] = states;
  return transact(db, async (trx) => {
    const found = await due(trx, waiting, most);
    if (found.length < most) {
      const ended = await due(trx, claimed, most - found.length);
      found.push(...(left ? leftBehind(db, left.kind, ended, left.keyOf) : ended));
    }
    if (found.length === 0) return [];
    if (along) found.push(...(await along(trx, found)));
    await mark(trx, found);
    return found;
  });
}

const seen = new WeakMap<Database, Map<string, 'just now' | 'a while ago'>>();

/**
 * Of claims that have ended, those that nobody will conclude any more: that had ended already at a look some seconds ago. Where
 * the whole machine was paused, or the database stood still, the claims of all processes end at once, though whoever holds them
 * is alive and about to write down what a mail server has taken: what is taken over at that instant is done twice. The seconds are
 * counted by a timer that begins when a claim is first found ended, so that a pause does not count.
 *
 * @param db of the process that looks, not a transaction of it
 * @param kind of what, so that two kinds with the same key are apart
 * @param found whose claims have ended, by the database's clock
 * @returns those to take over; each is forgotten with that, and is waited for again should its next claim end
 */
export function leftBehind<T>(
  db: Database,
  kind: string,
  found: readonly T[],
  keyOf: (each: T) => string | number,
): T[] {
  const known = seen.get(db) ?? new Map<string, 'just now' | 'a while ago'>();
  seen.set(db, known);
  return found.filter((each) => {
    const key = `${kind} ${keyOf(each)}`;
    const when = known.get(key);
    if (when === 'a while ago') return known.delete(key);
    if (when === undefined) {
      known.set(key, 'just now');
      setTimeout(() => known.has(key) && known.set(key, 'a while ago'), LEFT_MS).unref();
      setTimeout(() => known.delete(key), FORGOTTEN_MS).unref();
    }
    return false;
  });
}
