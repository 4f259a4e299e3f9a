import { z } from 'zod';

/** What may be done on a board, each by a switch of its own. Those who moderate may always do all of it. */
export const switchesSchema = z.object({
  /** Who may start posts. `held`: every member, but a moderator looks first. */
  posting: z.enum(['moderators', 'held', 'members']),
  replying: z.enum(['nobody', 'moderators', 'members']),
  reacting: z.enum(['nobody', 'members']),
  pinning: z.enum(['moderators', 'members']),
  /** Who may call on everybody here at once. */
  mentioning: z.enum(['moderators', 'members']),
  /** Whether what recurs by itself may post here. */
  automations: z.boolean(),
  /** Whether what comes in from outside may post here. */
  gateways: z.boolean(),
  /** Whether a writer is told how many a post reaches before it goes up. */
  warns: z.boolean(),
  /** Whether posts here may be passed on to other boards. */
  passing: z.boolean(),
});
export type Switches = z.infer<typeof switchesSchema>;
