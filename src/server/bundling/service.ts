import type { Bundling } from '../../core/bundling/bundling.ts';
import { requireOrganisation } from '../accounts/require.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { notFound } from '../problem.ts';
import { bundlingOf, bundlingOfAll, setBundlingOf, setBundlingOfAll, setBundlingOfGroup } from './store.ts';

/** How routine matter comes to somebody: their own choice, what holds without one, and what holds for everybody. */
export async function bundling(
  db: Database,
  actor: Actor,
): Promise<{ own: Bundling | null; otherwise: Bundling; ofAll: Bundling }> {
  const ofAll = await bundlingOfAll(db, await audienceContext(db));
  return { ...(await bundlingOf(db, actor.id, ofAll)), ofAll: ofAll.ofAll };
}

/** Chooses when one's own routine mail and push messages come; null is as one's groups or the organisation have it. */
export async function chooseBundling(db: Database, actor: Actor, chosen: Bundling | null): Promise<void> {
  await transact(db, async (trx) => {
    await setBundlingOf(trx, actor.id, chosen);
    await record(trx, {
      actorId: actor.id,
      action: 'choose bundling',
      subject: 'person',
      subjectId: actor.id,
    });
  });
}

/** Sets when routine matter comes to everybody who has not chosen, and whose groups have not. */
export async function chooseBundlingForAll(db: Database, actor: Actor, chosen: Bundling): Promise<void> {
  requireOrganisation(actor);
  await transact(db, async (trx) => {
    await setBundlingOfAll(trx, chosen);
    await record(trx, {
      actorId: actor.id,
      action: 'choose bundling for everybody',
      subject: 'organisation',
      subjectId: 1,
      detail: { bundling: chosen },
    });
  });
}

/** Sets when routine matter comes to those in a group who have not chosen; null is as it comes to everybody. */
export async function chooseBundlingForGroup(
  db: Database,
  actor: Actor,
  groupId: number,
  chosen: Bundling | null,
): Promise<void> {
  requireOrganisation(actor);
  await transact(db, async (trx) => {
    if ((await setBundlingOfGroup(trx, groupId, chosen)) === 0) throw notFound('group');
    await record(trx, {
      actorId: actor.id,
      action: 'choose bundling',
      subject: 'group',
      subjectId: groupId,
      detail: { bundling: chosen },
    });
  });
}
