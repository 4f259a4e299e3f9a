import type { Sender } from '../../core/senders/sender.ts';
import type { SenderInput } from '../../core/senders/senderSchema.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { count, list } from '../../core/words.ts';
import { requireDesk, requireOrganisation } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import { requireOwnUploads } from '../uploads/service.ts';
import { deleteSenderById, insertSender, sendersInUse, updateSender } from './store.ts';

function nameTaken(error: unknown): never {
  if (!isDuplicate(error)) throw error;
  throw new Problem(422, 'There is a sender of this name already.', {
    errors: [{ field: 'name', detail: 'There is a sender of this name already. Choose it from the list.' }],
  });
}

/** The named senders with what each is used in, for the desk. */
export function listSenders(db: Database, actor: Actor): Promise<Sender[]> {
  requireDesk(actor);
  return sendersInUse(db);
}

/** Makes a named sender. */
export async function makeSender(
  db: Database,
  actor: Actor,
  sender: SenderInput,
): Promise<{ id: number; name: string }> {
  requireDesk(actor);
  await requireOwnUploads(db, actor, sender);
  return transact(db, async (trx) => {
    const id = await insertSender(trx, sender);
    await record(trx, { actorId: actor.id, action: 'make', subject: 'sender', subjectId: id });
    return { id, name: sender.name };
  }).catch(nameTaken);
}

async function requireSender(db: Database, id: number): Promise<Sender> {
  const found = (await sendersInUse(db)).find((sender) => sender.id === id);
  if (!found) throw notFound('sender');
  return found;
}

/** Changes a sender. What stands under its name shows the new picture; what was said under another name keeps that name. */
export async function changeSender(
  db: Database,
  actor: Actor,
  id: number,
  sender: SenderInput,
): Promise<void> {
  requireOrganisation(actor);
  const before = await requireSender(db, id);
  await transact(db, async (trx) => {
    await updateSender(trx, id, sender);
    await record(trx, {
      actorId: actor.id,
      action: 'change',
      subject: 'sender',
      subjectId: id,
      detail: before.name === sender.name ? {} : { before: before.name },
    });
  }).catch(nameTaken);
}

/** Deletes a sender under which nothing speaks any more. @throws 409 where something does */
export async function deleteSender(db: Database, actor: Actor, id: number): Promise<void> {
  requireOrganisation(actor);
  const { name, automations, waysIn } = await requireSender(db, id);
  if (automations + waysIn > 0) {
    const uses = [
      ...(automations > 0 ? [count(automations, 'automation', 'automations')] : []),
      ...(waysIn > 0 ? [count(waysIn, 'way in', 'ways in')] : []),
    ];
    throw new Problem(
      409,
      `${list(uses, 'and')} ${automations + waysIn === 1 ? 'speaks' : 'speak'} under “${name}”. Give them another sender first.`,
    );
  }
  await transact(db, async (trx) => {
    await deleteSenderById(trx, id);
    await record(trx, { actorId: actor.id, action: 'delete', subject: 'sender', subjectId: id });
  });
}
