import { Problem } from '../problem.ts';
import { inWorker } from '../workers/run.ts';
import type { Change } from '../../core/content/change.ts';

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
  return inWorker(
    'compare',
    { before, after },
    {
      busy: () =>
        new Problem(503, 'Too many texts are being compared just now. Try again in a moment.', {
          more: { retryAfter: 5 },
        }),
      late: () =>
        new Problem(503, 'The two texts take too long to compare. Open both and read them side by side.'),
    },
  );
}
