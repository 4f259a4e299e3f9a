import { parentPort, workerData } from 'node:worker_threads';
import { JOBS, type Jobs } from './jobs.ts';

/** Does one job beside the process that serves everybody else. */
const { job, given } = workerData as { job: keyof Jobs; given: unknown };
parentPort?.postMessage((JOBS[job] as (given: unknown) => unknown)(given));
