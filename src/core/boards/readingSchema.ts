import { z } from 'zod';
import { dateSchema, instantInAddress, instantSchema } from '../timing/bounds.ts';
import { MOST_READ_AT_ONCE } from './reading.ts';

/** What was read on a board: posts that were on the screen, or everything up to an instant. */
export const readSchema = z.union([
  z.strictObject({ posts: z.array(z.int().positive()).min(1).max(MOST_READ_AT_ONCE) }),
  z.strictObject({ toMs: instantSchema }),
]);
export type ReadOnBoard = z.infer<typeof readSchema>;

/** A view of a board as its address says it (see `BoardView`). */
export const boardViewSchema = z.object({
  only: z.enum(['unread']).optional(),
  /** The last day that is looked at, on the reader's own clock. */
  until: dateSchema('2026-11-20').optional(),
  postedMs: instantInAddress.optional(),
  id: z.coerce.number().int().positive().optional(),
});
