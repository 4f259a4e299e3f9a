import { openedShare, type ToldMonth, type ToldSum } from '../../core/told/month.ts';
import { monthWords } from '../../core/timing/words.ts';
import { count, people } from '../../core/words.ts';

const percent = (part: number, of: number): string => (of === 0 ? '' : `${Math.round((100 * part) / of)} %`);

/** The month before or after one, as YYYY-MM. */
function monthBeside(month: string, by: number): string {
  const [year = 1970, at = 1] = month.split('-').map(Number);
  return new Date(Date.UTC(year, at - 1 + by, 1)).toISOString().slice(0, 7);
}

const hoursWords = (hours: number): string =>
  hours < 1 ? 'under an hour' : count(Math.round(hours), 'hour', 'hours');

function Sums({ title, rows, first }: { title: string; rows: readonly ToldSum[]; first: string }) {
  if (rows.length === 0) return null;
  return (
    <section className="mb-8">
      <div className="overflow-x-auto">
        <table className="w-full">
          <caption className="mb-1 text-left font-display text-lg font-semibold">{title}</caption>
          <thead className="text-left text-sm text-quiet">
            <tr>
              <th scope="col" className="py-1 pr-4 font-normal">
                {first}
              </th>
              {['announcements', 'reached', 'opened', 'answered', 'reading time'].map((word) => (
                <th key={word} scope="col" className="px-2 py-1 text-right font-normal">
                  {word}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.slice(0, 20).map((row) => (
              <tr key={row.name} className="border-t border-base-300">
                <th scope="row" className="py-1 pr-4 text-left font-normal" dir="auto">
                  {row.name}
                </th>
                <td className="figure px-2 py-1 text-right">{row.announcements.toLocaleString('en-GB')}</td>
                <td className="figure px-2 py-1 text-right">{row.reached.toLocaleString('en-GB')}</td>
                <td className="figure px-2 py-1 text-right">{percent(row.read, row.reached)}</td>
                <td className="figure px-2 py-1 text-right">{percent(row.answered, row.asked)}</td>
                <td className="px-2 py-1 text-right">{hoursWords(row.hours)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {rows.length > 20 ? <p className="text-sm text-quiet">And {rows.length - 20} more.</p> : null}
    </section>
  );
}

/** What the organisation was told in a month, and what that cost its readers. */
export default function Told({ told, current }: { told: ToldMonth; current: string }) {
  const { all } = told;
  const unopened = told.series.filter((row) => openedShare(row) < 0.25);
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">What people were told in {monthWords(told.month)}</h1>
        <a className="btn btn-outline btn-sm" href={`/told?month=${monthBeside(told.month, -1)}`}>
          The month before
        </a>
        {told.month < current ? (
          <a className="btn btn-outline btn-sm" href={`/told?month=${monthBeside(told.month, 1)}`}>
            The month after
          </a>
        ) : null}
      </div>
      {all.announcements === 0 ? (
        <p className="text-quiet">Nothing went out in this month.</p>
      ) : (
        <>
          <p className="mb-6 max-w-3xl text-lg">
            {count(all.announcements, 'announcement', 'announcements')} reached inboxes{' '}
            {count(all.reached, 'time', 'times')}; {percent(all.read, all.reached) || 'none'} of that was
            opened
            {all.asked > 0 ? `, and ${percent(all.answered, all.asked)} of what was asked answered` : ''}.
            Read by all it reached, it took {hoursWords(all.hours)} of people’s time.
            {told.cut ? ' There was more: only the latest thousand are counted.' : ''}
          </p>
          {unopened.length > 0 ? (
            <p className="mb-6 max-w-3xl border-l-4 border-warning bg-base-100 px-3 py-2">
              Hardly anybody opens {unopened.map((row) => row.name).join(', ')}: less than a quarter of it was
              opened.
            </p>
          ) : null}
          <Sums title="By whom it went to" first="Audience" rows={told.groups} />
          <Sums title="By sender" first="Sender" rows={told.senders} />
          <Sums title="By kind" first="Kind" rows={told.kinds} />
          <Sums title="Series, the least opened first" first="Series" rows={told.series} />
          <section className="mb-8 max-w-xl" aria-labelledby="most">
            <h2 id="most" className="text-lg">
              Who was told most
            </h2>
            <ul>
              {told.people.map((person) => (
                <li key={person.id} className="flex justify-between border-t border-base-300 py-1">
                  <a className="link-quiet" href={`/person/${person.id}`} dir="auto">
                    {person.name}
                  </a>
                  <span className="figure">{person.n.toLocaleString('en-GB')}</span>
                </li>
              ))}
            </ul>
            {told.people.length === 0 ? <p className="text-quiet">{people(0)} got anything.</p> : null}
          </section>
        </>
      )}
    </>
  );
}
