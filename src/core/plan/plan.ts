import { z } from 'zod';
import { audienceSchema } from '../audience/expression.ts';
import type { Importance, Problem } from '../content/announcement.ts';
import { momentSchema, settle } from '../timing/wallTime.ts';

/** When: now, once the hold has passed, or at a wall-clock time in a named zone. */
export const timingSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('now') }),
  z.object({ kind: z.literal('at'), ...momentSchema.shape }),
]);
export type Timing = z.infer<typeof timingSchema>;

/** What an announcement wants back. */
export const askSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('nothing') }),
  z.object({ kind: z.literal('acknowledgement'), deadline: momentSchema.nullable() }),
]);
export type Ask = z.infer<typeof askSchema>;

/**
 * A plan is a value: to whom, by which methods, when, and what is asked. It is stored as it is and read aloud as
 * a sentence. Everyone in the audience gets it in the inbox; mail comes on top for those with an address.
 */
export const planSchema = z.object({
  audience: audienceSchema.nullable(),
  mail: z.boolean(),
  boards: z.array(z.int().positive()).max(100),
  timing: timingSchema,
  ask: askSchema,
});
export type Plan = z.infer<typeof planSchema>;

export const EMPTY_PLAN: Plan = {
  audience: null,
  mail: true,
  boards: [],
  timing: { kind: 'now' },
  ask: { kind: 'nothing' },
};

/** How long a send is held after the last question before the first message may leave, in milliseconds. */
export const HOLD_MS = 10_000;

/** The instant a plan is due when it is confirmed at `nowMs`, in milliseconds since 1970. Never before the hold ends. */
export function dueAt(timing: Timing, nowMs: number): number {
  const held = nowMs + HOLD_MS;
  return timing.kind === 'now' ? held : Math.max(held, settle(timing).epochMs);
}

/** The instant of an ask's deadline, or null. */
export function deadlineOf(ask: Ask): number | null {
  return ask.kind === 'acknowledgement' && ask.deadline ? settle(ask.deadline).epochMs : null;
}

/** A scheduled time this far past is a mistake to be told of, not "now"; the time it takes to read the last question. */
const STALE_MS = 60_000;

/** What keeps a plan from being confirmed at `nowMs`. Empty when nothing does. */
export function planProblems(plan: Plan, nowMs: number): Problem[] {
  const problems: Problem[] = [];
  if (!plan.audience && plan.boards.length === 0)
    problems.push({ field: 'audience', detail: 'It goes to nobody. Choose groups, everyone, or a board.' });
  if (plan.timing.kind === 'at' && settle(plan.timing).epochMs < nowMs - STALE_MS)
    problems.push({
      field: 'timing.wall',
      detail: 'That time has passed. Choose a later one, or send it now.',
    });
  if (plan.ask.kind === 'acknowledgement') {
    if (!plan.audience)
      problems.push({
        field: 'ask',
        detail: 'An acknowledgement is asked of people. Choose groups or everyone, not only a board.',
      });
    const deadline = deadlineOf(plan.ask);
    if (deadline !== null && deadline <= dueAt(plan.timing, nowMs))
      problems.push({
        field: 'ask.deadline',
        detail: 'The deadline comes before it goes out. Choose a later one.',
      });
  }
  return problems;
}

/** Whether a reader may stop mail of this kind: routine and important matter that asks for nothing. */
export function mayUnsubscribe(importance: Importance, ask: Ask): boolean {
  return importance !== 'urgent' && ask.kind === 'nothing';
}
