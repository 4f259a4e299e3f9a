import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import PQueue from 'p-queue';
import { Problem } from '../problem.ts';
import type { Change } from './changes.ts';

/** Two at once: one for each core, and none for a third asker until one is done. */
const queue = new PQueue({ concurrency: 2 });
const MOST_WAITING = 20;
const LONGEST_MS = 15_000;
/** Shorter than this, what changed is found in less time than a worker takes to start. */
const SHORT = 2_000;

/**
 * What changed from one text to another, computed in a worker so that everybody else is served meanwhile.
 *
 * @throws 503 where too many wait for theirs, or it takes too long
 */
export async function changesInWorker(before: string, after: string): Promise<Change[]> {
  if (before.length + after.length < SHORT)
    return (await import('./changes.ts')).changesBetween(before, after);
  if (queue.size >= MOST_WAITING)
    throw new Problem(503, 'Too many texts are being compared just now. Try again in a moment.', {
      more: { retryAfter: 5 },
    });
  const changes = await queue.add(() => run(before, after));
  if (!changes) throw new Error('The worker gave nothing');
  return changes;
}

function run(before: string, after: string): Promise<Change[]> {
  const script = process.env.CLEAR_BELL_WORKER ?? fileURLToPath(new URL('./start.mjs', import.meta.url));
  return new Promise((resolve, reject) => {
    const worker = new Worker(script, { workerData: { before, after }, execArgv: [] });
    const late = setTimeout(() => {
      void worker.terminate();
      reject(
        new Problem(503, 'The two texts take too long to compare. Open both and read them side by side.'),
      );
    }, LONGEST_MS);
    worker.once('message', (changes: Change[]) => {
      clearTimeout(late);
      resolve(changes);
    });
    worker.once('error', (error) => {
      clearTimeout(late);
      reject(error);
    });
  });
}
