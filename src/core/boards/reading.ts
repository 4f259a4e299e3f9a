import { z } from 'zod';
import { dateSchema, instantInAddress, instantSchema } from '../timing/bounds.ts';

/** Most posts that are told as read at once: more than a screen holds. */
export const MOST_READ_AT_ONCE = 60;

/** What was read on a board: posts that were on the screen, or everything up to an instant. */
export const readSchema = z.union([
  z.strictObject({ posts: z.array(z.int().positive()).min(1).max(MOST_READ_AT_ONCE) }),
  z.strictObject({ toMs: instantSchema }),
]);
export type ReadOnBoard = z.infer<typeof readSchema>;

/**
 * What of a board is looked at: all of it or what its reader has not read; the latest, or from a day on back. `postedMs`
 * and `id` name the post after which a page begins.
 */
export const boardViewSchema = z.object({
  only: z.enum(['unread']).optional(),
  /** The last day that is looked at, on the reader's own clock. */
  until: dateSchema('2026-11-20').optional(),
  postedMs: instantInAddress.optional(),
  id: z.coerce.number().int().positive().optional(),
});
export type BoardView = z.infer<typeof boardViewSchema>;

/** Somebody who may read a board, and how they came to. */
export interface BoardMember {
  id: number;
  name: string;
  station: string | null;
  /** Looks after it. */
  moderates: boolean;
  /** In the group it belongs to, or everybody where it belongs to none. */
  belongs: boolean;
}

export interface BoardMembersPage {
  /** Of all who belong to it, however many match. */
  count: number;
  members: BoardMember[];
  next: { name: string; id: number } | null;
}
