import { OneOf } from '../../ui/OneOf.tsx';
import { useState } from 'react';
import type { IssueLine, SeriesIndex } from '../../core/series/seriesIndex.ts';
import { monthWords, shortDate } from '../../core/timing/words.ts';
import { dateAt } from '../../core/timing/wallTime.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { useServer } from '../../ui/server.ts';

/** Stands for every category among the choices, where an empty text is none. */
const ALL = '*';

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
        <OneOf
          label="Categories"
          className="mb-6"
          options={['', ...used].map((each) => ({ value: each || ALL, words: each || 'All' }))}
          value={category || ALL}
          onChange={(chosen) => setCategory(chosen === ALL ? '' : chosen)}
        />
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
