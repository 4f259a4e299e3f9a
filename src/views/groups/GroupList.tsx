import { useState } from 'react';
import type { AudienceChoices } from '../../core/audience/choices.ts';
import type { Audience } from '../../core/audience/expression.ts';
import type { GroupLine } from '../../core/groups/group.ts';
import { people } from '../../core/words.ts';
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
  const shown = found.filter((group) => !group.archived);
  const archived = found.filter((group) => group.archived);
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
            onChange={(event) => setFilter(event.target.value)}
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
        <Lines groups={shown} />
      )}
      {archived.length > 0 ? (
        <section aria-labelledby="archived" className="mt-8">
          <h2 id="archived" className="mb-2">
            Archived
          </h2>
          <Lines groups={archived} />
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

function Lines({ groups }: { groups: GroupLine[] }) {
  return (
    <ul className="ledger">
      {groups.map((group) => (
        <li key={group.id}>
          <span className="margin figure">
            {group.people === null ? '?' : group.people.toLocaleString('en-GB')}
          </span>
          <span>
            <a className="link-quiet font-semibold" href={`/groups/${group.id}`} dir="auto">
              {group.name}
            </a>
            <span className="block text-sm text-quiet">
              {group.people === null ? 'its rule cannot be read' : people(group.people)},{' '}
              {group.kind === 'live' ? 'by a rule' : 'picked by hand'}
              {group.boards.length > 0 ? `; boards: ${group.boards.join(', ')}` : ''}
            </span>
          </span>
          <span className="state text-sm text-quiet">
            <span className="block" dir="auto">
              {group.owner === null ? 'nobody looks after it' : `looked after by ${group.owner}`}
            </span>
            {group.needsClearance ? <span className="text-warning">asks for clearance</span> : null}
          </span>
        </li>
      ))}
    </ul>
  );
}
