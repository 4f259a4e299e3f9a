import { z } from 'zod';
import { isBlank } from '../content/document.ts';
import type { Following } from './following.ts';
import { CELL_KINDS, MAX_CELL } from './cell.ts';

export const MOST_COLUMNS = 300;
export const MOST_CHOICES = 100;
export const MAX_FORMULA = 500;
/** Rows of a list that is brought in: all of it, or nothing. */
export const MOST_BROUGHT = 100_000;
/** Records that a program adds by one request. */
export const ROWS_AT_ONCE = 1000;

const columnSchema = z.object({
  /** Stays with the column when it is renamed or moved. */
  id: z.string().regex(/^c\d{1,4}$/),
  name: z.string().trim().min(1, 'A column has a name').max(60, 'A name has at most 60 characters'),
  kind: z.enum(CELL_KINDS),
  unit: z.string().trim().max(12, 'A unit has at most 12 characters').default(''),
  choices: z
    .array(z.string().trim().min(1).max(80, 'A choice has at most 80 characters'))
    .max(MOST_CHOICES, `At most ${MOST_CHOICES} choices`)
    .default([]),
  /** What it is calculated by, from other columns by their ids: an expression of CEL. Empty where it is written by hand. */
  formula: z
    .string()
    .trim()
    .min(1, 'A formula says what is calculated')
    .max(MAX_FORMULA, `A formula has at most ${MAX_FORMULA} characters`)
    .optional(),
});
export type SheetColumn = z.infer<typeof columnSchema>;

/** Whether a column is calculated from others instead of written. */
export const isCalculated = ({ formula }: Pick<SheetColumn, 'formula'>): boolean => formula !== undefined;

/** A form over a sheet: what somebody fills in becomes a record. */
const formSchema = z.object({
  /** Whether anybody with its address may fill it in, or only those who are signed in. */
  open: z.boolean(),
  intro: z.string().trim().max(1000, 'What stands above a form has at most 1,000 characters'),
  fields: z
    .array(
      z.object({
        column: z.string(),
        help: z.string().trim().max(200, 'Help has at most 200 characters'),
        required: z.boolean(),
      }),
    )
    .min(1, 'A form asks for at least one thing')
    .max(40, 'A form asks for at most 40 things'),
  thanks: z.string().trim().max(500, 'What is said afterwards has at most 500 characters'),
});
export type SheetForm = z.infer<typeof formSchema>;

export const sheetSchema = z
  .object({
    name: z.string().max(80, 'A name has at most 80 characters'),
    purpose: z.string().trim().max(300, 'What it is for has at most 300 characters'),
    columns: z
      .array(columnSchema)
      .min(1, 'A sheet has at least one column')
      .max(MOST_COLUMNS, `A sheet has at most ${MOST_COLUMNS} columns`),
    form: formSchema.nullable(),
  })
  .superRefine(({ name, columns, form }, context) => {
    const wrong = (path: (string | number)[], message: string): void =>
      context.addIssue({ code: 'custom', path, message });
    if (isBlank(name)) wrong(['name'], 'Give it a name.');
    const names = columns.map((column) => column.name.toLowerCase());
    columns.forEach((column, at) => {
      if (names.indexOf(column.name.toLowerCase()) < at)
        wrong(['columns', at, 'name'], `Two columns are called “${column.name}”. Rename one.`);
      if (column.kind === 'choice' && column.choices.length === 0)
        wrong(['columns', at, 'choices'], `“${column.name}” has nothing to choose from. Name its choices.`);
    });
    if (new Set(columns.map((column) => column.id)).size < columns.length)
      wrong(['columns'], 'Every column has an id of its own.');
    form?.fields.forEach((field, at) => {
      if (!columns.some((column) => column.id === field.column))
        wrong(['form', 'fields', at], 'The form asks for a column that is not there any more. Take it out.');
      else if (columns.some((column) => column.id === field.column && isCalculated(column)))
        wrong(['form', 'fields', at], 'The form asks for a column that is calculated. Take it out.');
    });
  });
export type SheetShape = z.infer<typeof sheetSchema>;

/** What is in a record, by the ids of its columns; what is left out is empty. */
export type Cells = Record<string, string>;

export const cellsSchema = z.record(z.string().regex(/^c\d{1,4}$/), z.string().max(MAX_CELL * 2));

export const recordSchema = z.object({ cells: cellsSchema });
export const recordsSchema = z.object({ rows: z.array(cellsSchema).min(1).max(ROWS_AT_ONCE) });

/** A record as its sheet shows it. */
export interface SheetRecord {
  id: number;
  cells: Cells;
  changedMs: number;
  changedBy: string | null;
  /** Whether it comes from the source that the sheet follows. */
  outside: boolean;
}

export interface SheetLine {
  id: number;
  name: string;
  purpose: string;
  records: number;
  changedMs: number | null;
  automations: string[];
}

/** Who sees a sheet: everybody at the desk, or coordinators and those who are named. */
export const SEEN_BY = ['desk', 'named'] as const;
export type SeenBy = (typeof SEEN_BY)[number];

const MOST_NAMED = 100;

/** Who sees a sheet, and who changes its records beside coordinators. Ids are of people. */
export const sheetRightsSchema = z
  .object({
    seenBy: z.enum(SEEN_BY),
    people: z
      .array(z.object({ id: z.int().positive(), mayChange: z.boolean() }).strict())
      .max(MOST_NAMED, `At most ${MOST_NAMED} people are named`),
  })
  .strict()
  .refine(({ people }) => new Set(people.map(({ id }) => id)).size === people.length, {
    path: ['people'],
    message: 'Somebody is named twice. Take one of them out.',
  });

/** Those rights as they are read. */
export interface SheetRights {
  seenBy: SeenBy;
  people: { id: number; name: string; mayChange: boolean }[];
}

/** A sheet without its records. */
export interface SheetHead extends SheetShape {
  id: number;
  revision: number;
  /** The address of its form, without the host; null where it has none. */
  formPath: string | null;
  /** Whether whoever looks at it changes its records. */
  mayChange: boolean;
  /** Whether they also change what it is: its columns, its form, its rights, what it follows. */
  mayKeep: boolean;
  rights: SheetRights;
  /** The outside source it follows; null where it follows none. */
  following: Following | null;
  /** The highest number a column of it ever had. */
  lastColumn: number;
  total: number;
}

export interface SheetPage extends SheetHead {
  records: SheetRecord[];
  /** The id after which the next page begins, or null. */
  next: number | null;
}

/** The highest number among the ids of columns; 0 where there are none. */
export const highestColumn = (columns: readonly Pick<SheetColumn, 'id'>[]): number =>
  Math.max(0, ...columns.map(({ id }) => Number(id.slice(1))));

/**
 * The id for one more column: one that no column of the sheet ever had, since records keep what they held of those that were taken out.
 *
 * @param last the highest number a column of the sheet ever had
 */
export const freshColumn = (columns: readonly Pick<SheetColumn, 'id'>[], last: number): string =>
  `c${1 + Math.max(last, highestColumn(columns))}`;
