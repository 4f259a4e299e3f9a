import type { Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound } from '../problem.ts';
import { requireLookingAfterGroups } from './seeing.ts';
import { setArchived } from './store.ts';

/**
 * Archives a group, or brings it back. Archived, it is offered nowhere: not to write to, not to call on, not to come into. Who is
 * in it stays, and what speaks of it already means the same people as before.
 */
export async function archiveGroup(db: Database, actor: Actor, id: number, archived: boolean): Promise<void> {
  requireLookingAfterGroups(actor);
  await transact(db, async (trx) => {
    const was = await setArchived(trx, id, archived);
    if (was === undefined) throw notFound('group');
    if (was === archived) return;
    await record(trx, {
      actorId: actor.id,
      action: archived ? 'archive group' : 'bring back group',
      subject: 'group',
      subjectId: id,
    });
    await emit(trx, 'group.changed', { group: id });
  });
}
