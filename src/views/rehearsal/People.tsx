import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState } from 'react';
import { useDebounce } from 'use-debounce';
import { REHEARSAL_FILTERS, type RehearsalFilter, type RehearsalPage } from '../../core/sends/rehearsal.ts';
import { dateWords, timeWords, zoneWords } from '../../core/timing/words.ts';
import { wordsOf } from '../../ui/api.ts';
import { Notice } from '../../ui/Notice.tsx';
import { useInAddress } from '../../ui/useInAddress.ts';
import { pathWith, useServerPages } from '../../ui/server.ts';

const ROW_PX = 64;
const SOON_MS = 200;

const utc = (ms: number): string => new Date(ms).toISOString().slice(0, 16).replace('T', ' ');

/** A reader in the list: when it comes to them, by which ways, and why. */
function Row({
  person,
  index,
  top,
  height,
}: {
  person: RehearsalPage['people'][number];
  index: number;
  /** Where it stands, and how high it is, in pixels. */
  top: number;
  height: number;
}) {
  return (
    <div
      role="row"
      aria-rowindex={index + 1}
      className="absolute inset-x-0 grid grid-cols-[6.5rem_minmax(0,1.2fr)_minmax(0,1fr)] items-center gap-4 border-b border-base-300 sm:grid-cols-[8.5rem_minmax(0,1.1fr)_7rem_minmax(0,1.3fr)]"
      style={{ height: height, transform: `translateY(${top}px)` }}
    >
      <div role="cell" className="border-r border-base-300 pr-3 text-right">
        {person.dueMs === null ? (
          <span className="text-error">not</span>
        ) : (
          <>
            <time className="block" title={`${utc(person.dueMs)} UTC`}>
              {timeWords(person.dueMs, person.zone)}
            </time>
            <span className="figure block text-xs text-quiet">{utc(person.dueMs).slice(5)} UTC</span>
          </>
        )}
      </div>
      <div role="cell" className="min-w-0">
        <span className="block truncate font-semibold" dir="auto">
          {person.name}
        </span>
        <span className="block truncate text-sm text-quiet">
          {[
            person.station,
            zoneWords(person.zone),
            person.dueMs === null ? '' : dateWords(person.dueMs, person.zone),
          ]
            .filter(Boolean)
            .join(', ')}
        </span>
      </div>
      <div role="cell" className="text-sm max-sm:hidden">
        {person.methods.join(' and ')}
      </div>
      <div role="cell" className="min-w-0 text-sm">
        <span className="block truncate text-quiet" title={person.reason}>
          {person.reason}
        </span>
        {person.note === null ? null : (
          <span className="block truncate text-warning" title={person.note}>
            {person.note}
          </span>
        )}
      </div>
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
  const box = useRef<HTMLDivElement>(null);

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
  const people = (list.data?.pages ?? []).flatMap((page) => page.people);
  const { hasNextPage, isFetching, fetchNextPage } = list;

  // The list's own measuring is not for the compiler to memoise.
  // eslint-disable-next-line react-hooks/incompatible-library
  const rows = useVirtualizer({
    count: people.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
  const items = rows.getVirtualItems();
  const lastShown = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (hasNextPage && !isFetching && lastShown >= people.length - 40) void fetchNextPage();
  }, [lastShown, people.length, hasNextPage, isFetching, fetchNextPage]);

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
      <div
        ref={box}
        role="table"
        aria-label="Recipients"
        aria-rowcount={hasNextPage ? -1 : people.length}
        // What scrolls must be reached by the keyboard.
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
        tabIndex={0}
        className="h-[28rem] overflow-y-auto border-y border-base-300"
      >
        {people.length === 0 ? null : (
          <div role="rowgroup" className="relative" style={{ height: rows.getTotalSize() }}>
            {items.map((item) => {
              const person = people[item.index];
              if (!person) return null;
              return (
                <Row key={item.key} person={person} index={item.index} top={item.start} height={item.size} />
              );
            })}
          </div>
        )}
      </div>
      {local ? (
        <p className="mt-1 text-sm text-quiet">
          The time in the margin is the reader’s own, with UTC under it.
        </p>
      ) : null}
    </section>
  );
}
