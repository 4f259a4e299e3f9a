import type { groupKindSchema } from '../../core/groups/schemas.ts';
import type { z } from 'zod';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { isReadable } from '../../core/audience/groups.ts';
import { isIn } from '../audience/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { audienceContext } from './directory.ts';
import { deleteAllMembers, insertThose } from './memberStore.ts';
import { requireRule } from './rules.ts';
import { lockGroup, lockGroups, setKind } from './store.ts';

/**
 * Turns a live group into a fixed one of whoever is in it now, or a fixed one into a live one by a rule; who was picked by
 * hand is then forgotten.
 *
 * @throws 409 where it is of that kind already, or its rule cannot be read
 */
export async function turnGroup(
  db: Database,
  actor: Actor,
  id: number,
  to: z.infer<typeof groupKindSchema>,
): Promise<void> {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  await transact(db, async (trx) => {
    await lockGroups(trx);
    const kind = await lockGroup(trx, id);
    if (kind === undefined) throw notFound('group');
    if (kind === to.kind)
      throw new Problem(409, kind === 'fixed' ? 'It is picked by hand already.' : 'It has a rule already.');
    if (to.kind === 'fixed') {
      const now = await audienceContext(trx);
      const group = now.groups.get(id);
      if (group?.kind !== 'live' || group.rule === null || !isReadable(group.rule, now))
        throw new Problem(
          409,
          'Its rule cannot be read, so nobody knows who is in it. Change the rule first.',
        );
      await deleteAllMembers(trx, id);
      await insertThose(trx, id, isIn(group.rule, now));
      await setKind(trx, id, 'fixed', null);
    } else {
      await requireRule(trx, id, to.rule);
      await deleteAllMembers(trx, id);
      await setKind(trx, id, 'live', to.rule);
    }
    await record(trx, {
      actorId: actor.id,
      action: to.kind === 'fixed' ? 'freeze group' : 'give rule',
      subject: 'group',
      subjectId: id,
      ...(to.kind === 'live' ? { detail: { rule: to.rule } } : {}),
    });
    await emit(trx, 'group.changed', { group: id });
  });
}
