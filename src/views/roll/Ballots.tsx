import { useState } from 'react';
import type { BallotsPage } from '../../core/asks/results.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, useServerPages } from '../../ui/server.ts';

function Table({ id }: { id: number }) {
  const { data, error, hasNextPage, fetchNextPage, isFetching } = useServerPages({
    path: (after: BallotsPage['next']) => pathWith(`/api/asks/${id}/ballots`, { ...after }),
    next: (page) => page.next,
    topics: [`roll:${id}`],
  });
  const found = data?.pages.flatMap((page) => page.ballots) ?? [];
  if (error) return <Notice tone="error">{wordsOf(error)}</Notice>;
  if (data && found.length === 0) return <p className="text-quiet">Nobody has voted yet.</p>;
  return (
    <>
      <div className="overflow-x-auto">
        <table className="w-full border-collapse text-sm" aria-busy={isFetching}>
          <caption className="sr-only">Who chose what</caption>
          <thead className="text-left text-quiet">
            <tr>
              <th scope="col" className="py-1 pr-3 font-normal">
                Name
              </th>
              <th scope="col" className="py-1 pr-3 font-normal">
                Station
              </th>
              <th scope="col" className="py-1 font-normal">
                Chose
              </th>
            </tr>
          </thead>
          <tbody>
            {found.map((row) => (
              <tr key={row.personId} className="border-t border-base-300">
                <th scope="row" className="py-1 pr-3 text-left font-normal" dir="auto">
                  {row.name}
                </th>
                <td className="py-1 pr-3 text-quiet">{row.station ?? ''}</td>
                <td className="py-1" dir="auto">
                  {row.words}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {hasNextPage ? (
        <button
          type="button"
          className="btn btn-outline btn-sm mt-2"
          disabled={isFetching}
          onClick={() => void fetchNextPage()}
        >
          More votes
        </button>
      ) : null}
    </>
  );
}

/** Who chose what in a named poll, fetched when it is opened. */
export function Ballots({ id }: { id: number }) {
  const [open, setOpen] = useState(false);
  return (
    <details className="mt-3" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="flex min-h-11 cursor-pointer items-center text-primary">Who chose what</summary>
      {open ? <Table id={id} /> : null}
    </details>
  );
}
