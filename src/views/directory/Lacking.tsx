import { useState } from 'react';
import { people as peopleWords } from '../../core/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useServer } from '../../ui/server.ts';

const PAGE = 50;

/** Who has no identity in a system, by name, a page at a time; each leads to their own page, where it is written down. */
export function Lacking({ system }: { system: string }) {
  const [from, setFrom] = useState(0);
  const { data, error } = useServer(
    `/api/identities/lacking?system=${encodeURIComponent(system)}&from=${from}`,
    {
      keepPrevious: true,
      topics: ['people'],
    },
  );
  if (error) return <Notice tone="error">{wordsOf(error)}</Notice>;
  if (!data) return <p className="text-quiet">One moment …</p>;
  if (data.total === 0) return <p className="text-quiet">Everybody here is known in it.</p>;
  return (
    <div className="mt-1">
      <p className="text-sm text-quiet">{peopleWords(data.total)} not known in it:</p>
      <ul className="columns-1 gap-x-8 sm:columns-2">
        {data.people.map(({ id, name, station }) => (
          <li key={id} className="min-h-8 py-1">
            <a className="link-quiet" href={`/person/${id}`} dir="auto">
              {name}
            </a>
            {station === null ? null : <span className="text-sm text-quiet">, {station}</span>}
          </li>
        ))}
      </ul>
      {data.total > PAGE ? (
        <div className="flex gap-2">
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={from === 0}
            onClick={() => setFrom(Math.max(0, from - PAGE))}
          >
            Before
          </button>
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={from + PAGE >= data.total}
            onClick={() => setFrom(from + PAGE)}
          >
            After
          </button>
        </div>
      ) : null}
    </div>
  );
}
