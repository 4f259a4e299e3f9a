import { useState } from 'react';
import type { Rehearsal as RehearsalData } from '../../core/sends/rehearsal.ts';
import { dateWords, timeWords } from '../../core/timing/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { count, people } from '../../core/words.ts';
import { ApiProblem, request, newKey, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { StateMark } from '../../ui/StateMark.tsx';
import { useAwake } from '../../ui/useAwake.ts';
import { Bands } from '../write/Coming.tsx';
import { People } from './People.tsx';
import { Bodies } from './Bodies.tsx';

/** For whom it waits to come with others, and with which. */
function Bundled({
  bundled,
  zone,
  nowMs,
}: {
  bundled: NonNullable<RehearsalData['bundled']>;
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

/** The dry run of a send: nothing has gone, and this is what would. */
export default function Rehearsal({
  draftId,
  first,
  title,
  zone,
  nowMs,
  local,
  begin,
}: {
  draftId: number;
  first: RehearsalData;
  title: string;
  zone: string;
  nowMs: number;
  local: boolean;
  /** What the address says is shown. */
  begin: Record<string, string>;
}) {
  const [found, setFound] = useState(first);
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<string>();
  const [said, setSaid] = useState<string>();
  const awake = useAwake();
  const again = async (within: number): Promise<void> => {
    setBusy(true);
    setError(undefined);
    try {
      setFound(await request('GET', `/api/announcements/${draftId}/rehearsal?within=${within}`));
    } catch (problem) {
      setError(wordsOf(problem));
    }
    setBusy(false);
  };
  const test = async (): Promise<void> => {
    setError(undefined);
    try {
      await request('POST', `/api/announcements/${draftId}/test`, undefined, newKey());
      setSaid('A test goes to you alone, in your inbox and by mail, in ten seconds.');
    } catch (problem) {
      setError(
        problem instanceof ApiProblem
          ? [problem.message, ...problem.errors.map((each) => each.detail)].join(' ')
          : wordsOf(problem),
      );
    }
  };
  const { forecast, load } = found;
  const most = Math.max(1, ...load.map((row) => row.people));
  return (
    <fieldset disabled={!awake || busy} className="contents">
      <div className="mb-4 flex flex-wrap items-end justify-between gap-4">
        <div>
          <h1>Rehearsal</h1>
          <p className="text-quiet" dir="auto">
            {title || 'Without a title'}
          </p>
        </div>
        <div className="flex flex-wrap gap-3">
          <button type="button" className="btn btn-outline" onClick={() => void test()}>
            Send a test to me
          </button>
          <button type="button" className="btn btn-outline" onClick={() => void again(found.within)}>
            Rehearse again
          </button>
          <a href={`/write/${draftId}`} className="btn btn-primary">
            Back to writing
          </a>
        </div>
      </div>
      {said === undefined ? null : <Notice tone="success">{said}</Notice>}
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      <p className="my-4 max-w-4xl text-xl leading-8">{found.sentence}</p>

      <div className="mb-2 gap-x-10 lg:columns-2 *:mb-6 *:break-inside-avoid">
        <section aria-labelledby="reach">
          <h2 id="reach" className="mb-2">
            Whom it reaches
          </h2>
          <table className="w-full">
            <thead className="sr-only">
              <tr>
                <th scope="col">Way</th>
                <th scope="col">Reached</th>
                <th scope="col">Not reached, and why</th>
              </tr>
            </thead>
            <tbody>
              <tr className="border-t border-base-300 align-top">
                <th scope="row" className="py-2 pr-4 text-left font-normal">
                  Inbox
                </th>
                <td className="figure py-2 pr-4 text-right">{forecast.people.toLocaleString('en-GB')}</td>
                <td className="py-2 text-sm text-quiet">each once</td>
              </tr>
              <tr className="border-t border-base-300 align-top">
                <th scope="row" className="py-2 pr-4 text-left font-normal">
                  Mail
                </th>
                <td className="figure py-2 pr-4 text-right">{forecast.byMail.toLocaleString('en-GB')}</td>
                <td className="py-2 text-sm text-quiet">
                  {forecast.byMail === 0
                    ? 'not chosen'
                    : `${(forecast.people - forecast.byMail).toLocaleString('en-GB')} not by mail`}
                </td>
              </tr>
              {forecast.contacts > 0 ? (
                <tr className="border-t border-base-300 align-top">
                  <th scope="row" className="py-2 pr-4 text-left font-normal">
                    Linked contacts
                  </th>
                  <td className="figure py-2 pr-4 text-right">{forecast.contacts.toLocaleString('en-GB')}</td>
                  <td className="py-2 text-sm text-quiet">a copy by mail</td>
                </tr>
              ) : null}
              {forecast.boards.map((board) => (
                <tr key={board.id} className="border-t border-base-300 align-top">
                  <th scope="row" className="py-2 pr-4 text-left font-normal">
                    Board
                  </th>
                  <td className="figure py-2 pr-4 text-right">
                    {board.parts === 1 ? '' : `${board.parts} parts`}
                  </td>
                  <td className="py-2 text-sm">{board.name}</td>
                </tr>
              ))}
              {forecast.outside.map((place) => (
                <tr key={place.id} className="border-t border-base-300 align-top">
                  <th scope="row" className="py-2 pr-4 text-left font-normal">
                    Outside place
                  </th>
                  <td className="py-2 pr-4 text-right">{place.standing === 'on' ? '' : place.standing}</td>
                  <td className="py-2 text-sm" dir="auto">
                    {place.name}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <Bodies bodies={found.outside} />
          {forecast.missed.length > 0 ? (
            <>
              <h3 className="mt-4 text-base">Who would be missed</h3>
              <ul>
                {forecast.missed.map((missed) => (
                  <li key={missed.kind} className="border-t border-base-300 py-2">
                    <span className="text-warning">{missed.detail}</span> {missed.remedy}
                    {missed.names.length > 0 ? (
                      <details>
                        <summary className="min-h-9 cursor-pointer text-sm link-quiet">
                          {missed.names.length < missed.n ? `The first ${missed.names.length}` : 'Who'}
                        </summary>
                        <p className="text-sm text-quiet">{missed.names.join(', ')}</p>
                      </details>
                    ) : null}
                  </li>
                ))}
              </ul>
            </>
          ) : (
            <p className="mt-3 text-success">Nobody would be missed.</p>
          )}
          {forecast.resting ? (
            <p className="mt-3 text-info">
              It is quiet then for {people(forecast.resting.n)}: they get it when their quiet hours end.
            </p>
          ) : null}
        </section>

        <section aria-labelledby="wrong">
          <h2 id="wrong" className="mb-2">
            What is wrong with it
          </h2>
          {found.problems.length === 0 && found.warnings.length === 0 ? (
            <p className="text-success">Nothing. It can go out as it is.</p>
          ) : (
            <ul>
              {found.problems.map((problem) => (
                <li key={problem.field + problem.detail} className="border-t border-base-300 py-2 text-error">
                  {problem.detail}
                </li>
              ))}
              {found.warnings.map((warning) => (
                <li key={warning.detail} className="border-t border-base-300 py-2 text-warning">
                  {warning.detail}
                </li>
              ))}
            </ul>
          )}
          {forecast.chases.dues.length > 0 ? (
            <>
              <h2 className="mt-6 mb-2">The chase</h2>
              <p>To those of {people(forecast.people)} who have not answered by then:</p>
              <ul>
                {forecast.chases.dues.map((dueMs) => (
                  <li key={dueMs} className="figure">
                    <Moment at={dueMs} zone={zone} nowMs={nowMs} />
                  </li>
                ))}
              </ul>
              {forecast.chases.listMs === null ? null : (
                <p>
                  The owners of their groups are told who is missing at{' '}
                  <span className="figure">
                    <Moment at={forecast.chases.listMs} zone={zone} nowMs={nowMs} />
                  </span>
                  .
                </p>
              )}
            </>
          ) : null}
          <h2 className="mt-6 mb-2">When</h2>
          <p>
            {forecast.span === null ? (
              'It would never go out.'
            ) : forecast.span.lastMs > forecast.span.firstMs ? (
              'By each reader’s clock:'
            ) : (
              <>
                <span className="figure">
                  <Moment at={forecast.span.firstMs} zone={zone} nowMs={nowMs} />
                </span>{' '}
                your time, <span className="figure">{timeWords(forecast.span.firstMs, 'UTC')}</span> UTC
                {forecast.coming.length > 0 ? ', and then by its rule' : ''}.
              </>
            )}
          </p>
          <Bands forecast={forecast} zone={zone} />
        </section>

        <section aria-labelledby="collisions">
          <div className="mb-2 flex flex-wrap items-end justify-between gap-2">
            <h2 id="collisions">What else reaches them</h2>
            <label className="flex items-center gap-2 text-sm">
              within
              <select
                className="select"
                value={found.within}
                onChange={(event) => void again(Number(event.target.value))}
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

        <section aria-labelledby="load">
          <h2 id="load" className="mb-2">
            Their load on {dateWords(found.dayMs, zone, nowMs)}
          </h2>
          {load.length === 0 ? (
            <p className="text-quiet">It asks for nobody’s attention here.</p>
          ) : (
            <>
              {found.bundled === null ? null : <Bundled bundled={found.bundled} zone={zone} nowMs={nowMs} />}
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
                              className={
                                row.things > 3 ? 'fill-error' : row.things > 2 ? 'fill-warning' : 'fill-info'
                              }
                            />
                          </svg>
                          <span className="figure">{row.people.toLocaleString('en-GB')}</span>
                        </span>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </>
          )}
        </section>
      </div>
      <People draftId={draftId} total={forecast.people} local={local} begin={begin} />
    </fieldset>
  );
}
