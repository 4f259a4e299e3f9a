import { flexRender, type Column, type Row } from '@tanstack/react-table';
import { ArrowDown, ArrowUp } from 'lucide-react';
import type { PeopleOrder } from '../../core/people/together.ts';
import { beside, ORDER_OF, type Listed } from './columns.tsx';
import { RowActs, type PersonActs } from './RowActs.tsx';

/** The headings of the table; those it can be ordered by are pressed. */
export function Head({
  columns,
  mayChange,
  order,
  turned,
  onOrder,
}: {
  columns: Column<Listed>[];
  mayChange: boolean;
  order: PeopleOrder;
  turned: boolean;
  onOrder: (order: PeopleOrder, turned: boolean) => void;
}) {
  return (
    <div role="rowgroup" className="people-head">
      <div role="row" aria-rowindex={1} className="people-row">
        {mayChange ? (
          <span role="columnheader">
            <span className="sr-only">Chosen</span>
          </span>
        ) : null}
        {columns.map((column) => {
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
  );
}

/** What stands in a row; a mark where it has not been read yet. */
export function Cells({
  listed,
  row,
  mayChange,
  me,
  chosen,
  acts,
  onChoose,
}: {
  listed: Listed | undefined;
  row: Row<Listed> | undefined;
  mayChange: boolean;
  me: number;
  chosen: boolean;
  acts: PersonActs;
  /** Chooses it, or no longer; with Shift, also those from the one before to it. */
  onChoose: (chosen: boolean, range: boolean) => void;
}) {
  if (!listed || !row)
    return (
      <span role="cell" className="people-name text-quiet">
        …
      </span>
    );
  return (
    <>
      {mayChange ? (
        <span role="cell">
          <input
            type="checkbox"
            className="checkbox"
            aria-label={`Choose ${listed.person.name}`}
            checked={chosen}
            onChange={(event) => onChoose(event.target.checked, (event.nativeEvent as PointerEvent).shiftKey)}
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
  );
}
