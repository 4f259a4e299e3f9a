import type { z } from 'zod';
import { foldHandle, type Identity, type identitySchema } from '../../core/directory/identity.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireDesk, requireLookingAfterPeople } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { personById } from '../people/store.ts';
import { notFound, Problem } from '../problem.ts';
import {
  deleteIdentity,
  identitiesOf,
  identitySystems,
  insertIdentity,
  notFoundLately,
  personByIdentity,
} from './store.ts';

/** What somebody is called in other systems. */
export async function listIdentities(db: Database, actor: Actor, personId: number): Promise<Identity[]> {
  requireDesk(actor);
  if (!(await personById(db, personId))) throw notFound('person');
  return (await identitiesOf(db, personId)).map(({ id, system, value }) => ({ id, system, value }));
}

/**
 * Notes what somebody is called in a system. Automations that did not find them can be run again from then on.
 *
 * @throws 422 where it is somebody's already, by name
 */
export async function addIdentity(
  db: Database,
  actor: Actor,
  personId: number,
  { system, value }: z.infer<typeof identitySchema>,
): Promise<{ id: number }> {
  requireLookingAfterPeople(actor);
  if (!(await personById(db, personId))) throw notFound('person');
  try {
    return await transact(db, async (trx) => {
      const id = await insertIdentity(trx, { personId, system, value, folded: foldHandle(value) });
      await record(trx, {
        actorId: actor.id,
        action: 'add identity',
        subject: 'person',
        subjectId: personId,
        detail: { system, value },
      });
      await emit(trx, 'person.changed', { person: personId });
      return { id };
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    const holder = await personByIdentity(db, system, foldHandle(value));
    const name = holder === null ? 'somebody who has left' : (await personById(db, holder))?.name;
    const detail = `“${value}” in ${system} is ${name ?? 'somebody else'} already. Take it out there first.`;
    throw new Problem(422, detail, { errors: [{ field: 'value', detail }] });
  }
}

export async function removeIdentity(
  db: Database,
  actor: Actor,
  personId: number,
  id: number,
): Promise<void> {
  requireLookingAfterPeople(actor);
  await transact(db, async (trx) => {
    if (!(await deleteIdentity(trx, personId, id))) throw notFound('identity');
    await record(trx, {
      actorId: actor.id,
      action: 'take identity out',
      subject: 'person',
      subjectId: personId,
      detail: { identity: id },
    });
    await emit(trx, 'person.changed', { person: personId });
  });
}

const WEEKS = 8;

/** The directory at a glance: in which systems people are known, and whom automations did not find lately. */
export async function directoryPage(db: Database, actor: Actor) {
  requireDesk(actor);
  const [systems, missing] = await Promise.all([identitySystems(db), notFoundLately(db, WEEKS, 100)]);
  return { systems, missing };
}
