import type { Rehearsal } from '../../core/sends/rehearsal.ts';
import { dateWords, timeWords } from '../../core/timing/words.ts';
import { count, people } from '../../core/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { StateMark } from '../../ui/StateMark.tsx';

/** For whom it waits to come with others, and with which. */
function Bundled({
  bundled,
  zone,
  nowMs,
}: {
  bundled: NonNullable<Rehearsal['bundled']>;
  zone: string;
  nowMs: number;
}) {
  return (
    <div className="mb-3">
      <p>
        To {people(bundled.people)} it comes by mail and push together with other routine matter,{' '}
        <Moment at={bundled.firstMs} zone={zone} nowMs={nowMs} />
        {bundled.lastMs === bundled.firstMs ? null : (
          <>
            {' '}
            to <Moment at={bundled.lastMs} zone={zone} nowMs={nowMs} />
          </>
        )}
        . In For me it stands at once.
      </p>
      {bundled.withOthers.length === 0 ? (
        <p className="text-sm text-quiet">Nothing else is planned till then that would come with it.</p>
      ) : (
        <ul className="text-sm">
          {bundled.withOthers.map((other) => (
            <li key={other.occurrenceId}>
              with{' '}
              <a className="link-quiet" href={`/sends/${other.occurrenceId}`} dir="auto">
                {other.title}
              </a>{' '}
              <span className="text-quiet">for {people(other.people)}</span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

const WITHIN = [1, 3, 6, 12, 24, 48];

/** What else reaches those it goes to, within some hours. */
export function Collisions({
  found,
  zone,
  onWithin,
}: {
  found: Rehearsal;
  zone: string;
  onWithin: (hours: number) => void;
}) {
  return (
    <section aria-labelledby="collisions">
      <div className="mb-2 flex flex-wrap items-end justify-between gap-2">
        <h2 id="collisions">What else reaches them</h2>
        <label className="flex items-center gap-2 text-sm">
          within
          <select
            className="select"
            value={found.within}
            onChange={(event) => onWithin(Number(event.target.value))}
          >
            {WITHIN.map((hours) => (
              <option key={hours} value={hours}>
                {count(hours, 'hour', 'hours')}
              </option>
            ))}
          </select>
        </label>
      </div>
      {found.collisions.length === 0 ? (
        <p className="text-success">Nothing else, within {count(found.within, 'hour', 'hours')}.</p>
      ) : (
        <ul>
          {found.collisions.map((other) => (
            <li
              key={other.occurrenceId}
              className="grid grid-cols-[5.5rem_minmax(0,1fr)_auto] items-baseline gap-3 border-t border-base-300 py-2"
            >
              <time className="text-right" title={`${timeWords(other.dueMs, 'UTC')} UTC`}>
                {timeWords(other.dueMs, zone)}
                <span className="block text-xs text-quiet">
                  {dateWords(other.dueMs, zone).replace(/^\w+ /, '')}
                </span>
              </time>
              <span>
                <a className="link-quiet" href={`/sends/${other.occurrenceId}`} dir="auto">
                  {other.title}
                </a>
                <span className="block text-sm text-warning">{people(other.people)} of the same</span>
              </span>
              <StateMark state={other.state} />
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

function LoadTable({ load }: { load: Rehearsal['load'] }) {
  const most = Math.max(1, ...load.map((row) => row.people));
  return (
    <table className="w-full">
      <thead className="text-left text-sm text-quiet">
        <tr>
          <th scope="col" className="pr-3 font-normal">
            They get
          </th>
          <th scope="col" className="font-normal">
            How many of them
          </th>
        </tr>
      </thead>
      <tbody>
        {load.map((row) => (
          <tr key={row.things} className="border-t border-base-300">
            <th scope="row" className="w-32 py-1 pr-3 text-left font-normal whitespace-nowrap">
              {row.things === 1 ? 'only this' : `${row.things} things`}
            </th>
            <td className="py-1">
              <span className="flex items-center gap-2">
                <svg width="60%" height="10" aria-hidden="true">
                  <rect
                    width={`${(100 * row.people) / most}%`}
                    height="10"
                    className={row.things > 3 ? 'fill-error' : row.things > 2 ? 'fill-warning' : 'fill-info'}
                  />
                </svg>
                <span className="figure">{row.people.toLocaleString('en-GB')}</span>
              </span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** How much comes to them on the day of it. */
export function DayLoad({ found, zone, nowMs }: { found: Rehearsal; zone: string; nowMs: number }) {
  const { load } = found;
  return (
    <section aria-labelledby="load">
      <h2 id="load" className="mb-2">
        Their load on {dateWords(found.dayMs, zone, nowMs)}
      </h2>
      {load.length === 0 ? (
        <p className="text-quiet">It asks for nobody’s attention here.</p>
      ) : (
        <>
          {found.bundled === null ? null : <Bundled bundled={found.bundled} zone={zone} nowMs={nowMs} />}
          <LoadTable load={load} />
        </>
      )}
    </section>
  );
}
