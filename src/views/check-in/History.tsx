import { useState } from 'react';
import { useDebounce } from 'use-debounce';
import { Awake } from '../../ui/Awake.tsx';
import { DateField } from '../../ui/DateField.tsx';
import type { HistoryPage } from '../../core/asks/check-in/checkInPage.ts';
import { shortDate } from '../../core/timing/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, useServerPages } from '../../ui/server.ts';

const SOON_MS = 200;

interface Looked {
  search: string;
  person: string;
  question: string;
  from: string;
  to: string;
}

const NOTHING: Looked = { search: '', person: '', question: '', from: '', to: '' };

/** What was said over the days, by person, question, date and words. */
export default function History({ id, first }: { id: number; first: HistoryPage }) {
  const [looked, setLooked] = useState(NOTHING);
  const [sought] = useDebounce(looked, SOON_MS);
  const path = `/api/check-ins/${id}/history` as const;
  const list = useServerPages({
    path: (after: HistoryPage['next']) =>
      pathWith(path, { ...sought, beforeMs: after?.answeredMs, beforePerson: after?.personId }),
    next: (page) => page.next,
    first: { path, page: first },
  });
  const pages = list.data?.pages ?? [first];
  const said = pages.flatMap((page) => page.said);
  const set = (part: Partial<Looked>): void => setLooked((before) => ({ ...before, ...part }));
  const asked = looked.question === '' ? null : Number(looked.question);
  return (
    <>
      <form
        role="search"
        aria-label="What was said"
        className="mb-5 flex flex-wrap items-end gap-3"
        onSubmit={(event) => event.preventDefault()}
      >
        <Awake>
          <label className="flex flex-col gap-1">
            Words
            <input
              type="search"
              className="input w-48"
              value={looked.search}
              onChange={(event) => set({ search: event.target.value })}
            />
          </label>
          <label className="flex flex-col gap-1">
            Person
            <select
              className="select"
              value={looked.person}
              onChange={(event) => set({ person: event.target.value })}
            >
              <option value="">anybody</option>
              {first.people.map((person) => (
                <option key={person.id} value={person.id}>
                  {person.name}
                </option>
              ))}
            </select>
          </label>
          <label className="flex flex-col gap-1">
            Question
            <select
              className="select"
              value={looked.question}
              onChange={(event) => set({ question: event.target.value })}
            >
              <option value="">any</option>
              {first.questions.map((question, place) => (
                <option key={place} value={place}>
                  {question.text}
                </option>
              ))}
            </select>
          </label>
          <DateField label="From" className="w-44" value={looked.from} onChange={(from) => set({ from })} />
          <DateField label="To" className="w-44" value={looked.to} onChange={(to) => set({ to })} />
        </Awake>
      </form>
      {list.error === null ? null : <Notice tone="error">{wordsOf(list.error)}</Notice>}
      {said.length === 0 ? (
        <p className="border-y border-base-300 py-3 text-quiet">Nothing of the kind was said.</p>
      ) : (
        <ul className="ledger">
          {said.map((each) => (
            <li key={`${each.occurrenceId}.${each.personId}`}>
              <time className="margin">{shortDate(Date.parse(`${each.date}T12:00:00Z`), 'UTC')}</time>
              <div>
                <a className="link-quiet font-semibold" href={`/check-ins/${each.occurrenceId}`} dir="auto">
                  {each.name}
                </a>
                <dl>
                  {first.questions.map((question, place) =>
                    each.answers[place] === undefined || (asked !== null && asked !== place) ? null : (
                      <div key={place} className="mt-1">
                        <dt className="text-sm text-quiet">{question.text}</dt>
                        <dd className="whitespace-pre-line" dir="auto">
                          {each.answers[place]}
                        </dd>
                      </div>
                    ),
                  )}
                </dl>
              </div>
              <span className="state text-sm text-quiet">
                {each.blocked ? (each.unblocked ? 'was blocked' : 'blocked') : ''}
              </span>
            </li>
          ))}
        </ul>
      )}
      {list.hasNextPage ? (
        <button
          type="button"
          className="btn btn-outline mt-4"
          disabled={list.isFetchingNextPage}
          onClick={() => void list.fetchNextPage()}
        >
          Earlier ones
        </button>
      ) : null}
    </>
  );
}
