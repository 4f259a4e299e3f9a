import { useCallback, useEffect, useRef, useState } from 'react';
import {
  ROLL_PARTS,
  tallyWords,
  type GroupTally,
  type Roll as RollData,
  type RollListing,
  type RollPart,
} from '../../core/asks/roll.ts';
import { momentWords, timeWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { ask, wordsOf } from '../../ui/api.ts';
import { FillLine } from '../../ui/FillLine.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useLive } from '../../ui/useLive.ts';

const PART_WORDS: Record<RollPart, string> = { all: 'Everybody', answered: 'Have', waiting: 'Have not' };

function Groups({ title, rows }: { title: string; rows: GroupTally[] }) {
  if (rows.length === 0) return null;
  return (
    <section className="mb-6">
      <table className="w-full border-collapse">
        <caption className="mb-1 text-left font-display text-lg font-semibold">{title}</caption>
        <thead className="sr-only">
          <tr>
            <th scope="col">Group</th>
            <th scope="col">Share</th>
            <th scope="col">Acknowledged of asked</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.name} className="border-t border-base-300">
              <th scope="row" className="w-2/5 py-1.5 pr-3 text-left font-normal">
                {row.name}
              </th>
              <td className="py-1.5">
                <FillLine tally={row} />
              </td>
              <td className="figure w-24 py-1.5 pl-3 text-right whitespace-nowrap">
                {row.answered}/{row.asked}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** Who has answered and who has not, as a whole, by group, and by name; it fills while one looks. */
export default function Roll({
  first,
  firstPeople,
  zone,
  nowMs,
}: {
  first: RollData;
  firstPeople: RollListing;
  zone: string;
  nowMs: number;
}) {
  const [roll, setRoll] = useState(first);
  const [listing, setListing] = useState(firstPeople);
  const [part, setPart] = useState<RollPart>('waiting');
  const [search, setSearch] = useState('');
  const [error, setError] = useState<string>();
  const id = roll.occurrenceId;
  const wanted = useRef(0);

  const fetchPeople = useCallback(
    async (after: RollListing['next']): Promise<void> => {
      const mine = ++wanted.current;
      const query = new URLSearchParams({ part, search });
      if (after) {
        query.set('afterName', after.name);
        query.set('afterId', String(after.id));
      }
      try {
        const found = await ask<RollListing>('GET', `/api/asks/${id}/people?${query.toString()}`);
        if (mine !== wanted.current) return;
        setListing((before) => (after ? { ...found, people: [...before.people, ...found.people] } : found));
        setError(undefined);
      } catch (problem) {
        setError(wordsOf(problem));
      }
    },
    [id, part, search],
  );
  const begun = useRef(false);
  useEffect(() => {
    if (!begun.current) {
      begun.current = true;
      return undefined;
    }
    const timer = setTimeout(() => void fetchPeople(null), 150);
    return () => clearTimeout(timer);
  }, [fetchPeople]);

  useLive([`roll:${id}`], () => {
    void ask<RollData>('GET', `/api/asks/${id}`).then(setRoll, (problem: unknown) =>
      setError(wordsOf(problem)),
    );
    // A long list that has been paged through stays as it is; its head is what changes are looked for in.
    if (listing.people.length <= 100) void fetchPeople(null);
  });

  const { tally } = roll;
  const of: Record<RollPart, number> = {
    all: tally.asked,
    answered: tally.answered,
    waiting: tally.asked - tally.answered,
  };
  return (
    <>
      <h1 dir="auto">{roll.title}</h1>
      <p className="mb-5 text-quiet">
        Asked {momentWords(roll.dueMs, zone, nowMs)}
        {roll.deadlineMs === null
          ? ', without a deadline.'
          : `, by ${momentWords(roll.deadlineMs, zone, nowMs)}${roll.deadlineMs < nowMs ? ', which has passed.' : '.'}`}{' '}
        <a className="link-quiet" href={`/sends/${id}`}>
          How it went out
        </a>
      </p>
      <section aria-label="The whole roll" className="mb-8">
        <p className="mb-2 font-display text-2xl font-semibold" aria-live="polite">
          {tallyWords(tally)}
        </p>
        <FillLine tally={tally} height={14} />
      </section>
      <div className="grid gap-10 lg:grid-cols-[22rem_minmax(0,1fr)]">
        <div>
          <Groups title="By station" rows={roll.stations} />
          <Groups title="By chosen group" rows={roll.groups} />
        </div>
        <section aria-labelledby="names">
          <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
            <h2 id="names">By name</h2>
            <div role="group" aria-label="Which part" className="join">
              {ROLL_PARTS.map((each) => (
                <button
                  key={each}
                  type="button"
                  className={`btn join-item max-sm:px-2 ${part === each ? 'btn-neutral' : 'btn-outline'}`}
                  aria-pressed={part === each}
                  onClick={() => setPart(each)}
                >
                  {PART_WORDS[each]} <span className="figure">{of[each]}</span>
                </button>
              ))}
            </div>
            <label className="flex items-center gap-2">
              <span className="sr-only">Name or station</span>
              <input
                type="search"
                className="input w-48"
                placeholder="Name or station"
                value={search}
                onChange={(event) => setSearch(event.target.value)}
              />
            </label>
            <a className="btn btn-outline ml-auto" href={`/api/asks/${id}/roll.csv`} download>
              As CSV
            </a>
          </div>
          {error === undefined ? null : <Notice tone="error">{error}</Notice>}
          {listing.people.length === 0 ? (
            <p className="border-y border-base-300 py-3 text-quiet">
              {part === 'waiting' && search === '' ? 'Nobody is missing.' : 'Nobody here.'}
            </p>
          ) : (
            <ul className="ledger">
              {listing.people.map((person) => (
                <li key={person.personId}>
                  <span className="margin">
                    {person.answeredMs === null ? '' : <time>{timeWords(person.answeredMs, zone)}</time>}
                  </span>
                  <span>
                    <span dir="auto">{person.name}</span>{' '}
                    <span className="text-sm text-quiet">
                      {person.station ?? ''}
                      {person.left ? ', has left' : ''}
                      {person.mail === null ? ', no mail address' : ''}
                    </span>
                  </span>
                  <span className={`state ${person.answeredMs === null ? 'text-warning' : 'text-success'}`}>
                    {person.answeredMs === null
                      ? 'not yet'
                      : `acknowledged${person.via === 'mail' ? ' by mail' : ''}`}
                  </span>
                </li>
              ))}
            </ul>
          )}
          {listing.next ? (
            <button
              type="button"
              className="btn btn-outline mt-4"
              onClick={() => void fetchPeople(listing.next)}
            >
              More of {people(of[part])}
            </button>
          ) : null}
        </section>
      </div>
    </>
  );
}
