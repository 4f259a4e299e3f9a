import { useEffect, useRef, useState } from 'react';
import { useDebounce } from 'use-debounce';
import type { Found, FoundPage } from '../../core/search/query.ts';
import { list as listWords } from '../../core/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useServerPages } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { NarrowFields, type Filters } from './NarrowFields.tsx';
import { Results } from './Results.tsx';

const SOON_MS = 180;

const queryOf = (filters: Filters, after = 0): string => {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries({ ...filters, after }))
    if (value !== undefined && value !== '' && value !== 0) query.set(name, String(value));
  return query.toString();
};

/** Boards whose names hold all the words. */
function boardsNamed<B extends { name: string }>(boards: readonly B[], q: string): B[] {
  const words = q.trim().toLowerCase().split(/\s+/);
  if (q.trim().length < 2) return [];
  return boards.filter((board) => words.every((word) => board.name.toLowerCase().includes(word)));
}

/** Searching announcements, posts, replies and the shelf; what is asked stands in the address, so that it can be kept. */
export default function Search({
  first,
  asked,
  author,
  boards,
  groups,
  categories,
  zone,
  nowMs,
}: {
  first: FoundPage;
  asked: Filters;
  author: string | null;
  boards: { id: number; name: string }[];
  groups: { id: number; name: string }[];
  categories: string[];
  zone: string;
  nowMs: number;
}) {
  const awake = useAwake();
  const [filters, setFilters] = useState<Filters>(asked);
  const [sought] = useDebounce(filters, SOON_MS);
  const query = queryOf(sought);
  const list = useServerPages({
    path: (after: number | null) => `/api/search?${queryOf(sought, after ?? 0)}`,
    next: (page) => page.next,
    first: { path: `/api/search?${queryOf(asked)}`, page: first },
  });
  const found = (list.data?.pages ?? []).flatMap((page): Found[] => page.found);
  const instead = [...new Set((list.data?.pages ?? []).flatMap((page) => page.instead))];
  useEffect(() => {
    history.replaceState(null, '', `/search${query === '' ? '' : `?${query}`}`);
  }, [query]);
  const box = useRef<HTMLInputElement>(null);
  useEffect(() => {
    // Whoever comes to search begins to type.
    if (awake && asked.q === '') box.current?.focus();
  }, [awake, asked.q]);
  const named = boardsNamed(boards, filters.q);
  const set = (part: Partial<Filters>): void => setFilters((now) => ({ ...now, ...part }));
  const narrowed = [
    filters.kind,
    filters.board,
    filters.group,
    filters.author,
    filters.category,
    filters.from,
    filters.to,
    filters.asks,
  ].filter((each) => each !== undefined && each !== '').length;
  const [narrow, setNarrow] = useState(narrowed > 0);
  return (
    <>
      <h1 className="mb-4">Search</h1>
      <label className="flex flex-col gap-1">
        Words that must all be there
        <input
          ref={box}
          type="search"
          className="input input-lg w-full"
          value={filters.q}
          disabled={!awake}
          maxLength={200}
          onChange={(event) => set({ q: event.target.value })}
          dir="auto"
        />
      </label>
      {named.length > 0 ? (
        <p className="mt-2 flex flex-wrap gap-x-4">
          <span className="text-quiet">Boards:</span>
          {named.slice(0, 6).map((board) => (
            <a key={board.id} className="link-quiet font-semibold" href={`/boards/${board.id}`} dir="auto">
              {board.name}
            </a>
          ))}
        </p>
      ) : null}
      <details className="mt-2 mb-4" open={narrow} onToggle={(event) => setNarrow(event.currentTarget.open)}>
        <summary className="min-h-11 cursor-pointer py-2 link-quiet">
          Narrow it{narrowed > 0 ? ` (${narrowed})` : ''}
        </summary>
        {narrow ? (
          <NarrowFields
            filters={filters}
            author={author}
            boards={boards}
            groups={groups}
            categories={categories}
            onSet={set}
          />
        ) : null}
      </details>
      {list.error === null ? null : <Notice tone="error">{wordsOf(list.error)}</Notice>}
      <p role="status" className="mb-2 text-quiet">
        {found.length === 0
          ? filters.q.trim().length > 0 && filters.q.trim().length < 3
            ? 'Write at least three letters.'
            : 'Nothing that you may see holds these words. Try fewer, or the beginning of one.'
          : filters.q.trim() === ''
            ? 'The latest:'
            : `${found.length}${list.hasNextPage ? ' or more' : ''} found, the best first:`}
        {instead.length > 0 && found.length > 0
          ? ` Nothing holds just these letters; it is found by ${listWords(
              instead.map((word) => `“${word}”`),
              'or',
            )}.`
          : ''}
      </p>
      <Results found={found} zone={zone} nowMs={nowMs} />
      {!list.hasNextPage ? null : (
        <button
          type="button"
          className="btn btn-outline mt-4"
          disabled={list.isFetchingNextPage}
          onClick={() => void list.fetchNextPage()}
        >
          More
        </button>
      )}
    </>
  );
}
