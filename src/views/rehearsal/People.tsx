import { flexRender, getCoreRowModel, useReactTable } from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useDebounce } from 'use-debounce';
import { REHEARSAL_FILTERS, type RehearsalFilter, type RehearsalPage } from '../../core/sends/rehearsal.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useInAddress } from '../../ui/useInAddress.ts';
import { pathWith, useServerPages } from '../../ui/server.ts';
import { RECIPIENT_COLUMNS, type Recipient } from './recipientColumns.tsx';

const ROW_PX = 64;
const SOON_MS = 200;

const TRACKS =
  'grid grid-cols-[6.5rem_minmax(0,1.2fr)_minmax(0,1fr)] gap-4 sm:grid-cols-[8.5rem_minmax(0,1.1fr)_7rem_minmax(0,1.3fr)]';

/** Those in sight of a list of recipients, as rows and columns; `onNear` is called as its end comes near. */
function Table({
  people,
  whole,
  onNear,
}: {
  people: Recipient[];
  /** Whether these are all. */
  whole: boolean;
  onNear: () => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  // What the packages measure themselves is not for the compiler to memoise.
  // eslint-disable-next-line react-hooks/incompatible-library
  const table = useReactTable({
    data: people,
    columns: RECIPIENT_COLUMNS,
    getRowId: ({ id }) => String(id),
    getCoreRowModel: getCoreRowModel(),
  });
  const { rows } = table.getRowModel();
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
  const items = list.getVirtualItems();
  const near = (items.at(-1)?.index ?? 0) >= rows.length - 40;
  useEffect(() => {
    if (near) onNear();
  }, [near, onNear]);
  return (
    <div
      ref={box}
      role="table"
      aria-label="Recipients"
      aria-rowcount={whole ? rows.length + 1 : -1}
      // What scrolls must be reached by the keyboard.
      // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
      tabIndex={0}
      className="h-[28rem] overflow-y-auto border-y border-base-300"
    >
      {rows.length === 0 ? null : (
        <>
          <div role="rowgroup" className="sticky top-0 z-10 border-b border-base-300 bg-base-200">
            <div role="row" aria-rowindex={1} className={`${TRACKS} py-2 text-sm text-quiet`}>
              {table.getLeafHeaders().map((header) => (
                <span
                  key={header.id}
                  role="columnheader"
                  className={`min-w-0 ${header.column.columnDef.meta?.place ?? ''}`}
                >
                  {flexRender(header.column.columnDef.header, header.getContext())}
                </span>
              ))}
            </div>
          </div>
          <div role="rowgroup" className="relative" style={{ height: list.getTotalSize() }}>
            {items.map((item) => (
              <div
                key={item.key}
                role="row"
                aria-rowindex={item.index + 2}
                className={`absolute inset-x-0 ${TRACKS} items-center border-b border-base-300`}
                style={{ height: item.size, transform: `translateY(${item.start}px)` }}
              >
                {rows[item.index]?.getVisibleCells().map((cell) => (
                  <div
                    key={cell.id}
                    role="cell"
                    className={`min-w-0 ${cell.column.columnDef.meta?.place ?? ''}`}
                  >
                    {flexRender(cell.column.columnDef.cell, cell.getContext())}
                  </div>
                ))}
              </div>
            ))}
          </div>
        </>
      )}
    </div>
  );
}

/** Everybody it would reach, as many as there are: found by name, filtered, and fetched as one scrolls. */
export function People({
  draftId,
  total,
  local,
  begin,
}: {
  draftId: number;
  total: number;
  local: boolean;
  /** What the address says is shown. */
  begin: Record<string, string>;
}) {
  const [search, setSearch] = useState(begin.q ?? '');
  const [filter, setFilter] = useState<RehearsalFilter>(
    REHEARSAL_FILTERS.find((each) => each === begin.show) ?? 'all',
  );
  useInAddress({ show: filter === 'all' ? '' : filter, q: search.trim() });
  const [sought] = useDebounce(search, SOON_MS);
  const list = useServerPages({
    path: (after: RehearsalPage['next']) =>
      pathWith(`/api/announcements/${draftId}/rehearsal/people`, {
        filter,
        search: sought,
        afterName: after?.name,
        afterId: after?.id,
      }),
    next: (page) => page.next,
  });
  const { data, hasNextPage, isFetching, fetchNextPage } = list;
  const people = useMemo(() => (data?.pages ?? []).flatMap((page) => page.people), [data]);
  const onNear = useCallback(() => {
    if (hasNextPage && !isFetching) void fetchNextPage();
  }, [hasNextPage, isFetching, fetchNextPage]);

  return (
    <section aria-labelledby="everybody">
      <div className="mb-2 flex flex-wrap items-end justify-between gap-3">
        <h2 id="everybody">Everybody it reaches</h2>
        <div className="flex flex-wrap items-end gap-3">
          <label className="flex flex-col gap-1 text-sm">
            Show
            <select
              className="select"
              value={filter}
              onChange={(event) =>
                setFilter(REHEARSAL_FILTERS.find((each) => each === event.target.value) ?? 'all')
              }
            >
              {REHEARSAL_FILTERS.map((each) => (
                <option key={each}>{each}</option>
              ))}
            </select>
          </label>
          <label className="flex flex-col gap-1 text-sm">
            Find somebody
            <input
              type="search"
              className="input"
              value={search}
              onChange={(event) => setSearch(event.target.value)}
            />
          </label>
          <a className="btn btn-outline btn-sm" href={`/api/announcements/${draftId}/rehearsal.csv`} download>
            As CSV
          </a>
        </div>
      </div>
      {list.error === null ? null : <Notice tone="error">{wordsOf(list.error)}</Notice>}
      <p role="status" className="text-sm text-quiet">
        {isFetching && people.length === 0
          ? 'Looking …'
          : people.length === 0
            ? 'Nobody here.'
            : `${people.length.toLocaleString('en-GB')}${hasNextPage ? ' so far' : ''} of ${total.toLocaleString('en-GB')}`}
      </p>
      <Table people={people} whole={!hasNextPage} onNear={onNear} />
      {local ? (
        <p className="mt-1 text-sm text-quiet">
          The time in the margin is the reader’s own, with UTC under it.
        </p>
      ) : null}
    </section>
  );
}
