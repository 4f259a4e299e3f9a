import type { PlaceReached } from '../../core/gateways/hookOut.ts';
import { LATE_MS } from '../../core/delivery/lateness.ts';
import { nearWords, spanWords, timeWords } from '../../core/timing/words.ts';

/** What became of a send at one outside place, in words. */
function stands(place: PlaceReached, zone: string, nowMs: number): { words: string; tone: string } {
  switch (place.state) {
    case 'delivered':
      return { words: 'it has it', tone: 'text-success' };
    case 'failed':
      return { words: 'given up', tone: 'text-error' };
    case 'called off':
      return { words: 'called off', tone: 'text-quiet' };
    case 'sending':
      return { words: 'on its way', tone: 'text-info' };
    case 'waiting':
      return place.standing === 'on'
        ? {
            words: place.tryMs === null ? 'waiting' : `tried again ${nearWords(place.tryMs, zone, nowMs)}`,
            tone: place.attempts > 0 ? 'text-warning' : 'text-info',
          }
        : { words: 'waits until it is switched on', tone: 'text-warning' };
  }
}

/** The outside places a send travels to, and what became of it at each. */
export function Outside({
  places,
  zone,
  nowMs,
  busy,
  onRetry,
}: {
  places: PlaceReached[];
  zone: string;
  nowMs: number;
  busy: boolean;
  onRetry: () => void;
}) {
  if (places.length === 0) return null;
  return (
    <section className="my-6 max-w-3xl" aria-labelledby="outside">
      <div className="mb-2 flex flex-wrap items-center gap-4">
        <h2 id="outside">At outside places</h2>
        {places.some((place) => place.state === 'failed') ? (
          <button type="button" className="btn btn-outline" disabled={busy} onClick={onRetry}>
            Try what failed again
          </button>
        ) : null}
      </div>
      <ul className="ledger">
        {places.map((place) => {
          const { words, tone } = stands(place, zone, nowMs);
          return (
            <li key={place.id}>
              <span className="margin figure text-sm">
                {place.endedMs === null ? '' : timeWords(place.endedMs, zone, true)}
              </span>
              <span className="min-w-0">
                <a className="link-quiet" href={`/gateways/out/${place.hookId}`} dir="auto">
                  {place.name}
                </a>
                <span className="block text-sm text-quiet">
                  {[
                    place.attempts > 1 ? `Tried ${place.attempts} times.` : '',
                    place.reason ?? '',
                    place.lateMs !== null && place.lateMs > LATE_MS
                      ? `${spanWords(place.lateMs)} after it was due.`
                      : '',
                  ]
                    .filter(Boolean)
                    .join(' ')}
                </span>
              </span>
              <span className={`state ${tone}`}>{words}</span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
