import type { Audience } from '../../core/audience/expression.ts';
import type { Actor } from '../../core/rights/decide.ts';

/** Some people, each by name. An editor reaches only those in their groups, also one by one: checked again whenever it is sent. */
export function theseOf(owner: Actor, ids: readonly number[]): Audience {
  const people = ids.map((id): Audience => ({ kind: 'person', id }));
  const meant: Audience = people.length === 1 && people[0] ? people[0] : { kind: 'any', of: people };
  if (owner.role === 'coordinator') return meant;
  return {
    kind: 'all',
    of: [{ kind: 'any', of: [...owner.mayReach].map((id): Audience => ({ kind: 'group', id })) }, meant],
  };
}
