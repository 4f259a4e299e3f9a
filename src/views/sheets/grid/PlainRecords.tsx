import { cellWords } from '../../../core/sheets/cell.ts';
import type { SheetColumn } from '../../../core/sheets/sheet.ts';
import type { GridRow } from './useRows.ts';

const AT_FIRST = 20;

/** The first records as a plain table: what the page is sent with, and what stands there until the grid has come. */
export const PlainRecords = ({
  columns,
  rows,
  zone,
}: {
  columns: readonly SheetColumn[];
  rows: readonly GridRow[];
  zone: string;
}) => (
  <div className="max-h-[max(20rem,calc(100dvh-18rem))] overflow-auto">
    <table className="table-plain">
      <thead>
        <tr>
          {columns.map(({ id, name }) => (
            <th key={id} scope="col" dir="auto">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.slice(0, AT_FIRST).flatMap(({ record }) =>
          record ? (
            <tr key={record.id}>
              {columns.map((column) => (
                <td key={column.id} dir="auto" className={column.kind === 'number' ? 'figure' : ''}>
                  {cellWords(column, record.cells[column.id] ?? '', zone)}
                </td>
              ))}
            </tr>
          ) : (
            []
          ),
        )}
      </tbody>
    </table>
  </div>
);
