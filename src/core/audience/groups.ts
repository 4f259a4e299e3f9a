import { audienceSchema, groupsNamedIn, type Audience } from './expression.ts';

/** A group as the resolver sees it: a live group carries its rule, a fixed one its hand-picked list elsewhere. */
export type Group = {
  id: number;
  name: string;
  /** Whether what goes to it must be cleared by a second person first. */
  needsClearance: boolean;
  /** Who looks after it: sees the rolls of its people. */
  ownerId: number | null;
} &
  /** A rule that is null is there and cannot be read: who is in the group is then not known, which is not nobody. */
  ({ kind: 'live'; rule: Audience | null } | { kind: 'fixed' });

export type GroupDirectory = ReadonlyMap<number, Group>;

/** Thrown where an audience depends on a group whose rule cannot be read: sent anyway, it would reach too many or too few. */
export class UnreadableRule extends Error {
  constructor(group: string) {
    super(`The rule of the group ${group} cannot be read. Write it anew.`);
  }
}

/** A live group's rule speaks of people, never of other groups, so that no rule can go round in a circle. */
export const liveRuleSchema = audienceSchema.refine((rule) => groupsNamedIn(rule).length === 0, {
  message: "A live group's rule cannot name another group",
});

/** Whether who is in an audience can be told: the rule of every group it names can be read. */
export function isReadable(audience: Audience, now: { groups: GroupDirectory }): boolean {
  return groupsNamedIn(audience).every((id) => {
    const group = now.groups.get(id);
    return group?.kind !== 'live' || group.rule !== null;
  });
}
