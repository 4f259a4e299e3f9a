import { parentPort, workerData } from 'node:worker_threads';
import { changesBetween } from './changes.ts';

/** Computes what would hold up everybody else, beside the process that serves them. */
const { before, after } = workerData as { before: string; after: string };
parentPort?.postMessage(changesBetween(before, after));
