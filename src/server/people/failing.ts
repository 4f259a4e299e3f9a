import type { Actor } from '../../core/rights/decide.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { clearFailing } from '../mail-in/store.ts';

/** Lets mail go again to an address from which it came back. Everybody may say so of their own. Doing it twice is doing it once. */
export async function trustAddress(db: Database, actor: Actor, personId: number): Promise<void> {
  if (actor.id !== personId) requireLookingAfterPeople(actor);
  await transact(db, async (trx) => {
    if (!(await clearFailing(trx, personId))) return;
    await record(trx, {
      actorId: actor.id,
      action: 'send mail again',
      subject: 'person',
      subjectId: personId,
    });
    await emit(trx, 'person.changed', { person: personId });
  });
}
