import { useEffect, useRef, useState } from 'react';
import { useDebounce } from 'use-debounce';
import { FOUND_KINDS, type Found, type FoundKind, type FoundPage } from '../../core/search/query.ts';
import type { Search as Asked } from '../../core/search/searchSchema.ts';
import { momentWords, shortDate } from '../../core/timing/words.ts';
import { list as listWords } from '../../core/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { DateField } from '../../ui/DateField.tsx';
import { NameSearch } from '../../ui/NameSearch.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useServerPages } from '../../ui/server.ts';
import { useAwake } from '../../ui/useAwake.ts';

const SOON_MS = 180;

const KIND_WORDS: Record<FoundKind, string> = {
  announcement: 'announcements',
  post: 'posts',
  reply: 'replies',
  answer: 'answers on the shelf',
  link: 'key links of boards',
  'check-in': 'check-ins',
};

type Filters = Omit<Asked, 'after'>;

const queryOf = (filters: Filters, after = 0): string => {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries({ ...filters, after }))
    if (value !== undefined && value !== '' && value !== 0) query.set(name, String(value));
  return query.toString();
};

/** Pieces of a text, plain and marked in turn. */
function Marked({ pieces }: { pieces: readonly string[] }) {
  return pieces.map((piece, i) =>
    i % 2 === 1 ? (
      <mark key={i} className="bg-warning/25 text-inherit">
        {piece}
      </mark>
    ) : (
      piece
    ),
  );
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
  const [authorName, setAuthorName] = useState(author);
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
  const named =
    filters.q.trim().length < 2
      ? []
      : boards.filter((board) =>
          filters.q
            .trim()
            .toLowerCase()
            .split(/\s+/)
            .every((word) => board.name.toLowerCase().includes(word)),
        );
  const set = (part: Partial<Filters>): void => setFilters((now) => ({ ...now, ...part }));
  const number = (value: string): number | undefined => (value === '' ? undefined : Number(value));
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
          <div className="grid gap-3 pb-2 sm:grid-cols-3">
            <label className="flex flex-col gap-1">
              Among
              <select
                className="select w-full"
                value={filters.kind ?? ''}
                onChange={(event) => set({ kind: FOUND_KINDS.find((kind) => kind === event.target.value) })}
              >
                <option value="">everything</option>
                {FOUND_KINDS.map((kind) => (
                  <option key={kind} value={kind}>
                    {KIND_WORDS[kind]}
                  </option>
                ))}
              </select>
            </label>
            <label className="flex flex-col gap-1">
              On the board
              <select
                className="select w-full"
                value={filters.board ?? ''}
                onChange={(event) => set({ board: number(event.target.value) })}
              >
                <option value="">any</option>
                {boards.map((board) => (
                  <option key={board.id} value={board.id}>
                    {board.name}
                  </option>
                ))}
              </select>
            </label>
            <label className="flex flex-col gap-1">
              On the boards of the group
              <select
                className="select w-full"
                value={filters.group ?? ''}
                onChange={(event) => set({ group: number(event.target.value) })}
              >
                <option value="">any</option>
                {groups.map((group) => (
                  <option key={group.id} value={group.id}>
                    {group.name}
                  </option>
                ))}
              </select>
            </label>
            <label className="flex flex-col gap-1">
              Category
              <select
                className="select w-full"
                value={filters.category ?? ''}
                onChange={(event) => set({ category: event.target.value })}
              >
                <option value="">any</option>
                {categories.map((category) => (
                  <option key={category}>{category}</option>
                ))}
              </select>
            </label>
            <DateField
              label="From"
              value={filters.from ?? ''}
              onChange={(from) => set({ from: from === '' ? undefined : from })}
            />
            <DateField
              label="To"
              value={filters.to ?? ''}
              onChange={(to) => set({ to: to === '' ? undefined : to })}
            />
            <div>
              {filters.author === undefined ? (
                <NameSearch
                  label="Written by"
                  from="/api/authors"
                  onChoose={(name) => {
                    setAuthorName(name.name);
                    set({ author: name.id });
                  }}
                />
              ) : (
                <p>
                  Written by <strong dir="auto">{authorName}</strong>{' '}
                  <button
                    type="button"
                    className="btn btn-ghost btn-sm"
                    onClick={() => set({ author: undefined })}
                  >
                    Anybody
                  </button>
                </p>
              )}
            </div>
            <label className="flex min-h-11 cursor-pointer items-center gap-3 self-end">
              <input
                type="checkbox"
                className="checkbox checkbox-primary"
                checked={filters.asks === true}
                onChange={(event) => set({ asks: event.target.checked ? true : undefined })}
              />
              That ask something
            </label>
          </div>
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
      <ul className="ledger">
        {found.map((each) => (
          <li key={each.path}>
            <time
              className="margin"
              dateTime={new Date(each.atMs).toISOString()}
              title={momentWords(each.atMs, zone, nowMs)}
            >
              {shortDate(each.atMs, zone)}
            </time>
            <div>
              <a className="link-quiet text-lg font-semibold" href={each.path} dir="auto">
                <Marked pieces={each.title} />
              </a>
              <p dir="auto">
                <Marked pieces={each.extract} />
              </p>
              <p className="text-sm text-quiet">
                <span dir="auto">{each.author}</span>
                {each.category === '' ? '' : ` · ${each.category}`}
                {each.asks ? ' · asks something' : ''}
              </p>
            </div>
            <div className="state text-sm text-quiet">{each.where}</div>
          </li>
        ))}
      </ul>
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
