import { groupsNamedIn, type Audience } from '../../core/audience/expression.ts';
import { circleOf, isReadable } from '../../core/audience/groups.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import type { RuleOutcome } from '../../core/groups/group.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireNoOpenBallot } from '../audience/secrecy.ts';
import { isIn } from '../audience/store.ts';
import type { Sql } from '../audience/sql.ts';
import type { Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { audienceContext } from './directory.ts';
import { countWhoIs, peopleWhere } from './memberStore.ts';
import { requireLookingAfterGroups, visible, whoIsIn } from './seeing.ts';

const FEW = 12;

/** A 422 problem that names the circle in which a rule would lead. */
function requireNoCircle(groupId: number | null, rule: Audience, now: AudienceContext): void {
  const circle = circleOf(groupId, rule, now.groups);
  if (!circle) return;
  const names = circle.map((id) => `“${now.groups.get(id)?.name ?? '?'}”`);
  const detail =
    circle.length === 2
      ? `The rule of ${names[0] ?? ''} cannot name the group itself. Take it out of the rule.`
      : `This leads in a circle: ${names.join(', which is made of ')}. Take one of them out.`;
  throw new Problem(422, detail, { errors: [{ field: 'rule', detail }] });
}

/**
 * A 422 problem where whoever is in an audience cannot be told, or may not: it names a group that is gone or whose rule cannot be
 * read, or tells who votes in an open poll without names.
 */
export async function requireTellable(
  db: Database,
  rule: Audience,
  now: AudienceContext,
  field = 'rule',
): Promise<void> {
  const gone = groupsNamedIn(rule).some((id) => !now.groups.has(id));
  if (gone || !isReadable(rule, now)) {
    const detail = gone
      ? 'A group in it no longer exists. Take it out.'
      : 'The rule of a group in it cannot be read. Write that one anew first, or take the group out.';
    throw new Problem(422, detail, { errors: [{ field, detail }] });
  }
  await requireNoOpenBallot(db, rule, now, field);
}

/** A 422 problem where a rule cannot be that of a group. The groups must be held, so that it stays true. */
export async function requireRule(trx: Database, id: number, rule: Audience): Promise<void> {
  const now = await audienceContext(trx);
  requireNoCircle(id, rule, now);
  await requireTellable(trx, rule, now);
}

/**
 * What a rule would do to a group, or as a new one; nothing is changed.
 *
 * @param on the date it is tried as on, YYYY-MM-DD, for what follows from when people joined; null is today in UTC
 */
export async function ruleOutcome(
  db: Database,
  actor: Actor,
  rule: Audience,
  groupId: number | null,
  on: string | null = null,
): Promise<RuleOutcome> {
  requireLookingAfterGroups(actor);
  const now = await audienceContext(db);
  requireNoCircle(groupId, rule, now);
  await requireTellable(db, rule, now);
  const nobody: Sql = { sql: 'FALSE', bindings: [] };
  const before = groupId === null ? nobody : (whoIsIn(visible(actor, now, groupId), now) ?? nobody);
  const after = isIn(rule, on === null ? now : { ...now, today: on });
  const but = (some: Sql, others: Sql): Sql => ({
    sql: `(${some.sql}) AND NOT (${others.sql})`,
    bindings: [...some.bindings, ...others.bindings],
  });
  const part = async (who: Sql): Promise<RuleOutcome['comesIn']> => ({
    people: await countWhoIs(db, who),
    names: (await peopleWhere(db, who, null, FEW)).map((person) => person.name),
  });
  const [people, comesIn, goesOut] = await Promise.all([
    countWhoIs(db, after),
    part(but(after, before)),
    part(but(before, after)),
  ]);
  return { people, comesIn, goesOut };
}
