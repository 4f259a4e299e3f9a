import type { Forecast } from '../../core/sends/forecast.ts';
import { dateWords, timeWords, zoneWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';

const PAST_HOUR_WORDS = {
  'as planned': '',
  'at once': 'hour passed: at once',
  'next day': 'hour passed: a day later',
  not: 'hour passed: not',
};

/** A send by readers' clocks as a band: each zone at its instant, from the first to the last. */
export function Bands({ forecast, zone }: { forecast: Forecast; zone: string }) {
  const { bands, span } = forecast;
  if (bands.length === 0 || !span) return null;
  const length = Math.max(1, span.lastMs - span.firstMs);
  const at = (ms: number): number => 1 + (98 * Math.max(0, ms - span.firstMs)) / length;
  return (
    <div className="mt-3">
      <p className="text-sm">
        From <strong className="figure">{timeWords(span.firstMs, zone)}</strong> on{' '}
        {dateWords(span.firstMs, zone)} to <strong className="figure">{timeWords(span.lastMs, zone)}</strong>{' '}
        on {dateWords(span.lastMs, zone)}, your time.
      </p>
      <svg width="100%" height="22" aria-hidden="true" className="mt-1 block">
        <rect x="1%" width="98%" y="9" height="5" className="fill-info" opacity="0.35" />
        {bands
          .filter((band) => band.pastHour !== 'not')
          .map((band) => (
            <line
              key={band.zone}
              x1={`${at(band.dueMs)}%`}
              x2={`${at(band.dueMs)}%`}
              y1="3"
              y2="20"
              strokeWidth="3"
              className="stroke-info"
            />
          ))}
      </svg>
      <ul className="grid gap-x-6 text-sm sm:grid-cols-2">
        {bands.map((band) => (
          <li key={band.zone} className="flex justify-between gap-3 border-t border-base-300 py-1">
            <span>
              {zoneWords(band.zone)} <span className="text-quiet">{people(band.n)}</span>
            </span>
            <span className={`figure ${band.pastHour === 'not' ? 'text-error' : ''}`}>
              {band.pastHour === 'not' ? '' : `${timeWords(band.dueMs, zone)} `}
              <span className="font-sans text-warning">{PAST_HOUR_WORDS[band.pastHour]}</span>
              {band.hour === 'skipped' ? (
                <span className="font-sans text-info"> no such hour: one later</span>
              ) : null}
              {band.hour === 'repeated' ? (
                <span className="font-sans text-info"> comes twice: the first</span>
              ) : null}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** The next ten of what recurs, with what the clock does to them; each can be left out. */
export function NextTen({
  forecast,
  zone,
  onLeaveOut,
}: {
  forecast: Forecast;
  zone: string;
  onLeaveOut: (wall: string) => void;
}) {
  if (forecast.coming.length === 0) return <p className="mt-3 text-error">Nothing of it is still to come.</p>;
  return (
    <div className="mt-3">
      <h3 className="text-base">
        The next {forecast.coming.length === 1 ? 'and only one' : forecast.coming.length}
      </h3>
      <ol className="grid gap-x-6 sm:grid-cols-2">
        {forecast.coming.map((each) => (
          <li
            key={each.recursAt}
            className="flex items-center justify-between gap-2 border-t border-base-300 text-sm"
          >
            <span>
              {dateWords(each.firstMs, zone)} <span className="figure">{timeWords(each.firstMs, zone)}</span>
              {each.lastMs > each.firstMs ? (
                <span className="figure text-quiet"> to {timeWords(each.lastMs, zone)}</span>
              ) : null}
              {each.clock.clockMoved === 0 ? null : (
                <span className="block text-info">
                  The clock has gone {each.clock.clockMoved > 0 ? 'forward' : 'back'}:{' '}
                  {Math.abs(each.clock.clockMoved)} minutes {each.clock.clockMoved > 0 ? 'earlier' : 'later'}{' '}
                  by UTC from here on.
                </span>
              )}
              {each.clock.hour === 'skipped' ? (
                <span className="block text-info">
                  There is no such hour that day: it counts as one later.
                </span>
              ) : null}
              {each.clock.hour === 'repeated' ? (
                <span className="block text-info">That hour comes twice: the first one counts.</span>
              ) : null}
            </span>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              aria-label={`Leave out ${dateWords(each.firstMs, zone)}`}
              onClick={() => onLeaveOut(each.recursAt)}
            >
              Leave out
            </button>
          </li>
        ))}
      </ol>
    </div>
  );
}
