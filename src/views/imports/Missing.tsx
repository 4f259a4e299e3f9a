import { useState } from 'react';
import { leavingProblem, type ImportSummary } from '../../core/imports/import.ts';
import { people } from '../../core/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, useServerPages } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';

interface Page {
  people: { id: number; name: string; station: string | null }[];
  next: { name: string; id: number } | null;
}

/** Those who are here and not in a list: they stay, unless it is said that they have left. */
export function Missing({
  found,
  onChoose,
}: {
  found: ImportSummary;
  onChoose: (marksLeft: boolean) => void;
}) {
  const [shown, setShown] = useState(false);
  const awake = useAwake();
  if (found.missing === 0) return null;
  const problem = leavingProblem(found.counts);
  return (
    <>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="checkbox"
          checked={found.marksLeft}
          disabled={!awake || (problem !== null && !found.marksLeft)}
          onChange={(event) => onChoose(event.target.checked)}
        />
        Mark those as left who are here and not in it: {people(found.missing)}. Coordinators stay in any case.
      </label>
      {problem === null ? null : <p className="max-w-prose text-sm text-warning">{problem}</p>}
      <button
        type="button"
        className="btn btn-ghost btn-sm"
        aria-expanded={shown}
        disabled={!awake}
        onClick={() => setShown(!shown)}
      >
        {shown ? 'Hide who that is' : 'Show who that is'}
      </button>
      {shown ? <MissingPeople id={found.id} /> : null}
    </>
  );
}

function MissingPeople({ id }: { id: number }) {
  const pages = useServerPages({
    path: (after: Page['next']) =>
      pathWith(`/api/imports/${id}/missing`, { afterName: after?.name, afterId: after?.id }),
    next: (page) => page.next,
  });
  if (pages.error) return <Notice tone="error">{wordsOf(pages.error)}</Notice>;
  const found = (pages.data?.pages ?? []).flatMap((page) => page.people);
  return (
    <div className="mt-2 max-h-64 overflow-y-auto border-y border-base-300 py-2">
      <ul className="columns-1 gap-8 sm:columns-2">
        {found.map((person) => (
          <li key={person.id} dir="auto">
            {person.name} <span className="text-sm text-quiet">{person.station ?? ''}</span>
          </li>
        ))}
      </ul>
      {pages.hasNextPage ? (
        <button
          type="button"
          className="btn btn-ghost btn-sm"
          disabled={pages.isFetchingNextPage}
          onClick={() => void pages.fetchNextPage()}
        >
          More of them
        </button>
      ) : null}
    </div>
  );
}
