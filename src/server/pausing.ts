import { setImmediate } from 'node:timers/promises';

/** So much is done before others have their turn. */
const AT_ONCE = 500;

/** Maps a long list, and lets whatever else waits have its turn now and then: a process that answers others is never held up. */
export async function mapPausing<From, To>(
  list: readonly From[],
  change: (item: From, at: number) => To,
): Promise<To[]> {
  const made: To[] = [];
  for (const [at, item] of list.entries()) {
    made.push(change(item, at));
    if (at % AT_ONCE === AT_ONCE - 1) await setImmediate();
  }
  return made;
}
