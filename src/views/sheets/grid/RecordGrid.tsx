import { useEffect, useMemo, useRef, useState } from 'react';
import {
  DataGrid,
  SelectColumn,
  type Column,
  type DataGridHandle,
  type Renderers,
  type SortColumn,
} from 'react-data-grid';
import 'react-data-grid/lib/styles.css';
import './grid.css';
import { cellWords } from '../../../core/sheets/cell.ts';
import { pasted, pastedCells } from '../../../core/sheets/pasting.ts';
import {
  isCalculated,
  type SheetColumn,
  type SheetHead,
  type SheetRecord,
} from '../../../core/sheets/sheet.ts';
import { CHANGED, type SheetOrder } from '../../../core/sheets/view.ts';
import { MOST_AT_ONCE } from '../../../core/sheets/viewSchema.ts';
import { wordsOf } from '../../../ui/api.ts';
import { Moment } from '../../../ui/Moment.tsx';
import { CellEditor } from './CellEditor.tsx';
import type { useEdits } from './useEdits.ts';
import type { GridRow, useRows } from './useRows.ts';

const ROW_PX = 36;

const RENDERERS: Renderers<GridRow, unknown> = {
  renderCheckbox: ({ checked, disabled, tabIndex, onChange }) => (
    <input
      type="checkbox"
      className="checkbox checkbox-primary checkbox-sm block"
      aria-label="Choose the record"
      checked={checked ?? false}
      disabled={disabled ?? false}
      tabIndex={tabIndex}
      onChange={(event) => onChange(event.target.checked, (event.nativeEvent as PointerEvent).shiftKey)}
    />
  ),
};

/** A press of a row's own button opens the record. */
const OPEN = 'open';

/** The least widths of columns to begin with, in pixels. */
const LEAST: Record<SheetColumn['kind'], number> = {
  text: 220,
  link: 220,
  person: 190,
  number: 120,
  date: 200,
  moment: 210,
  choice: 150,
  'yes or no': 110,
};
const nameOf = ({ name, unit }: SheetColumn): string => `${name}${unit === '' ? '' : ` (${unit})`}`;
/** A column begins as wide as what it is called. */
const widthOf = ({ kind }: SheetColumn, name: string): number =>
  Math.max(LEAST[kind], Math.min(400, name.length * 9 + 40));

/**
 * The records of a sheet as a grid: moved through by keyboard, written into cell by cell, pasted into from a spreadsheet.
 * Only rows and columns in sight are drawn.
 */
