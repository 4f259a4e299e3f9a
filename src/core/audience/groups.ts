import { groupsNamedIn, type Audience } from './expression.ts';

/** A group as the resolver sees it: a live group carries its rule, a fixed one its hand-picked list elsewhere. */
export type Group = {
  id: number;
  name: string;
  /** Whether what goes to it must be cleared by a second person first. */
  needsClearance: boolean;
  /** Who look after it: they see the rolls of its people. Of those who are still here. */
  ownerIds: readonly number[];
  /** Whether whoever is on a board with those in it may call on it there; others need the right to send to it. */
  callable?: boolean;
  /** Whether it is offered nowhere any more; what speaks of it means the same people as before. */
  archived: boolean;
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

/**
 * The groups an audience names, and those that the rules of these name, each once.
 *
 * @returns ids; a group that no longer exists is among them
 */
export function groupsThrough(audience: Audience, groups: GroupDirectory): number[] {
  const found = new Set<number>();
  const waiting = groupsNamedIn(audience);
  for (let id = waiting.pop(); id !== undefined; id = waiting.pop()) {
    if (found.has(id)) continue;
    found.add(id);
    const group = groups.get(id);
    if (group?.kind === 'live' && group.rule !== null) waiting.push(...groupsNamedIn(group.rule));
  }
  return [...found];
}

/**
 * The way from a group through the rules of others back to it, were a rule its own.
 *
 * @param id the group; null for one that is not made yet, to which no rule can lead back
 * @returns the ids on the way, the group itself first and last; null where there is no such way
 */
export function circleOf(id: number | null, rule: Audience, groups: GroupDirectory): number[] | null {
  if (id === null) return null;
  const seen = new Set<number>();
  const wayFrom = (named: readonly number[]): number[] | null => {
    for (const each of named) {
      if (each === id) return [id];
      if (seen.has(each)) continue;
      seen.add(each);
      const group = groups.get(each);
      const further = group?.kind === 'live' && group.rule !== null ? groupsNamedIn(group.rule) : [];
      const way = wayFrom(further);
      if (way) return [each, ...way];
    }
    return null;
  };
  const way = wayFrom(groupsNamedIn(rule));
  return way && [id, ...way];
}

/** Whether who is in an audience can be told: the rule of every group it comes to can be read. */
export function isReadable(audience: Audience, now: { groups: GroupDirectory }): boolean {
  return groupsThrough(audience, now.groups).every((id) => {
    const group = now.groups.get(id);
    return group?.kind !== 'live' || group.rule !== null;
  });
}
