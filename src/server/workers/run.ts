import { fileURLToPath } from 'node:url';
import { Worker } from 'node:worker_threads';
import PQueue from 'p-queue';
import type { Jobs } from './jobs.ts';

/** Two at once: one for each core, and none for a third asker until one is done. */
const queue = new PQueue({ concurrency: 2 });
const MOST_WAITING = 20;
const LONGEST_MS = 15_000;
const MOST_MEGABYTES = 512;

/**
 * Does a job in a worker, so that everybody else is served meanwhile.
 *
 * @param refusals what is thrown where too many wait for theirs, and where it takes more than 15 seconds
 */
export async function inWorker<J extends keyof Jobs>(
  job: J,
  given: Parameters<Jobs[J]>[0],
  refusals: { busy: () => Error; late: () => Error },
): Promise<ReturnType<Jobs[J]>> {
  if (queue.size >= MOST_WAITING) throw refusals.busy();
  const done = await queue.add(() => run(job, given, refusals.late));
  if (!done) throw new Error('The worker gave nothing');
  return done;
}

function run<J extends keyof Jobs>(
  job: J,
  given: Parameters<Jobs[J]>[0],
  late: () => Error,
): Promise<ReturnType<Jobs[J]>> {
  const script = process.env.CLEAR_BELL_WORKER ?? fileURLToPath(new URL('./start.mjs', import.meta.url));
  return new Promise((resolve, reject) => {
    const worker = new Worker(script, {
      workerData: { job, given },
      execArgv: [],
      resourceLimits: { maxOldGenerationSizeMb: MOST_MEGABYTES },
    });
    const timer = setTimeout(() => {
      void worker.terminate();
      reject(late());
    }, LONGEST_MS);
    worker.once('message', (done: ReturnType<Jobs[J]>) => {
      clearTimeout(timer);
      resolve(done);
    });
    worker.once('error', (error) => {
      clearTimeout(timer);
      reject(error);
    });
  });
}
