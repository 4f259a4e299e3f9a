import type { Database } from './connection.ts';

/** So long a claim that has ended is left to whoever held it, from when this process first saw that, in milliseconds. */
export const LEFT_MS = 4_000;
const FORGOTTEN_MS = 60_000;

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