export function RecordGrid({
  sheet,
  columns,
  order,
  list,
  rows: read,
  edits,
  zone,
  chosen,
  onChosen,
  onOrder,
  onOpen,
}: {
  sheet: SheetHead;
  /** Those that are shown. */
  columns: readonly SheetColumn[];
  order: readonly SheetOrder[];
  list: ReturnType<typeof useRows>;
  /** A place for each record of the list. */
  rows: readonly GridRow[];
  edits: ReturnType<typeof useEdits>;
  zone: string;
  /** Records that are chosen, by their ids. */
  chosen: ReadonlyMap<number, SheetRecord>;
  onChosen: (chosen: ReadonlyMap<number, SheetRecord>) => void;
  onOrder: (order: SheetOrder[]) => void;
  onOpen: (record: SheetRecord) => void;
}) {
  const { mayChange, following } = sheet;
  const grid = useRef<DataGridHandle>(null);
  const { show, asOf } = list;
  const [height, setHeight] = useState(0);
  useEffect(() => {
    const element = grid.current?.element;
    if (!element) return;
    const watch = new ResizeObserver(() => setHeight(element.clientHeight));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  const inSight = (top: number): void =>
    show(Math.floor(top / ROW_PX) - 5, Math.ceil((top + height) / ROW_PX) + 5);
  useEffect(() => {
    // Another order is read from where one is in it.
    const top = grid.current?.element?.scrollTop ?? 0;
    show(Math.floor(top / ROW_PX) - 5, Math.ceil((top + height) / ROW_PX) + 5);
  }, [asOf, height, show]);

  const { written, refused } = edits;
  const rows = useMemo(
    () =>
      written.size === 0
        ? read
        : read.map((row) => {
            const over = row.record && written.get(row.record.id);
            return row.record && over
              ? { ...row, record: { ...row.record, cells: { ...row.record.cells, ...over } } }
              : row;
          }),
    [read, written],
  );
  const gridColumns = useMemo((): Column<GridRow>[] => {
    const own = (record: SheetRecord, column: string): boolean =>
      !record.outside || !Object.hasOwn(following?.columns ?? {}, column);
    const written = (record: SheetRecord, column: SheetColumn): boolean =>
      !isCalculated(column) && own(record, column.id);
    return [
      // Those that are not read yet cannot be chosen: one by one, or from one to another with the shift key.
      ...(mayChange
        ? [{ ...SelectColumn, renderHeaderCell: () => <span className="sr-only">Chosen</span> }]
        : []),
      {
        key: OPEN,
        name: <span className="sr-only">Open</span>,
        width: 64,
        minWidth: 64,
        frozen: true,
        resizable: false,
        sortable: false,
        renderCell: ({ row, tabIndex }) =>
          row.record === null ? null : (
            <button
              type="button"
              className="link px-1"
              tabIndex={tabIndex}
              onClick={() => row.record && onOpen(row.record)}
            >
              {mayChange ? 'Open' : 'Read'}
            </button>
          ),
      },
      ...columns.map((column): Column<GridRow> => ({
        key: column.id,
        name: nameOf(column),
        width: widthOf(column, nameOf(column)),
        minWidth: 80,
        cellClass: (row) =>
          [
            column.kind === 'number' ? 'record-figure' : '',
            isCalculated(column) ? 'record-calculated' : '',
            refused && refused.record === row.record?.id && refused.column === column.id
              ? 'record-refused'
              : '',
          ].join(' '),
        // What somebody else changes meanwhile takes nothing away from whoever writes.
        editorOptions: { closeOnExternalRowChange: false },
        editable: (row) => mayChange && row.record !== null && written(row.record, column),
        renderCell: ({ row }) =>
          row.record === null ? (
            <span className="record-blank" aria-hidden />
          ) : refused && refused.record === row.record.id && refused.column === column.id ? (
            <span dir="auto">{refused.text}</span>
          ) : (
            <span dir="auto">
              {cellWords({ ...column, unit: '' }, row.record.cells[column.id] ?? '', zone)}
            </span>
          ),
        renderEditCell: (props) => (
          <CellEditor
            column={column}
            value={
              refused && refused.record === props.row.record?.id && refused.column === column.id
                ? refused.text
                : (props.row.record?.cells[column.id] ?? '')
            }
            onChange={(text, commit) => {
              const { row } = props;
              if (!row.record) return;
              const cells = { ...row.record.cells, [column.id]: text };
              props.onRowChange(
                { ...row, saw: row.saw ?? row.record, record: { ...row.record, cells } },
                commit,
              );
            }}
          />
        ),
      })),
      {
        key: CHANGED,
        name: 'Changed',
        width: 170,
        minWidth: 100,
        renderCell: ({ row }) =>
          row.record === null ? null : (
            <span className="text-sm text-quiet">
              <Moment at={row.record.changedMs} zone={zone} />
            </span>
          ),
      },
    ];
  }, [columns, mayChange, following, zone, refused, onOpen]);

  const paste = async (text: string, from: number, columnId: string): Promise<void> => {
    const lines = pastedCells(text);
    if (lines.length > MOST_AT_ONCE) {
      edits.tell([
        `${lines.length.toLocaleString('en-GB')} rows are more than the ${MOST_AT_ONCE.toLocaleString('en-GB')} that are pasted at once. Save them as a CSV file, and bring in that.`,
      ]);
      return;
    }
    const begin = columns.findIndex(({ id }) => id === columnId);
    let records: (SheetRecord | null)[];
    try {
      records = await list.recordsFrom(from, from + lines.length);
    } catch (error) {
      edits.tell([wordsOf(error)]);
      return;
    }
    const outside = new Set(records.flatMap((record) => (record?.outside ? [record.id] : [])));
    const result = pasted(
      lines,
      columns.slice(begin),
      records,
      (record, column) => !outside.has(record) || !Object.hasOwn(following?.columns ?? {}, column),
    );
    if ('problems' in result) {
      const told = result.problems
        .slice(0, 8)
        .map(({ row, detail }) => `Row ${row} of what was pasted: ${detail}`);
      const more = result.problems.length - told.length;
      edits.tell([...told, ...(more > 0 ? [`And ${more} more.`] : []), 'Nothing was pasted.']);
    } else if (result.change.length + result.add.length > 0)
      await edits.carryOut({ change: result.change, add: result.add });
  };
  const columnOf = (id: string): SheetColumn | undefined => columns.find((column) => column.id === id);

  return (
    <DataGrid
      ref={grid}
      className="record-grid"
      aria-label="The records"
      aria-rowcount={list.total + 1}
      style={{ blockSize: `min(max(20rem, 100dvh - 18rem), ${list.total * ROW_PX + 60}px)` }}
      columns={gridColumns}
      rows={rows}
      rowKeyGetter={({ index, record }) => record?.id ?? -1 - index}
      renderers={RENDERERS}
      rowHeight={ROW_PX}
      headerRowHeight={40}
      defaultColumnOptions={{ resizable: true, sortable: true }}
      sortColumns={order.map(({ column, turned }) => ({
        columnKey: column,
        direction: turned ? 'DESC' : 'ASC',
      }))}
      onSortColumnsChange={(sorted: SortColumn[]) =>
        onOrder(
          sorted
            .slice(-3)
            .map(({ columnKey, direction }) => ({ column: columnKey, turned: direction === 'DESC' })),
        )
      }
      selectedRows={new Set(chosen.keys())}
      isRowSelectionDisabled={({ record }) => record === null}
      onSelectedRowsChange={(ids) => {
        const here = new Map(read.flatMap(({ record }) => (record ? [[record.id, record]] : [])));
        onChosen(
          new Map(
            [...ids].flatMap((id) => {
              const record = here.get(id) ?? chosen.get(id);
              return record ? [[id, record]] : [];
            }),
          ),
        );
      }}
      onScroll={(event) => inSight(event.currentTarget.scrollTop)}
      onRowsChange={(changed, { indexes, column }) => {
        const [at = -1] = indexes;
        const [before, after, of] = [changed[at]?.saw, changed[at]?.record, columnOf(column.key)];
        if (before && after && of) void edits.write(before, of, after.cells[of.id] ?? '');
      }}
      onCellPaste={({ row, column }, event) => {
        if (mayChange && columnOf(column.key))
          void paste(event.clipboardData.getData('text/plain'), row.index, column.key);
        return row;
      }}
      onCellCopy={({ row, column }, event) => {
        const held = columnOf(column.key);
        if (!held || !row.record) return;
        event.preventDefault();
        event.clipboardData.setData('text/plain', row.record.cells[held.id] ?? '');
      }}
      onCellKeyDown={(args, event) => {
        if (args.mode !== 'ACTIVE') return;
        const key = event.key.toLowerCase();
        if ((event.ctrlKey || event.metaKey) && (key === 'z' || key === 'y')) {
          event.preventDefault();
          event.preventGridDefault();
          if (key === 'y' || event.shiftKey) void edits.redo();
          else void edits.undo();
          return;
        }
        const { row, column } = args;
        if (event.key !== 'Delete' && event.key !== 'Backspace') return;
        const [held, record] = [column && columnOf(column.key), row?.record];
        if (!held || !record || !mayChange || isCalculated(held)) return;
        event.preventGridDefault();
        void edits.write(record, held, '');
      }}
    />
  );
}
