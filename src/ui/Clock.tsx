import { timeWords, zoneWords } from '../core/timing/words.ts';
import { useNow } from './useNow.ts';

/** The time in the reader's zone, with UTC one hover away. */
export default function Clock({ nowMs, zone }: { nowMs: number; zone: string }) {
  const now = useNow(nowMs, 1_000);
  return (
    <span className="whitespace-nowrap" title={`${timeWords(now, 'UTC')} UTC`}>
      <time className="font-semibold">{timeWords(now, zone)}</time>{' '}
      <span className="text-sm text-quiet max-sm:sr-only">{zoneWords(zone)}</span>
    </span>
  );
}
