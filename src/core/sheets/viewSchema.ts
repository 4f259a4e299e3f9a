import { z } from 'zod';
import { conditionSchema } from '../automation/condition.ts';
import { isBlank } from '../content/document.ts';
import { MAX_CELL } from './cell.ts';
import { MOST_COLUMNS } from './sheet.ts';
import { CHANGED, type SheetView } from './view.ts';

const column = z.string().regex(/^c\d{1,4}$/);

export const viewSchema: z.ZodType<SheetView> = z.object({
  if: conditionSchema,
  order: z
    .array(z.object({ column: z.union([column, z.literal(CHANGED)]), turned: z.boolean() }))
    .max(3, 'Records are ordered by at most three columns'),
  hidden: z.array(column).max(MOST_COLUMNS),
});

/** A view as an address holds it, in JSON; null where it is none. */
export function viewFrom(text: string): SheetView | null {
  try {
    return viewSchema.safeParse(JSON.parse(text)).data ?? null;
  } catch {
    return null;
  }
}

export const savedViewSchema = z.object({
  name: z
    .string()
    .trim()
    .max(60, 'A name has at most 60 characters')
    .refine((name) => !isBlank(name), 'Give it a name'),
  shared: z.boolean(),
  view: viewSchema,
});

const cells = z.record(column, z.string().max(MAX_CELL * 2));

/** How many records are changed, added and deleted at once, at most. */
export const MOST_AT_ONCE = 1000;

/**
 * What is changed in a sheet in one go. `was`: what whoever changes a cell saw in it; a cell that holds something else by now
 * is not written over.
 */
export const editSchema = z
  .object({
    change: z.array(z.object({ record: z.int().positive(), cells, was: cells.optional() })).default([]),
    add: z.array(cells).default([]),
    remove: z.array(z.int().positive()).default([]),
  })
  .refine(
    ({ change, add, remove }) => change.length + add.length + remove.length <= MOST_AT_ONCE,
    `At most ${MOST_AT_ONCE.toLocaleString('en-GB')} records at once: bring in a list for more`,
  );
export type SheetEdit = z.infer<typeof editSchema>;
