import { getCoreRowModel, useReactTable, type SortingState } from '@tanstack/react-table';
import { useMemo, useRef, type CSSProperties } from 'react';
import type { PeoplePage } from '../../core/people/person.ts';
import type { PeopleOrder } from '../../core/people/together.ts';
import { wordsOf } from '../../ui/api.ts';
import { lazily } from '../../ui/lazily.tsx';
import { Notice } from '../../ui/Notice.tsx';
import { useKept } from '../../ui/useKept.ts';
import { useAwake } from '../../ui/useAwake.ts';
import { columnsOf, USUAL } from './columns.tsx';
import type { PersonActs } from './RowActs.tsx';
import { Cells, Head } from './tableParts.tsx';
import { idsBetween, usePeopleRows } from './usePeopleRows.ts';

const ColumnsMenu = lazily(
  () => import('./ColumnsMenu.tsx').then((module) => module.ColumnsMenu),
  () => <span className="btn btn-ghost btn-sm">Columns</span>,
  'near',
);

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
  const anchor = useRef<number>(undefined);
  // What the server sends has no styles of its own: its rows follow each other until the script places them.
  const awake = useAwake();
  const [kept, keepColumns] = useKept<readonly string[]>('people columns', USUAL);

  const { box, virtual, items, listedAt, error } = usePeopleRows(count, query, first);
  const inSight = items.flatMap(({ index }) => listedAt(index) ?? []);

  const columns = useMemo(
    () => columnsOf(attributes, stations, mayChange),
    [attributes, stations, mayChange],
  );
  const sorting: SortingState = [{ id: order, desc: turned }];
  // The table's own functions are not for the compiler to memoise.
  // eslint-disable-next-line react-hooks/incompatible-library
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
  /** Chooses one, or with Shift all from the one chosen before to it. */
  const choose = (index: number, id: number, one: boolean, range: boolean): void => {
    const begin = anchor.current;
    anchor.current = index;
    if (range && begin !== undefined) onChoose(idsBetween(begin, index, listedAt), one);
    else onChoose([id], one);
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
        <Head columns={headings} mayChange={mayChange} order={order} turned={turned} onOrder={onOrder} />
        <div
          role="rowgroup"
          className="relative"
          style={awake ? { height: virtual.getTotalSize() } : undefined}
        >
          {items.map(({ index, start, key }) => {
            const listed = listedAt(index);
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
                <Cells
                  listed={listed}
                  row={listed && rowsById[String(listed.person.id)]}
                  mayChange={mayChange}
                  me={me}
                  chosen={listed !== undefined && chosen.has(listed.person.id)}
                  acts={acts}
                  onChoose={(one, range) => listed && choose(index, listed.person.id, one, range)}
                />
              </div>
            );
          })}
        </div>
      </div>
    </>
  );
}
