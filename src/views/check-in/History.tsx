import { useCallback, useEffect, useRef, useState } from 'react';
import type { HistoryPage } from '../../core/asks/checkInPage.ts';
import { shortDate } from '../../core/timing/words.ts';
import { ask, wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';

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
  const [page, setPage] = useState(first);
  const [looked, setLooked] = useState(NOTHING);
  const [error, setError] = useState<string>();
  const wanted = useRef(0);
  const load = useCallback(
    async (next: HistoryPage['next']): Promise<void> => {
      const mine = ++wanted.current;
      const query = new URLSearchParams({ ...looked });
      if (next) {
        query.set('beforeMs', String(next.answeredMs));
        query.set('beforePerson', String(next.personId));
      }
      try {
        const found = await ask<HistoryPage>('GET', `/api/check-ins/${id}/history?${query.toString()}`);
        if (mine !== wanted.current) return;
        setPage((before) => (next ? { ...found, said: [...before.said, ...found.said] } : found));
        setError(undefined);
      } catch (problem) {
        setError(wordsOf(problem));
      }
    },
    [id, looked],
  );
  const begun = useRef(false);
  useEffect(() => {
    if (!begun.current) {
      begun.current = true;
      return undefined;
    }
    const timer = setTimeout(() => void load(null), 200);
    return () => clearTimeout(timer);
  }, [load]);
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
            {page.people.map((person) => (
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
            {page.questions.map((question, place) => (
              <option key={place} value={place}>
                {question.text}
              </option>
            ))}
          </select>
        </label>
        <label className="flex flex-col gap-1">
          From
          <input
            type="date"
            className="input"
            value={looked.from}
            onChange={(event) => set({ from: event.target.value })}
          />
        </label>
        <label className="flex flex-col gap-1">
          To
          <input
            type="date"
            className="input"
            value={looked.to}
            onChange={(event) => set({ to: event.target.value })}
          />
        </label>
      </form>
      {error === undefined ? null : <Notice tone="error">{error}</Notice>}
      {page.said.length === 0 ? (
        <p className="border-y border-base-300 py-3 text-quiet">Nothing of the kind was said.</p>
      ) : (
        <ul className="ledger">
          {page.said.map((said) => (
            <li key={`${said.occurrenceId}.${said.personId}`}>
              <time className="margin">{shortDate(Date.parse(`${said.date}T12:00:00Z`), 'UTC')}</time>
              <div>
                <a className="link-quiet font-semibold" href={`/check-ins/${said.occurrenceId}`} dir="auto">
                  {said.name}
                </a>
                <dl>
                  {page.questions.map((question, place) =>
                    said.answers[place] === undefined || (asked !== null && asked !== place) ? null : (
                      <div key={place} className="mt-1">
                        <dt className="text-sm text-quiet">{question.text}</dt>
                        <dd className="whitespace-pre-line" dir="auto">
                          {said.answers[place]}
                        </dd>
                      </div>
                    ),
                  )}
                </dl>
              </div>
              <span className="state text-sm text-quiet">
                {said.blocked ? (said.unblocked ? 'was blocked' : 'blocked') : ''}
              </span>
            </li>
          ))}
        </ul>
      )}
      {page.next ? (
        <button type="button" className="btn btn-outline mt-4" onClick={() => void load(page.next)}>
          Earlier ones
        </button>
      ) : null}
    </>
  );
}
