import { audienceSchema, groupsNamedIn, type Audience } from './expression.ts';

/** A group as the resolver sees it: a live group carries its rule, a fixed one its hand-picked list elsewhere. */
export type Group = {
  id: number;
  name: string;
  /** Whether what goes to it must be cleared by a second person first. */
  needsClearance: boolean;
  /** Who looks after it: sees the rolls of its people. */
  ownerId: number | null;
} & ({ kind: 'live'; rule: Audience } | { kind: 'fixed' });

export type GroupDirectory = ReadonlyMap<number, Group>;

/** A live group's rule speaks of people, never of other groups, so that no rule can go round in a circle. */
export const liveRuleSchema = audienceSchema.refine((rule) => groupsNamedIn(rule).length === 0, {
  message: "A live group's rule cannot name another group",
});
