import { dateSchema } from '../timing/bounds.ts';
import { z } from 'zod';
import { FOUND_KINDS } from './query.ts';

/** What is looked for. Dates are calendar dates in the reader's zone, both included. */
export const searchSchema = z.object({
  q: z.string().max(200, 'At most 200 characters are looked for').default(''),
  kind: z.enum(FOUND_KINDS).optional(),
  board: z.coerce.number().int().positive().optional(),
  group: z.coerce.number().int().positive().optional(),
  author: z.coerce.number().int().positive().optional(),
  category: z.string().max(80).optional(),
  from: dateSchema('2026-11-01').optional(),
  to: dateSchema('2026-11-30').optional(),
  asks: z.stringbool().optional(),
  /** Where the next page begins. */
  after: z.coerce.number().int().min(0).max(1000).default(0),
});
export type Search = z.infer<typeof searchSchema>;
