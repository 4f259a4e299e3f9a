import { useState } from 'react';
import { useDebounce } from 'use-debounce';
import { doneWords } from '../../core/asks/askWords.ts';
import { ROLL_PARTS, type Roll, type RollListing, type RollPart } from '../../core/asks/roll.ts';
import { newGroupOf } from '../../core/groups/fromAudience.ts';
import { nearWords, timeWords } from '../../core/timing/words.ts';
import { people } from '../../core/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { OneOf } from '../../ui/OneOf.tsx';
import { pathWith, useServerPages } from '../../ui/server.ts';
import { useInAddress } from '../../ui/useInAddress.ts';

const SOON_MS = 150;

const PART_WORDS: Record<RollPart, string> = {
  all: 'Everybody',
  answered: 'Have',
  opened: 'Opened only',
  waiting: 'Have not',
};
const VIA: Partial<Record<string, string>> = { mail: ' by mail', push: ' by push' };

/** Which part of the roll is listed, and of whom. */
function PartChoice({
  part,
  of,
  search,
  onPart,
  onSearch,
}: {
  part: RollPart;
  /** How many are in each part. */
  of: Record<RollPart, number>;
  search: string;
  onPart: (part: RollPart) => void;
  onSearch: (search: string) => void;
}) {
  return (
    <>
      <OneOf
        label="Which part"
        options={ROLL_PARTS.map((each) => ({
          value: each,
          words: (
            <>
              {PART_WORDS[each]} <span className="figure">{of[each]}</span>
            </>
          ),
        }))}
        value={part}
        onChange={onPart}
      />
      <label className="flex items-center gap-2">
        <span className="sr-only">Find somebody</span>
        <input
          type="search"
          className="input w-48"
          placeholder="Find somebody"
          value={search}
          onChange={(event) => onSearch(event.target.value)}
        />
      </label>
    </>
  );
}

function Names({
  people: listed,
  kind,
  zone,
  nowMs,
}: {
  people: RollListing['people'];
  kind: Roll['kind'];
  zone: string;
  nowMs: number;
}) {
  return (
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
              ? `${doneWords(kind)}${VIA[person.via ?? ''] ?? ''}`
              : person.openedMs === null
                ? 'not yet'
                : 'opened, not yet'}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** Who has answered and who has not, by name, a page at a time. */
export function ByName({
  roll,
  path,
  topics,
  first,
  begin,
  zone,
  nowMs,
}: {
  roll: Roll;
  path: `/api/asks/${number}`;
  topics: readonly string[];
  /** The page it came with: those who have not answered. */
  first: RollListing;
  /** What the address says is shown. */
  begin: Record<string, string>;
  zone: string;
  nowMs: number;
}) {
  const id = roll.occurrenceId;
  const [part, setPart] = useState<RollPart>(ROLL_PARTS.find((each) => each === begin.part) ?? 'waiting');
  const [search, setSearch] = useState(begin.q ?? '');
  useInAddress({ part: part === 'waiting' ? '' : part, q: search.trim() });
  const [sought] = useDebounce(search.trim(), SOON_MS);
  const pages = useServerPages({
    path: (after: RollListing['next']) =>
      pathWith(`${path}/people`, { part, search: sought, afterName: after?.name, afterId: after?.id }),
    next: (page) => page.next,
    first: { path: pathWith(`${path}/people`, { part: 'waiting' }), page: first },
    topics,
  });
  const listed = (pages.data?.pages ?? []).flatMap((page) => page.people);
  const { error } = pages;
  const { tally } = roll;
  const of: Record<RollPart, number> = {
    all: tally.asked,
    answered: tally.answered,
    opened: roll.opened,
    waiting: tally.asked - tally.answered,
  };
  return (
    <section aria-labelledby="names">
      <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <h2 id="names">By name</h2>
        <PartChoice part={part} of={of} search={search} onPart={setPart} onSearch={setSearch} />
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
        <Names people={listed} kind={roll.kind} zone={zone} nowMs={nowMs} />
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
  );
}
