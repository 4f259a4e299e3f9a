import type { SendPage } from '../../core/sends/send.ts';
import { shortDate, timeWords, zoneWords } from '../../core/timing/words.ts';

const BUCKET_WORDS: Record<string, string> = {
  planned: 'to come',
  held: 'paused',
  expanding: 'going',
  expanded: 'gone',
  skipped: 'hour passed',
  recalled: 'taken back',
  failed: 'failed',
};

/** When a send reaches each zone, on the clock of whoever looks, and what has become of it there. */
export function Zones({ buckets, zone }: { buckets: SendPage['buckets']; zone: string }) {
  return (
    <section className="my-6 max-w-3xl" aria-labelledby="zones">
      <h2 id="zones" className="mb-2">
        By the clock of each zone
      </h2>
      <ul className="grid gap-x-8 sm:grid-cols-2">
        {buckets.map((bucket) => (
          <li key={bucket.zone} className="flex justify-between gap-3 border-t border-base-300 py-1">
            <span>{zoneWords(bucket.zone)}</span>
            <span>
              <time title={`${timeWords(bucket.dueMs, 'UTC')} UTC`}>
                {shortDate(bucket.dueMs, zone)} {timeWords(bucket.dueMs, zone)}
              </time>{' '}
              <span className="text-sm text-quiet">{BUCKET_WORDS[bucket.state] ?? bucket.state}</span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
