import { expose } from 'comlink';
import { decode, readList } from '../../core/imports/reading.ts';
import { readCell } from '../../core/sheets/cell.ts';
import { looksLikeJson, readJsonRecords } from '../../core/sheets/json.ts';
import type { Cells, SheetColumn } from '../../core/sheets/sheet.ts';

let rows: { line: number; cells: string[] }[] = [];
let read: Cells[] = [];

const MOST_TOLD = 20;

const reader = {
  /** Reads a list; what is wrong with it is given as a sentence. */
  read(bytes: ArrayBuffer): { headings: string[]; count: number } | { problem: string } {
    try {
      const { text } = decode(new Uint8Array(bytes));
      const table = looksLikeJson(text) ? readJsonRecords(text) : readList(new Uint8Array(bytes));
      rows = table.rows;
      return { headings: table.headings, count: rows.length };
    } catch (error) {
      return { problem: error instanceof Error ? error.message : 'The file cannot be read.' };
    }
  },
  /** Reads every cell by the column it belongs to; gives what is wrong, by row, the first of it. */
  match(columns: (SheetColumn | null)[]): { wrong: number; told: string[] } {
    const told: string[] = [];
    let wrong = 0;
    read = rows.map(({ line, cells }) => {
      const made: Cells = {};
      columns.forEach((column, at) => {
        if (!column) return;
        const found = readCell(column, cells[at] ?? '');
        if ('value' in found) {
          if (found.value !== '') made[column.id] = found.value;
          return;
        }
        wrong++;
        if (told.length < MOST_TOLD) told.push(`Row ${line}, ${column.name}: ${found.problem}`);
      });
      return made;
    });
    return { wrong, told };
  },
  /** Some columns as they stand in the list, with the line each row is on. */
  raw: (columns: number[]): { line: number; cells: string[] }[] =>
    rows.map(({ line, cells }) => ({ line, cells: columns.map((at) => cells[at] ?? '') })),
  part: (from: number, most: number): Cells[] => read.slice(from, from + most),
};
export type SheetReader = typeof reader;

expose(reader);
