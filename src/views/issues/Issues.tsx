import { useState } from 'react';
import type { IssueLine, SeriesIndex } from '../../core/series/seriesIndex.ts';
import { monthWords, shortDate } from '../../core/timing/words.ts';
import { dateAt } from '../../core/timing/wallTime.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { useServer } from '../../ui/server.ts';

const TOPICS = ['arrivals'];

/** The index of a series by category and month; a page that can be kept open, since a new issue appears by itself. */
export default function Issues({
  first,
  begin,
  zone,
}: {
  first: SeriesIndex;
  /** What the address says is shown. */
  begin: Record<string, string>;
  zone: string;
}) {
  const { data: index = first } = useServer(`/api/issues/${first.id}`, { first, topics: TOPICS });
  const [category, setCategory] = useState(begin.category ?? '');
  useInAddress({ category });
  const months = new Map<string, IssueLine[]>();
  for (const issue of index.issues)
    if (category === '' || issue.category === category) {
      const month = dateAt(issue.dueMs, zone).slice(0, 7);
      months.set(month, [...(months.get(month) ?? []), issue]);
    }
  const used = index.categories.filter((each) => index.issues.some((issue) => issue.category === each));
  return (
    <>
      <h1 className="mb-3" dir="auto">
        {index.name}
      </h1>
      {used.length > 0 ? (
        <div role="group" aria-label="Categories" className="mb-6 flex flex-wrap gap-2">
          {['', ...used].map((each) => (
            <button
              key={each}
              type="button"
              className="flex min-h-11 items-center rounded border border-base-300 px-3 aria-pressed:bg-base-300 aria-pressed:font-semibold"
              aria-pressed={category === each}
              onClick={() => setCategory(each)}
            >
              {each === '' ? 'All' : each}
            </button>
          ))}
        </div>
      ) : null}
      {months.size === 0 ? <p className="text-quiet">No issue has come to you yet.</p> : null}
      {[...months].map(([month, issues]) => (
        <section key={month} className="mb-6">
          <h2 className="mb-1 text-base text-quiet">{monthWords(month)}</h2>
          <ul className="ledger">
            {issues.map((issue) => (
              <li key={issue.occurrenceId}>
                <time className="margin" dateTime={new Date(issue.dueMs).toISOString()}>
                  {shortDate(issue.dueMs, zone)}
                </time>
                <a className="link-quiet font-semibold" href={issue.path} dir="auto">
                  {issue.title}
                </a>
                <div className="state text-sm text-quiet">
                  {[issue.number === null ? '' : `No. ${issue.number}`, issue.category]
                    .filter(Boolean)
                    .join(', ')}
                </div>
              </li>
            ))}
          </ul>
        </section>
      ))}
    </>
  );
}
