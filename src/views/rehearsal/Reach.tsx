import type { ReactNode } from 'react';
import type { Forecast } from '../../core/sends/forecast.ts';
import type { Rehearsal } from '../../core/sends/rehearsal.ts';
import { people } from '../../core/words.ts';
import { Bodies } from './Bodies.tsx';

/** A way by which it goes: how many it reaches, and what there is to say of it. */
function Way({ way, reached, children }: { way: string; reached: ReactNode; children: ReactNode }) {
  return (
    <tr className="border-t border-base-300 align-top">
      <th scope="row" className="py-2 pr-4 text-left font-normal">
        {way}
      </th>
      <td className="figure py-2 pr-4 text-right">{reached}</td>
      {children}
    </tr>
  );
}

function Missed({ missed: all }: { missed: Forecast['missed'] }) {
  if (all.length === 0) return <p className="mt-3 text-success">Nobody would be missed.</p>;
  return (
    <>
      <h3 className="mt-4 text-base">Who would be missed</h3>
      <ul>
        {all.map((missed) => (
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
  );
}

/** Whom a send reaches by each of its ways, and who would be missed. */
export function Reach({ forecast, bodies }: { forecast: Forecast; bodies: Rehearsal['outside'] }) {
  const quiet = 'py-2 text-sm text-quiet';
  return (
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
          <Way way="Inbox" reached={forecast.people.toLocaleString('en-GB')}>
            <td className={quiet}>each once</td>
          </Way>
          <Way way="Mail" reached={forecast.byMail.toLocaleString('en-GB')}>
            <td className={quiet}>
              {forecast.byMail === 0
                ? 'not chosen'
                : `${(forecast.people - forecast.byMail).toLocaleString('en-GB')} not by mail`}
            </td>
          </Way>
          {forecast.contacts > 0 ? (
            <Way way="Linked contacts" reached={forecast.contacts.toLocaleString('en-GB')}>
              <td className={quiet}>a copy by mail</td>
            </Way>
          ) : null}
          {forecast.boards.map((board) => (
            <Way key={board.id} way="Board" reached={board.parts === 1 ? '' : `${board.parts} parts`}>
              <td className="py-2 text-sm">{board.name}</td>
            </Way>
          ))}
          {forecast.outside.map((place) => (
            <Way key={place.id} way="Outside place" reached={place.standing === 'on' ? '' : place.standing}>
              <td className="py-2 text-sm" dir="auto">
                {place.name}
              </td>
            </Way>
          ))}
        </tbody>
      </table>
      <Bodies bodies={bodies} />
      <Missed missed={forecast.missed} />
      {forecast.resting ? (
        <p className="mt-3 text-info">
          It is quiet then for {people(forecast.resting.n)}: they get it when their quiet hours end.
        </p>
      ) : null}
    </section>
  );
}
