import { SelectColumn, type Column } from 'react-data-grid';
import { cellWords } from '../../../core/sheets/cell.ts';
import {
  isCalculated,
  type SheetColumn,
  type SheetHead,
  type SheetRecord,
} from '../../../core/sheets/sheet.ts';
import { CHANGED } from '../../../core/sheets/view.ts';
import { Moment } from '../../../ui/Moment.tsx';
import { CellEditor } from './CellEditor.tsx';
import type { useEdits } from './useEdits.ts';
import type { GridRow } from './useRows.ts';

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

interface Given {
  columns: readonly SheetColumn[];
  mayChange: boolean;
  following: SheetHead['following'];
  zone: string;
  /** What was written last and is refused. */
  refused: ReturnType<typeof useEdits>['refused'];
  onOpen: (record: SheetRecord) => void;
}

/** Whether a cell of a record is written here, and not calculated or read from the source. */
export const isWrittenHere = (
  following: SheetHead['following'],
  record: Pick<SheetRecord, 'outside'>,
  column: SheetColumn,
): boolean =>
  !isCalculated(column) && (!record.outside || !Object.hasOwn(following?.columns ?? {}, column.id));

const openColumn = ({ mayChange, onOpen }: Given): Column<GridRow> => ({
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
});

const changedColumn = (zone: string): Column<GridRow> => ({
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
});

/** A column of the sheet. What is refused stands in its cell as it was written. */
function ofSheet(column: SheetColumn, { mayChange, following, zone, refused }: Given): Column<GridRow> {
  const isRefused = ({ record }: GridRow): boolean =>
    refused !== null && refused.record === record?.id && refused.column === column.id;
  return {
    key: column.id,
    name: nameOf(column),
    width: widthOf(column, nameOf(column)),
    minWidth: 80,
    cellClass: (row) =>
      [
        column.kind === 'number' ? 'record-figure' : '',
        isCalculated(column) ? 'record-calculated' : '',
        isRefused(row) ? 'record-refused' : '',
      ].join(' '),
    // What somebody else changes meanwhile takes nothing away from whoever writes.
    editorOptions: { closeOnExternalRowChange: false },
    editable: (row) => mayChange && row.record !== null && isWrittenHere(following, row.record, column),
    renderCell: ({ row }) =>
      row.record === null ? (
        <span className="record-blank" aria-hidden />
      ) : isRefused(row) ? (
        <span dir="auto">{refused?.text}</span>
      ) : (
        <span dir="auto">{cellWords({ ...column, unit: '' }, row.record.cells[column.id] ?? '', zone)}</span>
      ),
    renderEditCell: (props) => (
      <CellEditor
        column={column}
        value={isRefused(props.row) ? (refused?.text ?? '') : (props.row.record?.cells[column.id] ?? '')}
        onChange={(text, commit) => {
          const { row } = props;
          if (!row.record) return;
          const cells = { ...row.record.cells, [column.id]: text };
          props.onRowChange({ ...row, saw: row.saw ?? row.record, record: { ...row.record, cells } }, commit);
        }}
      />
    ),
  };
}

/** The columns of the grid: what chooses a record, what opens it, those of the sheet, and when it was changed. */
export function gridColumnsOf(given: Given): Column<GridRow>[] {
  const { columns, mayChange } = given;
  return [
    // Those that are not read yet cannot be chosen: one by one, or from one to another with the shift key.
    ...(mayChange
      ? [{ ...SelectColumn, renderHeaderCell: () => <span className="sr-only">Chosen</span> }]
      : []),
    openColumn(given),
    ...columns.map((column) => ofSheet(column, given)),
    changedColumn(given.zone),
  ];
}
