import { useState } from 'react';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Audience } from '../../core/audience/expression.ts';
import { GROUPS_COUNTED, type GroupLine } from '../../core/groups/group.ts';
import { list, people } from '../../core/words.ts';
import { useServerParts } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { useInAddress } from '../../ui/useInAddress.ts';
import { NewGroup } from './NewGroup.tsx';

/** The groups: how many are in each, who looks after it, and where it has its boards. */
export default function GroupList({
  groups,
  choices,
  mayChange,
  begin = {},
}: {
  groups: GroupLine[];
  choices: AudienceChoices;
  mayChange: boolean;
  /** What the address says is shown. */
  begin?: Record<string, string>;
}) {
  const begun = readAudience(begin.of);
  const [making, setMaking] = useState(mayChange && begun !== null);
  const [filter, setFilter] = useState(begin.q ?? '');
  useInAddress({ q: filter.trim() });
  const awake = useAwake();
  const found = groups.filter((group) => group.name.toLowerCase().includes(filter.trim().toLowerCase()));
  const [most, setMost] = useState(GROUPS_COUNTED);
  const inUse = found.filter((group) => !group.archived);
  const shown = inUse.slice(0, most);
  const archived = found.filter((group) => group.archived).slice(0, most);
  const counts = useCounts([...shown, ...archived]);
  return (
    <>
      <div className="mb-4 flex flex-wrap items-center gap-3">
        <h1 className="mr-auto">Groups</h1>
        <a className="btn btn-ghost" href="/people">
          People
        </a>
        {mayChange ? (
          <button type="button" className="btn btn-primary" disabled={!awake} onClick={() => setMaking(true)}>
            Make a group
          </button>
        ) : null}
      </div>
      {groups.length > 8 ? (
        <label className="mb-4 flex max-w-sm flex-col gap-1">
          Find by name
          <input
            type="search"
            className="input w-full"
            value={filter}
            onChange={(event) => {
              setFilter(event.target.value);
              setMost(GROUPS_COUNTED);
            }}
          />
        </label>
      ) : null}
      {shown.length === 0 ? (
        <p className="text-quiet">
          {groups.length === 0
            ? 'There are no groups yet. A group is whom you write to again and again: a crew, a site, everybody who has just joined.'
            : archived.length > 0
              ? 'None in use.'
              : 'No group of that name.'}
        </p>
      ) : (
        <Lines groups={shown} counts={counts} />
      )}
      {inUse.length > most ? (
        <button type="button" className="btn btn-outline mt-4" onClick={() => setMost(most + GROUPS_COUNTED)}>
          More groups: {(inUse.length - most).toLocaleString('en-GB')}
        </button>
      ) : null}
      {archived.length > 0 ? (
        <section aria-labelledby="archived" className="mt-8">
          <h2 id="archived" className="mb-2">
            Archived
          </h2>
          <Lines groups={archived} counts={counts} />
        </section>
      ) : null}
      <NewGroup open={making} rule={begun} choices={choices} onClose={() => setMaking(false)} />
    </>
  );
}

/** The audience an address holds as JSON; null where it holds none. What it says is checked by whoever it is sent to. */
function readAudience(text: string | undefined): Audience | null {
  try {
    return text === undefined ? null : (JSON.parse(text) as Audience);
  } catch {
    return null;
  }
}

type Counts = ReadonlyMap<number, number | null>;

/** How many are in the groups that are shown: as they came with the page, or asked for since. */
function useCounts(shown: readonly GroupLine[]): Counts {
  const missing = shown.filter((group) => group.people === undefined).map((group) => group.id);
  const paths: `/api/groups/counts?${string}`[] = [];
  for (let from = 0; from < missing.length; from += GROUPS_COUNTED)
    paths.push(`/api/groups/counts?ids=${missing.slice(from, from + GROUPS_COUNTED).join(',')}`);
  const { parts } = useServerParts(paths);
  return new Map([
    ...shown.flatMap((group): [number, number | null][] =>
      group.people === undefined ? [] : [[group.id, group.people]],
    ),
    ...parts.flatMap((part) =>
      Object.entries(part ?? {}).map(([id, n]): [number, number | null] => [Number(id), n]),
    ),
  ]);
}

const inWords = (n: number | null | undefined): string =>
  n === undefined ? 'being counted' : n === null ? 'its rule cannot be read' : people(n);

function Lines({ groups, counts }: { groups: GroupLine[]; counts: Counts }) {
  return (
    <ul className="ledger">
      {groups.map((group) => (
        <li key={group.id}>
          <span className="margin figure">
            {counts.get(group.id)?.toLocaleString('en-GB') ?? (counts.has(group.id) ? '?' : '…')}
          </span>
          <span>
            <a className="link-quiet font-semibold" href={`/groups/${group.id}`} dir="auto">
              {group.name}
            </a>
            <span className="block text-sm text-quiet">
              {inWords(counts.get(group.id))}, {group.kind === 'live' ? 'by a rule' : 'picked by hand'}
              {group.boards.length > 0 ? `; boards: ${group.boards.join(', ')}` : ''}
            </span>
          </span>
          <span className="state text-sm text-quiet">
            <span className="block" dir="auto">
              {group.owners.length === 0
                ? 'nobody looks after it'
                : `looked after by ${list(
                    group.owners.map((owner) => owner.name),
                    'and',
                  )}`}
            </span>
            {group.needsClearance ? <span className="text-warning">asks for clearance</span> : null}
          </span>
        </li>
      ))}
    </ul>
  );
}
