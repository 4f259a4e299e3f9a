import { z } from 'zod';
import { DELIVERY_STATES, METHODS } from '../delivery/states.ts';

const n = z.int().nonnegative();

/** What the deliveries of a going-out came to, by method and state, and how many of its inboxes were opened. */
export const deliveryCountsSchema = z.object({
  read: n,
  counts: z.array(
    z.object({
      method: z.enum(METHODS),
      state: z.enum(DELIVERY_STATES),
      n,
      /** More than a second after due. */
      late: n,
      worstLateMs: z.int().nullable(),
    }),
  ),
});
export type DeliveryCounts = z.infer<typeof deliveryCountsSchema>;

/** What a roll came to, by station. Under null come those at no station, and where too few were asked to tell them by it. */
export const answerCountsSchema = z.array(
  z.object({ station: z.string().nullable(), asked: n, answered: n }),
);
export type AnswerCounts = z.infer<typeof answerCountsSchema>;

/** Whether something was forgotten of a going-out, and when, in milliseconds since 1970. */
export interface Forgotten {
  deliveriesMs: number | null;
  answersMs: number | null;
}
