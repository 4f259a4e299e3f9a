import { readCell } from '../../core/sheets/cell.ts';
import { calculator } from '../../core/sheets/formula.ts';
import { isCalculated, type Cells, type SheetColumn } from '../../core/sheets/sheet.ts';
import { Problem } from '../problem.ts';
import type { SheetRow } from './store.ts';

/** Cells as they are kept, and what is wrong with those that cannot be, by their column. What is calculated is not read. */
export function readCells(
  columns: readonly SheetColumn[],
  written: Cells,
): { cells: Cells; problems: { field: string; detail: string }[] } {
  const cells: Cells = {};
  const problems: { field: string; detail: string }[] = [];
  for (const column of columns) {
    if (isCalculated(column)) continue;
    const read = readCell(column, written[column.id] ?? '');
    if ('problem' in read) problems.push({ field: column.id, detail: `${column.name}: ${read.problem}` });
    else if (read.value !== '') cells[column.id] = read.value;
  }
  return { cells, problems };
}

/** A record as it is kept, calculated. @throws 422 by column, or where nothing is in it */
export function requireCells(sheet: SheetRow, written: Cells): Cells {
  const { cells, problems } = readCells(sheet.columns, written);
  if (problems.length > 0)
    throw new Problem(422, problems[0]?.detail ?? 'That cannot be kept.', { errors: problems });
  if (Object.keys(cells).length === 0)
    throw new Problem(422, 'There is nothing in it. Fill in at least one column.');
  return calculator(sheet.columns)(cells);
}

/** @throws 422 where something else is written into a calculated column than it holds */
export function requireNotCalculated(sheet: SheetRow, written: Cells, held: Cells): void {
  const over = sheet.columns.filter(
    (column) =>
      isCalculated(column) && column.id in written && written[column.id] !== (held[column.id] ?? ''),
  );
  if (over.length > 0)
    throw new Problem(422, calculatedWords(over[0]), {
      errors: over.map((column) => ({ field: column.id, detail: calculatedWords(column) })),
    });
}

export const calculatedWords = (column: SheetColumn | undefined): string =>
  `${column?.name ?? 'This column'} is calculated: change what it is calculated from.`;
