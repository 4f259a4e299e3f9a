import { lazy, Suspense, useState } from 'react';
import { useDebounce } from 'use-debounce';
import { doneWords } from '../../core/asks/askWords.ts';
import type { Results } from '../../core/asks/results.ts';
import {
  ROLL_PARTS,
  tallyWords,
  type GroupTally,
  type Roll as RollData,
  type RollListing,
  type RollPart,
} from '../../core/asks/roll.ts';
import { nearWords, timeWords } from '../../core/timing/words.ts';
import { Moment } from '../../ui/Moment.tsx';
import { list, people } from '../../core/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { FillLine } from '../../ui/FillLine.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, refetch, useServer, useServerPages } from '../../ui/server.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { newGroupOf } from '../../core/groups/fromAudience.ts';
import { Actions } from './Actions.tsx';
import { PollSection } from './PollSection.tsx';

const AnswerCurve = lazy(() => import('./AnswerCurve.tsx'));

const SOON_MS = 150;

const PART_WORDS: Record<RollPart, string> = {
  all: 'Everybody',
  answered: 'Have',
  opened: 'Opened only',
  waiting: 'Have not',
};
const VIA: Partial<Record<string, string>> = { mail: ' by mail', push: ' by push' };

/** What else is to be known of the whole: who opened it only, who came and went since. */
function driftWords(roll: RollData): string {
  return [
    roll.opened > 0
      ? `${people(roll.opened)} opened it and ${roll.opened === 1 ? 'has' : 'have'} not answered.`
      : '',
    roll.earlier > 0
      ? `${people(roll.earlier)} had acknowledged the text before; their answers are kept.`
      : '',
    roll.goneSince > 0
      ? `${people(roll.goneSince)} answered and ${roll.goneSince === 1 ? 'is' : 'are'} not in the audience any more.`
      : '',
    roll.joinedSince > 0
      ? `${people(roll.joinedSince)} of the audience as it is now ${roll.joinedSince === 1 ? 'was' : 'were'} not asked: joined it since, or not at work then.`
      : '',
  ]
    .filter(Boolean)
    .join(' ');
}

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
            <th scope="col">Answered of asked</th>
            <th scope="col">Opened and not answered</th>
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
              <td className="figure w-20 py-1.5 pl-3 text-right whitespace-nowrap">
                {row.answered}/{row.asked}
              </td>
              <td className="w-22 py-1.5 pl-3 text-right text-sm whitespace-nowrap text-quiet">
                {row.opened > 0 ? `${row.opened} opened` : ''}
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
  firstResults,
  begin,
  zone,
  nowMs,
}: {
  first: RollData;
  firstPeople: RollListing;
  firstResults: Results;
  /** What the address says is shown. */
  begin: Record<string, string>;
  zone: string;
  nowMs: number;
}) {
  const [part, setPart] = useState<RollPart>(ROLL_PARTS.find((each) => each === begin.part) ?? 'waiting');
  const [search, setSearch] = useState(begin.q ?? '');
  useInAddress({ part: part === 'waiting' ? '' : part, q: search.trim() });
  const [sought] = useDebounce(search.trim(), SOON_MS);
  const awake = useAwake();
  const id = first.occurrenceId;
  const path = `/api/asks/${id}` as const;
  const topics = [`roll:${id}`];
  // A chase that is planned while one looks is listened to as well: its mail goes after its inboxes.
  const whole = useServer(path, {
    first,
    topics: (roll) => [...topics, ...roll.chases.map((chase) => `occurrence:${chase.occurrenceId}`)],
  });
  const counted = useServer(`${path}/results`, { first: firstResults, topics });
  const pages = useServerPages({
    path: (after: RollListing['next']) =>
      pathWith(`${path}/people`, { part, search: sought, afterName: after?.name, afterId: after?.id }),
    next: (page) => page.next,
    first: { path: pathWith(`${path}/people`, { part: 'waiting' }), page: firstPeople },
    topics,
  });
  const roll = whole.data ?? first;
  const results = counted.data ?? firstResults;
  const listed = (pages.data?.pages ?? []).flatMap((page) => page.people);
  const error = whole.error ?? counted.error ?? pages.error;
  const refresh = (): void => void refetch(path);

  const { tally } = roll;
  const of: Record<RollPart, number> = {
    all: tally.asked,
    answered: tally.answered,
    opened: roll.opened,
    waiting: tally.asked - tally.answered,
  };
  return (
    <>
      <h1 dir="auto">{roll.title}</h1>
      <p className="mb-5 text-quiet">
        Asked <Moment at={roll.dueMs} zone={zone} nowMs={nowMs} />
        {roll.deadlineMs === null
          ? ', without a deadline.'
          : `, by ${nearWords(roll.deadlineMs, zone, nowMs)}${roll.closedMs === null && roll.deadlineMs < nowMs ? ', which has passed.' : '.'}`}{' '}
        {roll.closedWords === null ? '' : `${roll.closedWords} `}
        {roll.mayAct ? (
          <a className="link-quiet print:hidden" href={`/sends/${id}`}>
            How it went out
          </a>
        ) : null}
        {roll.kind === 'check-in' && roll.mayAct ? (
          <a className="link-quiet ml-3 print:hidden" href={`/check-ins/${id}`}>
            What was said
          </a>
        ) : null}
      </p>
      {roll.onlyOf === null ? null : (
        <p className="mb-4 border-l-4 border-info pl-3">
          You look after {list(roll.onlyOf, 'and')}, and see who of {roll.onlyOf.length === 1 ? 'it' : 'them'}{' '}
          has answered.
        </p>
      )}
      {roll.statement === '' ? null : (
        <p className="mb-4 border-l-4 border-primary pl-3" dir="auto">
          {roll.statement}
        </p>
      )}
      <section aria-label="The whole roll" className="mb-6">
        <p className="mb-2 font-display text-2xl font-semibold" aria-live="polite">
          {tallyWords(tally, roll.kind)}
        </p>
        <FillLine tally={tally} height={14} />
        <p className="mt-2 text-sm text-quiet">{driftWords(roll)}</p>
      </section>
      {roll.mayAct ? <Actions roll={roll} zone={zone} nowMs={nowMs} onChanged={refresh} /> : null}
      {results.poll ? (
        <PollSection id={id} poll={results.poll} asked={tally.asked} zone={zone} onChanged={refresh} />
      ) : null}
      <section aria-labelledby="over-time" className="mb-8">
        <h2 id="over-time" className="mb-2">
          Over time
        </h2>
        {results.before ? (
          <p className="mb-2">
            The one before,{' '}
            <a className="link-quiet" href={`/answers/${results.before.occurrenceId}`}>
              {results.before.title}
            </a>
            : {results.before.answeredByThen} of {results.before.asked} had answered after as long,{' '}
            {results.before.answered} in the end.
          </p>
        ) : null}
        {roll.forgottenMs !== null ? (
          <p className="text-quiet">When each answer came is not known any more.</p>
        ) : !awake ? (
          <p className="h-56 text-quiet">The curve is being drawn.</p>
        ) : results.curve.length > 1 ? (
          <Suspense fallback={<p className="h-56 text-quiet">The curve is being drawn.</p>}>
            <AnswerCurve results={results} zone={zone} />
          </Suspense>
        ) : (
          <p className="text-quiet">It has just gone out; the curve begins in a minute.</p>
        )}
      </section>
      <div className="grid gap-10 lg:grid-cols-[27rem_minmax(0,1fr)]">
        <div>
          <Groups title="By station" rows={roll.stations} />
          <Groups title={roll.onlyOf === null ? 'By chosen group' : 'By group of yours'} rows={roll.groups} />
        </div>
        <section aria-labelledby="names">
          <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
            <h2 id="names">By name</h2>
            <div role="group" aria-label="Which part" className="join flex-wrap">
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
              <span className="sr-only">Find somebody</span>
              <input
                type="search"
                className="input w-48"
                placeholder="Find somebody"
                value={search}
                onChange={(event) => setSearch(event.target.value)}
              />
            </label>
            {roll.namesHidden === null && roll.mayMakeGroups && part === 'answered' ? (
              <a
                className="btn btn-ghost print:hidden"
                href={newGroupOf({ kind: 'answered', occurrenceId: id, answered: true })}
              >
                A group of these
              </a>
            ) : null}
            {roll.namesHidden === null ? (
              <a className="btn btn-outline ml-auto print:hidden" href={`/api/asks/${id}/roll.csv`} download>
                As CSV
              </a>
            ) : null}
          </div>
          {error === null ? null : <Notice tone="error">{wordsOf(error)}</Notice>}
          {roll.namesHidden === null ? null : (
            <p className="border-y border-base-300 py-3 text-quiet">{roll.namesHidden}</p>
          )}
          {roll.namesHidden !== null ? null : listed.length === 0 ? (
            <p className="border-y border-base-300 py-3 text-quiet">
              {part === 'waiting' && search === '' ? 'Nobody is missing.' : 'Nobody here.'}
            </p>
          ) : (
            <ul className="ledger">
              {listed.map((person) => (
                <li key={person.personId}>
                  <span className="margin">
                    {person.answeredMs === null ? '' : <time>{timeWords(person.answeredMs, zone)}</time>}
                  </span>
                  <span>
                    <span dir="auto">{person.name}</span>{' '}
                    <span className="text-sm text-quiet">
                      {person.station ?? ''}
                      {person.left ? ', has left' : person.gone ? ', not in the audience any more' : ''}
                      {person.mail === null ? ', no mail address' : ''}
                      {person.earlierMs === null
                        ? ''
                        : `, acknowledged the text before ${nearWords(person.earlierMs, zone, nowMs)}`}
                    </span>
                  </span>
                  <span className={`state ${person.answered ? 'text-success' : 'text-warning'}`}>
                    {person.answered
                      ? `${doneWords(roll.kind)}${VIA[person.via ?? ''] ?? ''}`
                      : person.openedMs === null
                        ? 'not yet'
                        : 'opened, not yet'}
                  </span>
                </li>
              ))}
            </ul>
          )}
          {pages.hasNextPage ? (
            <button
              type="button"
              className="btn btn-outline mt-4"
              disabled={pages.isFetchingNextPage}
              onClick={() => void pages.fetchNextPage()}
            >
              More of {people(of[part])}
            </button>
          ) : null}
        </section>
      </div>
    </>
  );
}
