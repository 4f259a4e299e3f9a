import { expose } from 'comlink';
import type { Column } from '../../core/imports/columns.ts';
import { readList, type Table } from '../../core/imports/reading.ts';
import { dateOrderOf, recordsFrom, type DateOrder, type RawRecord } from '../../core/imports/record.ts';

/** What the page is told of a list; its rows stay with the worker. */
export interface ListRead extends Omit<Table, 'rows'> {
  count: number;
  /** The first cells with something in them, of each column. */
  examples: string[][];
  /** The order of day and month each column's dates tell. */
  dateOrders: (DateOrder | null)[];
}

let rows: Table['rows'] = [];

const reader = {
  /** Reads a file. What is wrong with it is given as a sentence, since errors lose their kind on the way. */
  read(bytes: ArrayBuffer, named?: boolean): ListRead | { problem: string } {
    try {
      const { rows: found, ...table } = readList(new Uint8Array(bytes), named);
      rows = found;
      const cellsOf = (at: number): string[] =>
        found.map((row) => (row.cells[at] ?? '').trim()).filter((cell) => cell !== '');
      return {
        ...table,
        count: found.length,
        examples: table.headings.map((_, at) => cellsOf(at).slice(0, 3)),
        dateOrders: table.headings.map((_, at) => dateOrderOf(cellsOf(at))),
      };
    } catch (error) {
      return { problem: error instanceof Error ? error.message : 'The file cannot be read.' };
    }
  },
  /** Some rows under the columns they belong to: as many as there may be, and as fit into a request. */
  records: (columns: Column[], from: number, most: number, mostLetters: number): RawRecord[] =>
    recordsFrom(rows, columns, from, most, mostLetters),
};
export type ListReader = typeof reader;

expose(reader);
