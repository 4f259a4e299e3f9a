import type { z } from 'zod';
import type { changedProviderSchema, newProviderSchema, ProviderLine } from '../../core/access/provider.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import { seal } from '../sealing.ts';
import { clientOf, type SignOnSettings } from './client.ts';
import * as store from './store.ts';

function requireLookingAfter(actor: Actor): void {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

/** The providers people can sign in with, for those who look after them. */
export async function listProviders(db: Database, actor: Actor): Promise<ProviderLine[]> {
  requireLookingAfter(actor);
  return store.providerLines(db);
}

function sameName(error: unknown): never {
  if (!isDuplicate(error)) throw error;
  const detail = 'There is a provider of this name. Take another.';
  throw new Problem(422, detail, { errors: [{ field: 'provider.name', detail }] });
}

const noted = (db: Database, actor: Actor, action: string, name: string): Promise<void> =>
  record(db, { actorId: actor.id, action, subject: 'organisation', subjectId: 1, detail: { name } });

const sealedOrNone = (secret: string, given: string): Buffer | null =>
  given === '' ? null : seal(secret, given);

export async function addProvider(
  db: Database,
  actor: Actor,
  { secret: sealWith }: SignOnSettings,
  { provider, secret }: z.infer<typeof newProviderSchema>,
): Promise<{ id: number }> {
  requireLookingAfter(actor);
  try {
    return await transact(db, async (trx) => {
      const id = await store.insertProvider(trx, provider, sealedOrNone(sealWith, secret));
      await noted(trx, actor, 'add provider', provider.name);
      return { id };
    });
  } catch (error) {
    return sameName(error);
  }
}

export async function alterProvider(
  db: Database,
  actor: Actor,
  { secret: sealWith }: SignOnSettings,
  id: number,
  { provider, secret, on }: z.infer<typeof changedProviderSchema>,
): Promise<void> {
  requireLookingAfter(actor);
  try {
    await transact(db, async (trx) => {
      if (!(await store.providerById(trx, id))) throw notFound('provider');
      const sealed = secret === null ? undefined : sealedOrNone(sealWith, secret);
      await store.changeProvider(trx, id, { provider, on, sealed });
      await noted(trx, actor, 'change provider', provider.name);
    });
  } catch (error) {
    sameName(error);
  }
}

/** Takes a provider away; who signed in with it signs in another way from then on. */
export async function removeProvider(db: Database, actor: Actor, id: number): Promise<void> {
  requireLookingAfter(actor);
  await transact(db, async (trx) => {
    const provider = await store.providerById(trx, id);
    if (!provider || !(await store.deleteProvider(trx, id))) throw notFound('provider');
    await noted(trx, actor, 'remove provider', provider.name);
  });
}

/** Looks whether a provider describes itself as it should. @throws 502 in words where it does not */
export async function tryProvider(
  db: Database,
  actor: Actor,
  settings: SignOnSettings,
  id: number,
): Promise<{ signsOut: boolean }> {
  requireLookingAfter(actor);
  const provider = await store.providerById(db, id);
  if (!provider) throw notFound('provider');
  const client = await clientOf(provider, settings);
  return { signsOut: client.serverMetadata().end_session_endpoint !== undefined };
}

/** Forgets which account at a provider signs somebody in: the next one that fits does. */
export async function forgetSignOn(
  db: Database,
  actor: Actor,
  personId: number,
  providerId: number,
): Promise<void> {
  requireLookingAfterPeople(actor);
  await transact(db, async (trx) => {
    if (!(await store.deleteSubject(trx, personId, providerId))) throw notFound('account');
    await record(trx, {
      actorId: actor.id,
      action: 'forget sign-on',
      subject: 'person',
      subjectId: personId,
    });
  });
}
