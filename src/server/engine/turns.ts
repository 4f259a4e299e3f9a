/** What a turn says: how much it did, after which it is run again at once, or how long it sleeps. */
export type Turn = number | { sleepMs: number };

export const isSleep = (done: unknown): done is { sleepMs: number } =>
  typeof done === 'object' && done !== null && 'sleepMs' in done;

const FIRST_WAIT_MS = 400;
const LONGEST_WAIT_MS = 5_000;
/**
 * For so long after one that failed, a turn that finds nothing is followed by another soon. What a loop had claimed, and did not
 * hear that it had, it finds by its own name; but a claim passes over rows that another is looking at, and when the database is
 * there again all loops look at the same instant.
 */
const WARY_MS = 20_000;
const WARY_WAIT_MS = 400;

/**
 * Runs a turn again and again: at once after one that did something, and else once it is waited for. One that fails is tried
 * again soon, ever less often while it goes on failing.
 *
 * @param loop.rest waits until there may be something to do
 * @param loop.stir something was done, by which more may have become due
 * @param loop.failed is told of each failure, and for how many milliseconds it is waited after it
 * @param loop.stop ends it after the turn that is under way
 */
export async function takeTurns(
  turn: () => Promise<Turn>,
  loop: {
    rest: () => Promise<void>;
    sleep: (ms: number) => Promise<void>;
    stir: () => void;
    failed: (error: unknown, waitMs: number) => void;
    stop: AbortSignal;
  },
): Promise<void> {
  let failures = 0;
  let waryUntil = 0;
  while (!loop.stop.aborted) {
    try {
      const done = await turn();
      failures = 0;
      if (typeof done === 'object') await loop.sleep(done.sleepMs);
      else if (done > 0) loop.stir();
      else if (performance.now() < waryUntil) await loop.sleep(WARY_WAIT_MS * (1 + Math.random()));
      else await loop.rest();
    } catch (error) {
      const waitMs = Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** failures);
      failures++;
      waryUntil = performance.now() + WARY_MS;
      loop.failed(error, waitMs);
      await loop.sleep(waitMs);
    }
  }
}
