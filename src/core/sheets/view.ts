import {
  ALWAYS,
  conditionWords,
  type Condition,
  type FieldInfo,
  type Fields,
} from '../automation/condition.ts';
import { list } from '../words.ts';
import type { SheetColumn } from './sheet.ts';

/** Stands for a column where records are ordered by when they were changed last. */
export const CHANGED = 'changed';

/** By which column records are ordered; the first counts most. Empty cells come last, either way. */
export interface SheetOrder {
  /** The id of a column, or `changed`. */
  column: string;
  turned: boolean;
}

/** How a sheet is looked at: which records, in which order, with which columns. */
export interface SheetView {
  if: Condition;
  /** None: the newest first. */
  order: SheetOrder[];
  /** The ids of columns that are not shown. */
  hidden: string[];
}

/** All records, the newest first, with every column. */
export const WHOLE: SheetView = { if: ALWAYS, order: [], hidden: [] };

export interface SavedView {
  id: number;
  name: string;
  /** Whether everybody who sees the sheet has it, or only who made it. */
  shared: boolean;
  /** Whether whoever reads it may change it. */
  mine: boolean;
  view: SheetView;
}

/** The columns of a sheet as conditions name them. */
export const fieldsOfSheet = (columns: readonly SheetColumn[]): Fields =>
  new Map(
    columns.map((column): [string, FieldInfo] => [
      `record.${column.id}`,
      {
        name: `record.${column.id}`,
        label: column.name,
        kind: column.kind,
        unit: column.unit,
        choices: column.choices,
      },
    ]),
  );

export const isAlways = (condition: Condition): boolean =>
  condition.kind === 'all' && condition.of.length === 0;

/** Whether two views show the same. */
export const sameView = (one: SheetView, other: SheetView): boolean =>
  JSON.stringify([one.if, one.order, one.hidden]) === JSON.stringify([other.if, other.order, other.hidden]);

/** The view without columns that are not there any more; what its conditions test is left as it is. */
export function fitted(view: SheetView, columns: readonly SheetColumn[]): SheetView {
  const there = new Set(columns.map(({ id }) => id));
  return {
    if: view.if,
    order: view.order.filter(({ column }) => column === CHANGED || there.has(column)),
    hidden: view.hidden.filter((id) => there.has(id)),
  };
}

/** A view in the words of its sentence: which records, in which order, with which columns. */
export function viewWords(
  view: SheetView,
  columns: readonly SheetColumn[],
): { which: string; order: string; columns: string } {
  const names = view.order.map(({ column, turned }) => {
    const name =
      column === CHANGED
        ? 'when they were changed'
        : (columns.find(({ id }) => id === column)?.name ?? 'a column that is gone');
    return `by ${name}${turned ? ' backwards' : ''}`;
  });
  const hidden = columns.filter(({ id }) => view.hidden.includes(id)).map(({ name }) => name);
  return {
    which: isAlways(view.if)
      ? 'all records'
      : `those of which ${conditionWords(view.if, fieldsOfSheet(columns))}`,
    order: names.length === 0 ? 'the newest first' : names.join(', then '),
    columns:
      hidden.length === 0
        ? 'every column'
        : hidden.length <= 3
          ? `all columns but ${list(hidden, 'and')}`
          : `${columns.length - hidden.length} of ${columns.length} columns`,
  };
}
