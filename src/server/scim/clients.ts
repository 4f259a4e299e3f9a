import type { z } from 'zod';
import type { ScimClientLine, scimClientSchema } from '../../core/people/scim.ts';
import { hashToken, newToken } from '../accounts/opening.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { notFound, Problem } from '../problem.ts';
import * as store from './store.ts';

/** The systems that keep people up to date here, for those who look after people. */
export async function listScimClients(db: Database, actor: Actor): Promise<ScimClientLine[]> {
  requireLookingAfterPeople(actor);
  return store.clientLines(db);
}

const noted = (db: Database, actor: Actor, action: string, name: string): Promise<void> =>
  record(db, { actorId: actor.id, action, subject: 'organisation', subjectId: 1, detail: { name } });

/** Lets a system keep people up to date here. Gives its token, which is told this once. */
export async function addScimClient(
  db: Database,
  actor: Actor,
  { name }: z.infer<typeof scimClientSchema>,
): Promise<{ id: number; token: string }> {
  requireLookingAfterPeople(actor);
  const token = newToken();
  try {
    return await transact(db, async (trx) => {
      const id = await store.insertClient(trx, { name, hash: hashToken(token), madeBy: actor.id });
      await noted(trx, actor, 'add system', name);
      return { id, token };
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    const detail = 'There is a system of this name. Take another.';
    throw new Problem(422, detail, { errors: [{ field: 'name', detail }] });
  }
}

/** Gives a system another token; the one before is refused from now on. */
export async function renewScimToken(db: Database, actor: Actor, id: number): Promise<{ token: string }> {
  requireLookingAfterPeople(actor);
  const token = newToken();
  return transact(db, async (trx) => {
    const name = await store.clientName(trx, id);
    if (name === undefined) throw notFound('system');
    await store.replaceToken(trx, id, hashToken(token));
    await noted(trx, actor, 'renew token of system', name);
    return { token };
  });
}

/** Takes a system out: its token is refused from now on. The people it kept stay as they are. */
export async function removeScimClient(db: Database, actor: Actor, id: number): Promise<void> {
  requireLookingAfterPeople(actor);
  await transact(db, async (trx) => {
    const name = await store.clientName(trx, id);
    if (name === undefined || !(await store.deleteClient(trx, id))) throw notFound('system');
    await noted(trx, actor, 'remove system', name);
  });
}
