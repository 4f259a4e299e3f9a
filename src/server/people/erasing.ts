import type { Actor } from '../../core/rights/decide.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { erase } from './erasingStore.ts';
import { contactsOf, hasNoPage, lockPerson, personById } from './store.ts';

/**
 * Erases somebody who has left, with their linked contacts: name, addresses, attributes, what they are called elsewhere, and all
 * they signed in with. What was counted stays counted: what they received, answered and wrote stands under no name. It cannot be
 * undone.
 *
 * @param name theirs, written once more by whoever erases them
 */
export async function erasePerson(db: Database, actor: Actor, id: number, name: string): Promise<void> {
  requireLookingAfterPeople(actor);
  await transact(db, async (trx) => {
    await lockPerson(trx, id);
    const person = await personById(trx, id);
    if (!person || (await hasNoPage(trx, id))) throw notFound('person');
    if (person.standing !== 'left')
      throw new Problem(409, `${person.name} is still here. Mark them as left first.`);
    if (name.trim() !== person.name)
      throw new Problem(422, 'That is not the name.', {
        errors: [{ field: 'name', detail: `Write “${person.name}” as it stands there.` }],
      });
    const contacts = await contactsOf(trx, id);
    await erase(trx, [id, ...contacts.map((contact) => contact.id)]);
    await record(trx, { actorId: actor.id, action: 'erase', subject: 'person', subjectId: id });
    await emit(trx, 'person.changed', { person: id });
  });
}
