import { useMemo, useRef } from 'react';
import {
  DataGrid,
  type CellKeyboardEvent,
  type CellKeyDownArgs,
  type DataGridHandle,
  type Renderers,
  type SortColumn,
} from 'react-data-grid';
import 'react-data-grid/lib/styles.css';
import './grid.css';
import {
  isCalculated,
  type SheetColumn,
  type SheetHead,
  type SheetRecord,
} from '../../../core/sheets/sheet.ts';
import type { SheetOrder } from '../../../core/sheets/view.ts';
import { gridColumnsOf } from './gridColumns.tsx';
import type { useEdits } from './useEdits.ts';
import { ROW_PX, useInSight } from './useInSight.ts';
import { usePasting } from './usePasting.ts';
import type { GridRow, useRows } from './useRows.ts';

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

/** The rows with what was written meanwhile, until the list has it. */
const withWritten = (
  read: readonly GridRow[],
  written: ReturnType<typeof useEdits>['written'],
): readonly GridRow[] =>
  written.size === 0
    ? read
    : read.map((row) => {
        const over = row.record && written.get(row.record.id);
        return row.record && over
          ? { ...row, record: { ...row.record, cells: { ...row.record.cells, ...over } } }
          : row;
      });

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
  const inSight = useInSight(grid, list);

  const { written, refused } = edits;
  const rows = useMemo(() => withWritten(read, written), [read, written]);
  const gridColumns = useMemo(
    () => gridColumnsOf({ columns, mayChange, following, zone, refused, onOpen }),
    [columns, mayChange, following, zone, refused, onOpen],
  );

  const paste = usePasting(sheet, columns, list, edits);
  const columnOf = (id: string): SheetColumn | undefined => columns.find((column) => column.id === id);
  const onKey = (args: CellKeyDownArgs<GridRow>, event: CellKeyboardEvent): void => {
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
  };

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
      onCellKeyDown={onKey}
    />
  );
}
