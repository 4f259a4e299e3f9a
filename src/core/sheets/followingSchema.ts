import { get } from 'jsonpointer';
import { z } from 'zod';
import { pointerSchema } from '../automation/source.ts';
import { readCell } from './cell.ts';
import { READ_EVERY, POSITION, tellsWhatChanged } from './following.ts';
import type { Cells, SheetColumn } from './sheet.ts';

const MAX_KEY = 200;
/** Records that one reading may bring. */
export const MOST_ROWS = 100_000;

/** An address at which records are read, and the header its secret is sent in. */
export const recordSourceSchema = z.object({
  url: z
    .string()
    .trim()
    .max(2000, 'An address has at most 2,000 characters')
    // What was read must not say which host is asked, and with which secret.
    .refine(
      (url) => /^https?:\/\//.test(url) && URL.canParse(url) && !/^https?:\/\/[^/?#]*[{}@]/.test(url),
      'An address begins with https:// or http:// and names its host outright',
    ),
  header: z
    .string()
    .trim()
    .max(60)
    .regex(/^[A-Za-z0-9-]*$/, 'The name of a header has letters, digits and hyphens'),
});

/** What a sheet follows: where it is read and how often, and what of the answer is what. */
export const followingSchema = recordSourceSchema
  .extend({
    everyMinutes: z.int().refine((minutes) => minutes in READ_EVERY, 'Choose how often it is read'),
    rows: pointerSchema,
    key: pointerSchema.min(1, 'Choose what sets a record apart'),
    /** Empty where rows that are gone are not told of. */
    gone: pointerSchema,
    /** Empty where all of it is answered each time. */
    after: pointerSchema,
    columns: z.record(z.string().regex(/^c\d{1,4}$/), pointerSchema),
  })
  .superRefine(({ url, after, columns }, context) => {
    if (tellsWhatChanged(url) !== (after !== ''))
      context.addIssue({
        code: 'custom',
        path: [after === '' ? 'after' : 'url'],
        message:
          after === ''
            ? `Say where the answer tells up to where it is, which ${POSITION} in the address stands for.`
            : `Write ${POSITION} in the address where the position stands.`,
      });
    if (Object.keys(columns).length === 0)
      context.addIssue({
        code: 'custom',
        path: ['columns'],
        message: 'Choose what at least one column holds.',
      });
  });
export type FollowedSource = z.infer<typeof followingSchema>;

/** A row as it was read: what sets it apart, what its columns hold, or that it is gone. */
export interface ReadRow {
  key: string;
  gone: boolean;
  cells: Cells;
}

export interface ReadAnswer {
  rows: ReadRow[];
  /** The position up to which it tells; null where it tells none. */
  after: string | null;
  /** What could not be kept, in words, each kind once. */
  warnings: string[];
}

function at(value: unknown, pointer: string): string {
  let found: unknown;
  try {
    found = pointer === '' ? value : typeof value === 'object' && value !== null ? get(value, pointer) : '';
  } catch {
    found = '';
  }
  return typeof found === 'string' || typeof found === 'number' || typeof found === 'boolean'
    ? String(found)
    : '';
}

/**
 * Reads the rows of an answer. What a column cannot hold is left empty and warned of; of two rows of one key the later holds; a row
 * without a key is left out.
 *
 * @throws an Error in words where the answer has no list of rows, or too long a one
 */
export function readAnswer(
  source: FollowedSource,
  columns: readonly SheetColumn[],
  answer: unknown,
): ReadAnswer {
  let list: unknown;
  try {
    list =
      source.rows === ''
        ? answer
        : typeof answer === 'object' && answer !== null
          ? get(answer, source.rows)
          : undefined;
  } catch {
    list = undefined;
  }
  if (!Array.isArray(list))
    throw new Error(`Its answer has no list of rows at ${source.rows === '' ? 'its top' : source.rows}.`);
  if (list.length > MOST_ROWS)
    throw new Error(`Its answer has more than ${MOST_ROWS.toLocaleString('en-GB')} rows.`);
  const read = new Map<string, ReadRow>();
  const wrong = new Map<string, { n: number; problem: string }>();
  let keyless = 0;
  for (const row of list as unknown[]) {
    const key = at(row, source.key).slice(0, MAX_KEY);
    if (key === '') {
      keyless++;
      continue;
    }
    const cells: Cells = {};
    for (const column of columns) {
      const pointer = source.columns[column.id];
      if (pointer === undefined) continue;
      const cell = readCell(column, at(row, pointer));
      if ('value' in cell) {
        if (cell.value !== '') cells[column.id] = cell.value;
      } else
        wrong.set(column.name, {
          n: (wrong.get(column.name)?.n ?? 0) + 1,
          problem: wrong.get(column.name)?.problem ?? cell.problem,
        });
    }
    const gone = source.gone !== '' && ['true', 'yes', '1'].includes(at(row, source.gone).toLowerCase());
    read.delete(key);
    read.set(key, { key, gone, cells });
  }
  return {
    rows: [...read.values()],
    after: source.after === '' ? null : at(answer, source.after) || null,
    warnings: [
      ...(keyless > 0
        ? [`${keyless} of its rows have nothing that sets them apart, and were left out.`]
        : []),
      ...[...wrong].map(([name, { n, problem }]) => `${name}: ${n} left empty, such as: ${problem}`),
    ].slice(0, 20),
  };
}
