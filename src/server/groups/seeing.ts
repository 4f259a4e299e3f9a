import type { Audience } from '../../core/audience/expression.ts';
import { isReadable, type Group } from '../../core/audience/groups.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { requireDesk } from '../accounts/require.ts';
import { isIn } from '../audience/store.ts';
import type { Sql } from '../audience/sql.ts';
import { notFound, Problem } from '../problem.ts';

export function requireLookingAfterGroups(actor: Actor): void {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

export const isSeen = (actor: Actor, id: number): boolean =>
  actor.role === 'coordinator' || actor.mayReach.has(id);

/** The groups somebody at the desk sees: all of them for a coordinator, those in reach for an editor. */
export function seen(actor: Actor, now: AudienceContext): Group[] {
  return [...now.groups.values()].filter((group) => isSeen(actor, group.id));
}

export function visible(actor: Actor, now: AudienceContext, id: number): Group {
  requireDesk(actor);
  const group = now.groups.get(id);
  if (!group || !seen(actor, now).includes(group)) throw notFound('group');
  return group;
}

/** A condition over `people p` for being in a group; nothing where its rule cannot be read. */
export function whoIsIn(group: Group, now: AudienceContext): Sql | null {
  const itself: Audience = { kind: 'group', id: group.id };
  return isReadable(itself, now) ? isIn(itself, now) : null;
}
