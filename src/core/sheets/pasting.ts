import Papa from 'papaparse';
import { readCell } from './cell.ts';
import { isCalculated, type Cells, type SheetColumn } from './sheet.ts';

/** Rows and cells as spreadsheets put them on the clipboard: parted by tabs and line ends, quoted where they hold either. */
export const pastedCells = (text: string): string[][] =>
  Papa.parse<string[]>(text.replace(/\r?\n$/, ''), { delimiter: '\t', quoteChar: '"' }).data;

/** A change of some cells of a record: what they are to hold, and what they held for whoever changes them. */
export interface CellsChange {
  record: number;
  cells: Cells;
  was: Cells;
}

/** Cells that are to be written into records, each by its column, or why they cannot be. */
export type Written =
  { change: CellsChange[]; add: Cells[] } | { problems: { row: number; detail: string }[] };

/**
 * What becomes of cells that are pasted: records from one on take them, row by row, and what goes beyond the last record is
 * added. All of it, or nothing.
 *
 * @param columns those that are shown, from the one pasted into on
 * @param records those pasted over, in order; null for one that is not there any more
 * @param own whether a column of a record is kept here, and not in the source it comes from
 */
export function pasted(
  lines: readonly (readonly string[])[],
  columns: readonly SheetColumn[],
  records: readonly ({ id: number; cells: Cells } | null)[],
  own: (record: number, column: string) => boolean,
): Written {
  const problems: { row: number; detail: string }[] = [];
  const width = Math.max(0, ...lines.map((line) => line.length));
  if (width > columns.length)
    return {
      problems: [
        {
          row: 1,
          detail: `What is pasted is ${width} columns wide, and from ${columns[0]?.name ?? 'here'} on there are ${columns.length}. Begin further to the left, or show more columns.`,
        },
      ],
    };
  const change: CellsChange[] = [];
  const add: Cells[] = [];
  lines.forEach((line, at) => {
    const wrong = (detail: string): void => void problems.push({ row: at + 1, detail });
    const beyond = at >= records.length;
    const record = records[at];
    if (!beyond && !record) {
      wrong('The record in this place was deleted meanwhile.');
      return;
    }
    const cells: Cells = {};
    line.forEach((text, offset) => {
      const column = columns[offset];
      if (!column) return;
      const read = readCell(column, text);
      if (isCalculated(column)) {
        // A block taken out of the sheet may come back; what was calculated is not written over.
        if (record && !('value' in read && read.value === (record.cells[column.id] ?? '')))
          wrong(`${column.name} is calculated: change what it is calculated from.`);
      } else if ('problem' in read) wrong(`${column.name}: ${read.problem}`);
      else if (record && !own(record.id, column.id) && read.value !== (record.cells[column.id] ?? ''))
        wrong(`${column.name} comes from the source that the sheet follows: change it there.`);
      else cells[column.id] = read.value;
    });
    if (!record) {
      const filled = Object.fromEntries(Object.entries(cells).filter(([, value]) => value !== ''));
      if (Object.keys(filled).length > 0) add.push(filled);
      return;
    }
    const differing = Object.keys(cells).filter((id) => cells[id] !== (record.cells[id] ?? ''));
    if (differing.length > 0) change.push(changeOf(record, pick(cells, differing)));
  });
  return problems.length > 0 ? { problems } : { change, add };
}

const pick = (cells: Cells, ids: readonly string[]): Cells =>
  Object.fromEntries(ids.map((id) => [id, cells[id] ?? '']));

/** A change of a record to some cells. */
export const changeOf = (record: { id: number; cells: Cells }, cells: Cells): CellsChange => ({
  record: record.id,
  cells,
  was: pick(record.cells, Object.keys(cells)),
});

/** What takes a change back: the cells as they were, where they are as it made them. */
export const opposite = ({ record, cells, was }: CellsChange): CellsChange => ({
  record,
  cells: was,
  was: cells,
});
