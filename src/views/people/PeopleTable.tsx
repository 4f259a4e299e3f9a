import { flexRender, getCoreRowModel, useReactTable, type SortingState } from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useEffect, useMemo, useRef, type CSSProperties } from 'react';
import { PEOPLE_PART, type PeoplePage } from '../../core/people/person.ts';
import type { PeopleOrder } from '../../core/people/together.ts';
import { wordsOf } from '../../ui/api.ts';
import { lazily } from '../../ui/lazily.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { pathWith, useServerParts } from '../../ui/server.ts';
import { useKeptText } from '../../ui/useKeptText.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { beside, columnsOf, ORDER_OF, USUAL, type Listed } from './columns.tsx';
import { RowActs, type PersonActs } from './RowActs.tsx';

const ColumnsMenu = lazily(
  () => import('./ColumnsMenu.tsx').then((module) => module.ColumnsMenu),
  () => <span className="btn btn-ghost btn-sm">Columns</span>,
  'near',
);

const ROW_PX = 64;
const TOPICS = ['people'];
/** What is in sight before the page has been measured. */
const AT_FIRST = { width: 1024, height: 640 };

/** As many people as there are, in rows and columns: those in sight are read, and no others. */
export function PeopleTable({
  count,
  query,
  first,
  order,
  turned,
  attributes,
  stations,
  mayChange,
  me,
  chosen,
  acts,
  zone,
  nowMs,
  onOrder,
  onChoose,
}: {
  count: number;
  /** What is asked for, as a query without the place in the list. */
  query: Record<string, string>;
  /** The first rows, and the path they came from. */
  first: { path: string; part: PeoplePage };
  order: PeopleOrder;
  turned: boolean;
  attributes: readonly string[];
  /** Whether there are stations to speak of. */
  stations: boolean;
  mayChange: boolean;
  me: number;
  chosen: ReadonlySet<number>;
  acts: PersonActs;
  zone: string;
  nowMs: number;
  onOrder: (order: PeopleOrder, turned: boolean) => void;
  onChoose: (ids: readonly number[], chosen: boolean) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const anchor = useRef<number>(undefined);
  // What the server sends has no styles of its own: its rows follow each other until the script places them.
  const awake = useAwake();
  const { text: kept, set: keepColumns } = useKeptText<readonly string[]>('people columns', USUAL);

  // The list's own measuring is not for the compiler to memoise.
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 10,
    initialRect: AT_FIRST,
  });
  const asked = partPath(query, 0);
  useEffect(() => {
    // Another list begins at its head.
    if (box.current) box.current.scrollTop = 0;
  }, [asked]);
  const items = virtual.getVirtualItems();
  const partOf = (index: number): number => Math.floor(index / PEOPLE_PART);
  const from = partOf(items[0]?.index ?? 0);
  const to = partOf(items.at(-1)?.index ?? 0);
  const wanted = Array.from({ length: to - from + 1 }, (_, i) => from + i);
  const { parts, error } = useServerParts(
    wanted.map((part) => partPath(query, part)),
    { first, topics: TOPICS },
  );
  const listedAt = (index: number): Listed | undefined => {
    const part = parts[partOf(index) - from];
    const person = part?.people[index % PEOPLE_PART];
    return (
      part &&
      person && { person, access: part.access[person.id], attributes: part.attributes[person.id] ?? {} }
    );
  };
  const inSight = items.flatMap(({ index }) => listedAt(index) ?? []);

  const columns = useMemo(
    () => columnsOf(attributes, stations, mayChange),
    [attributes, stations, mayChange],
  );
  const sorting: SortingState = [{ id: order, desc: turned }];
  const table = useReactTable({
    data: inSight,
    columns,
    getRowId: ({ person }) => String(person.id),
    getCoreRowModel: getCoreRowModel(),
    manualSorting: true,
    // Each drawing has the rows in sight anew; that is nothing to begin again for.
    autoResetAll: false,
    enableSortingRemoval: false,
    state: {
      sorting,
      columnVisibility: Object.fromEntries(
        columns.map(({ id = '' }) => [id, id === 'name' || kept.includes(id)]),
      ),
    },
    meta: { zone, nowMs },
  });
  const { rowsById } = table.getRowModel();
  const headings = table.getVisibleLeafColumns();
  const grid = [
    ...(mayChange ? ['2.75rem'] : []),
    ...headings.map(({ columnDef }) => columnDef.meta?.width ?? 'minmax(6rem, 1fr)'),
    ...(mayChange ? ['minmax(9rem, 15rem)'] : []),
  ].join(' ');
  const choose = (index: number, id: number, one: boolean, stretch: boolean): void => {
    const begin = anchor.current;
    anchor.current = index;
    if (!stretch || begin === undefined) {
      onChoose([id], one);
      return;
    }
    const [low, high] = [Math.min(begin, index), Math.max(begin, index)];
    const ids: number[] = [];
    for (let at = low; at <= high; at++) {
      const listed = listedAt(at);
      if (listed) ids.push(listed.person.id);
    }
    onChoose(ids, one);
  };

  return (
    <>
      {error === null ? null : <Notice tone="error">{wordsOf(error)}</Notice>}
      <div className="flex justify-end max-md:hidden">
        <ColumnsMenu
          columns={table
            .getAllLeafColumns()
            .filter((column) => column.getCanHide())
            .map(({ id, columnDef }) => ({ id, words: String(columnDef.header) }))}
          shown={new Set(kept)}
          onChange={(shown) => keepColumns([...shown])}
        />
      </div>
      <div
        ref={box}
        role="table"
        aria-label="People"
        aria-rowcount={count + 1}
        // What scrolls must be reached by the keyboard.
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex
        tabIndex={0}
        className={`people-table ${mayChange ? '' : 'people-table-read'} ${stations ? '' : 'people-table-here'}`}
        style={
          awake
            ? ({
                '--columns': grid,
              } as CSSProperties)
            : undefined
        }
      >
        <div role="rowgroup" className="people-head">
          <div role="row" aria-rowindex={1} className="people-row">
            {mayChange ? (
              <span role="columnheader">
                <span className="sr-only">Chosen</span>
              </span>
            ) : null}
            {headings.map((column) => {
              const by = column.getCanSort() ? ORDER_OF[column.id] : undefined;
              const here = by === order;
              const words = flexRender(column.columnDef.header, {} as never);
              return (
                <span
                  key={column.id}
                  role="columnheader"
                  aria-sort={here ? (turned ? 'descending' : 'ascending') : undefined}
                >
                  {by === undefined ? (
                    words
                  ) : (
                    <button
                      type="button"
                      className="inline-flex min-h-8 items-center gap-1 font-semibold"
                      onClick={() => onOrder(by, here && !turned)}
                    >
                      {words}
                      {here ? (
                        turned ? (
                          <ArrowUp size={16} aria-hidden />
                        ) : (
                          <ArrowDown size={16} aria-hidden />
                        )
                      ) : null}
                    </button>
                  )}
                </span>
              );
            })}
            {mayChange ? (
              <span role="columnheader">
                <span className="sr-only">What can be done</span>
              </span>
            ) : null}
          </div>
        </div>
        <div
          role="rowgroup"
          className="relative"
          style={awake ? { height: virtual.getTotalSize() } : undefined}
        >
          {items.map(({ index, start, key }) => {
            const listed = listedAt(index);
            const row = listed && rowsById[String(listed.person.id)];
            return (
              <div
                key={key}
                ref={virtual.measureElement}
                data-index={index}
                role="row"
                aria-rowindex={index + 2}
                className={`people-row border-b border-base-300 ${awake ? 'absolute inset-x-0' : ''}`}
                style={awake ? { transform: `translateY(${start}px)` } : undefined}
              >
                {!listed || !row ? (
                  <span role="cell" className="people-name text-quiet">
                    …
                  </span>
                ) : (
                  <>
                    {mayChange ? (
                      <span role="cell">
                        <input
                          type="checkbox"
                          className="checkbox"
                          aria-label={`Choose ${listed.person.name}`}
                          checked={chosen.has(listed.person.id)}
                          onChange={(event) =>
                            choose(
                              index,
                              listed.person.id,
                              event.target.checked,
                              (event.nativeEvent as PointerEvent).shiftKey,
                            )
                          }
                        />
                      </span>
                    ) : null}
                    {row.getVisibleCells().map((cell) => (
                      <span
                        key={cell.id}
                        role="cell"
                        className={{ name: 'people-name', in: 'people-in' }[cell.column.id] ?? 'people-cell'}
                      >
                        {flexRender(cell.column.columnDef.cell, cell.getContext())}
                        {cell.column.id === 'name' ? (
                          <span className="block text-sm text-quiet md:hidden">{beside(listed)}</span>
                        ) : null}
                      </span>
                    ))}
                    {mayChange ? (
                      <span role="cell" className="people-acts">
                        <RowActs listed={listed} isMe={listed.person.id === me} acts={acts} />
                      </span>
                    ) : null}
                  </>
                )}
              </div>
            );
          })}
        </div>
      </div>
    </>
  );
}

/** The path of some rows that follow each other. */
export const partPath = (query: Record<string, string>, part: number): '/api/people' =>
  pathWith('/api/people', { ...query, from: part === 0 ? '' : String(part * PEOPLE_PART) });
