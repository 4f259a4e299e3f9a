import { z } from 'zod';
import { isBlank } from '../content/document.ts';
import { zoneSchema } from '../timing/wallTimeSchema.ts';

/** What a new organisation begins with, in the order in which each is of most use. */
export const STEPS = ['you', 'organisation', 'people', 'group and board', 'announcement'] as const;
export type Step = (typeof STEPS)[number];

/** Where a step stands: done by what there is, left for later by choice, or still to do. */
export type StepState = 'done' | 'left for later' | 'to do';

export interface FirstSteps {
  organisation: { name: string; zone: string };
  steps: { step: Step; state: StepState }[];
}

export const stepChoiceSchema = z.object({
  step: z.enum(STEPS),
  /** Left for later, or taken up again. */
  later: z.boolean(),
});

/** What of the organisation a coordinator can change. */
export const organisationSchema = z.object({
  name: z
    .string('Write the name of the organisation')
    .trim()
    .max(120, 'At most 120 characters fit')
    .refine((name) => !isBlank(name), 'Write the name of the organisation'),
  zone: zoneSchema,
});

/** What of the organisation there is, for telling which steps are done. */
export interface Begun {
  people: number;
  invited: number;
  groups: number;
  boards: number;
  sends: number;
}

/** Where each step stands. You and the organisation are known from the moment it is set up. */
export function stepsOf(begun: Begun, later: ReadonlySet<string>): FirstSteps['steps'] {
  const done: Record<Step, boolean> = {
    you: true,
    organisation: true,
    people: begun.people > 1 && begun.invited > 0,
    'group and board': begun.groups > 0 && begun.boards > 1,
    announcement: begun.sends > 0,
  };
  return STEPS.map((step) => ({
    step,
    state: done[step] ? 'done' : later.has(step) ? 'left for later' : 'to do',
  }));
}
