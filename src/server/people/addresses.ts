import type { Address } from '../../core/people/person.ts';
import { normalMail } from '../../core/people/mailAddress.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { withdrawAll } from '../access/store.ts';
import { record } from '../audit/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import * as store from './addressStore.ts';
import { changePerson, hasNoPage, lockPerson, personById } from './store.ts';

/** Most addresses of one person besides the one mail goes to. */
const MOST = 20;

const taken = (): Problem =>
  new Problem(422, 'Somebody has this mail address already.', {
    errors: [
      {
        field: 'mail',
        detail: 'Somebody has this mail address already. Find them in the list, or use another.',
      },
    ],
  });

/** A 422 problem where an address is a further one of somebody else. */
export async function requireFree(
  trx: Database,
  personId: number | null,
  mail: string | null,
): Promise<void> {
  if (mail === null) return;
  const holder = await store.holderOf(trx, normalMail(mail));
  if (holder !== undefined && holder !== personId) throw taken();
}

async function lockedPerson(trx: Database, id: number) {
  await lockPerson(trx, id);
  const person = await personById(trx, id);
  if (!person || (await hasNoPage(trx, id))) throw notFound('person');
  return person;
}

async function noted(trx: Database, actor: Actor, id: number): Promise<Address[]> {
  await record(trx, {
    actorId: actor.id,
    action: 'change person',
    subject: 'person',
    subjectId: id,
    // What changed, not the address itself.
    detail: { changed: ['addresses'] },
  });
  await emit(trx, 'person.changed', { person: id });
  return store.addressesOf(trx, id);
}

/** The addresses somebody has besides the one mail goes to. They are found, matched and signed in by any of them. */
export async function listAddresses(db: Database, actor: Actor, id: number): Promise<Address[]> {
  requireLookingAfterPeople(actor);
  if (!(await personById(db, id)) || (await hasNoPage(db, id))) throw notFound('person');
  return store.addressesOf(db, id);
}

/** Notes a further address. @throws 422 where it is somebody's, theirs included */
export async function addAddress(db: Database, actor: Actor, id: number, mail: string): Promise<Address[]> {
  requireLookingAfterPeople(actor);
  return transact(db, async (trx) => {
    await lockedPerson(trx, id);
    const plain = normalMail(mail);
    const holder = await store.holderOf(trx, plain);
    if (holder === id)
      throw new Problem(422, 'They have it already.', {
        errors: [{ field: 'mail', detail: 'They have this address already.' }],
      });
    if (holder !== undefined) throw taken();
    if ((await store.addressesOf(trx, id)).length >= MOST)
      throw new Problem(422, `At most ${MOST} further addresses are kept. Take one out first.`);
    await store.insertAddress(trx, id, plain).catch((error: unknown) => {
      throw isDuplicate(error) ? taken() : error;
    });
    return noted(trx, actor, id);
  });
}

/** Takes a further address out. */
export async function removeAddress(
  db: Database,
  actor: Actor,
  id: number,
  addressId: number,
): Promise<Address[]> {
  requireLookingAfterPeople(actor);
  return transact(db, async (trx) => {
    await lockedPerson(trx, id);
    if (!(await store.addressById(trx, id, addressId))) throw notFound('address');
    await store.deleteAddress(trx, addressId);
    return noted(trx, actor, id);
  });
}

/** Lets mail go to a further address from now on; the one before is kept as a further one. Links that went there end. */
export async function preferAddress(
  db: Database,
  actor: Actor,
  id: number,
  addressId: number,
): Promise<Address[]> {
  requireLookingAfterPeople(actor);
  return transact(db, async (trx) => {
    const person = await lockedPerson(trx, id);
    const wished = await store.addressById(trx, id, addressId);
    if (!wished) throw notFound('address');
    await store.deleteAddress(trx, addressId);
    await changePerson(trx, id, { mail: wished.mail });
    if (person.mail !== null) await store.insertAddress(trx, id, normalMail(person.mail));
    await withdrawAll(trx, id);
    return noted(trx, actor, id);
  });
}
