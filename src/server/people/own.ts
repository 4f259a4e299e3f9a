import type { z } from 'zod';
import type { ownDetailsSchema } from '../../core/people/person.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound } from '../problem.ts';
import { changePerson, lockPerson, personById } from './store.ts';

export type OwnDetails = z.infer<typeof ownDetailsSchema>;

/** What somebody may say of themselves: how they are greeted, and the IANA zone by whose clock they read. */
export async function ownDetails(db: Database, actor: Actor): Promise<OwnDetails> {
  const person = await personById(db, actor.id);
  if (!person) throw notFound('person');
  return { greeting: person.greeting, zone: person.zone };
}

/** Says it. What has not gone yet reaches them by the new clock. */
export async function sayOwnDetails(db: Database, actor: Actor, given: OwnDetails): Promise<void> {
  await transact(db, async (trx) => {
    await lockPerson(trx, actor.id);
    const before = await ownDetails(trx, actor);
    const changed = (['greeting', 'zone'] as const).filter((each) => before[each] !== given[each]);
    if (changed.length === 0) return;
    await changePerson(trx, actor.id, given);
    await record(trx, {
      actorId: actor.id,
      action: 'change person',
      subject: 'person',
      subjectId: actor.id,
      detail: { changed },
    });
    await emit(trx, 'person.changed', { person: actor.id });
  });
}
