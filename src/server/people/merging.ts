import type { z } from 'zod';
import { normalMail } from '../../core/people/mailAddress.ts';
import type { MergeOutlook, mergeSchema, Person } from '../../core/people/person.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { withdrawAll } from '../access/store.ts';
import { endSessionsOf } from '../accounts/store.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { insertAddress } from './addressStore.ts';
import { countTheirs, isKept, markMerged, moveTheirs } from './mergingStore.ts';
import { changePerson, hasNoPage, lockCoordinators, lockPerson, personById, setLeft } from './store.ts';

export { mergedInto } from './mergingStore.ts';

async function person(trx: Database, id: number): Promise<Person> {
  const found = await personById(trx, id);
  if (!found || (await hasNoPage(trx, id))) throw notFound('person');
  return found;
}

/**
 * Makes two entries of one person one. What the other wrote, received and answered, the groups, addresses and identities become
 * those of whoever stays; where both have the like, each stands as it was. The other's sign-in ends. It cannot be undone.
 *
 * @param given.name the other's name, written once more by whoever merges them
 * @throws 409 where a system outside keeps the other up to date, or they are the last coordinator or oneself
 */
export async function mergePeople(
  db: Database,
  actor: Actor,
  { keep, other, name }: { keep: number; other: number } & Pick<z.infer<typeof mergeSchema>, 'name'>,
): Promise<Person> {
  requireLookingAfterPeople(actor);
  if (keep === other)
    throw new Problem(422, 'That is the same entry.', {
      errors: [{ field: 'otherId', detail: 'That is the same entry. Choose the other one.' }],
    });
  return transact(db, async (trx) => {
    const coordinators = await lockCoordinators(trx);
    if (!coordinators.includes(actor.id))
      throw new Problem(403, 'You are not a coordinator any more. Somebody has just changed that.');
    for (const id of [keep, other].sort((a, b) => a - b)) await lockPerson(trx, id);
    const [stays, goes] = [await person(trx, keep), await person(trx, other)];
    if (name.trim() !== goes.name)
      throw new Problem(422, 'That is not the name.', {
        errors: [{ field: 'name', detail: `Write “${goes.name}” as it stands there.` }],
      });
    if (other === actor.id)
      throw new Problem(
        409,
        'You are signed in as that one. Open the other entry’s page and merge from yours.',
      );
    if (goes.role === 'coordinator' && stays.role !== 'coordinator')
      throw new Problem(
        409,
        `${goes.name} is a coordinator. Merge the other way round, or change the role first.`,
      );
    if (await isKept(trx, other))
      throw new Problem(
        409,
        (await isKept(trx, keep))
          ? 'A system outside keeps both up to date. Merge them there; here they follow.'
          : `A system outside keeps ${goes.name} up to date. Merge the other way round, so that this one stays.`,
      );
    // Nobody leaves: no event says so, which automations and ways out would tell of.
    await setLeft(trx, other, true);
    await endSessionsOf(trx, other);
    await withdrawAll(trx, other);
    await moveTheirs(trx, keep, other);
    await markMerged(trx, keep, other);
    if (goes.mail !== null) {
      if (stays.mail === null) await changePerson(trx, keep, { mail: goes.mail });
      else await insertAddress(trx, keep, normalMail(goes.mail));
    }
    await changePerson(trx, keep, {
      ...(stays.occupation === '' ? { occupation: goes.occupation } : {}),
      ...(stays.stationId === null ? { stationId: goes.stationId } : {}),
      ...(stays.sortName === '' ? { sortName: goes.sortName } : {}),
      ...(stays.greeting === '' ? { greeting: goes.greeting } : {}),
      ...(goes.joinedOn < stays.joinedOn ? { joinedOn: goes.joinedOn } : {}),
    });
    await record(trx, {
      actorId: actor.id,
      action: 'merge',
      subject: 'person',
      subjectId: keep,
      detail: { other },
    });
    await emit(trx, 'person.changed', { person: keep });
    await emit(trx, 'person.changed', { person: other });
    return person(trx, keep);
  });
}

/** What would become that of whoever stays, in figures. */
export async function mergeOutlook(db: Database, actor: Actor, other: number): Promise<MergeOutlook> {
  requireLookingAfterPeople(actor);
  const { name, mail, stationName, occupation, role } = await person(db, other);
  return { name, mail, stationName, occupation, role, ...(await countTheirs(db, other)) };
}
