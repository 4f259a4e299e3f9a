import { z } from 'zod';
import type { Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { markSent } from '../engine/store.ts';
import { emit } from '../events/store.ts';
import { Problem } from '../problem.ts';
import { recallChases } from './chaseStore.ts';
import { openOccurrence } from './service.ts';
import { recallOccurrence } from './takingBackStore.ts';
import { lockOccurrence, markReinstated, markWithdrawn } from './withdrawingStore.ts';

export const withdrawalSchema = z.object({
  note: z
    .string()
    .trim()
    .min(3, 'Say in a few words why, for those who have it already')
    .max(300, 'At most 300 characters'),
});

/**
 * Withdraws what has gone: in inboxes and under its links a line stands instead of its text, its posts are hidden, what it
 * asks is closed, and what of it has not gone does not go. Mail that was handed over cannot be fetched back.
 *
 * @throws 409 where nothing of it has gone, or it is withdrawn already
 */
export async function withdraw(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  { note }: z.infer<typeof withdrawalSchema>,
): Promise<void> {
  const occurrence = await openOccurrence(db, actor, occurrenceId);
  if (occurrence.state !== 'sent' && occurrence.state !== 'going out')
    throw new Problem(409, 'Nothing of it has gone. Take it back instead.');
  await transact(db, async (trx) => {
    if (await lockOccurrence(trx, occurrenceId)) throw new Problem(409, 'It is withdrawn already.');
    if ((await recallOccurrence(trx, occurrenceId)) === 'the rest of it') await markSent(trx, [occurrenceId]);
    await recallChases(trx, occurrenceId, 'What it follows up was withdrawn.');
    const posts = await markWithdrawn(trx, occurrenceId, actor.id, note);
    await record(trx, {
      actorId: actor.id,
      action: 'withdraw',
      subject: 'occurrence',
      subjectId: occurrenceId,
      detail: { note },
    });
    await emit(trx, 'occurrence.withdrawn', {
      occurrence: occurrenceId,
      boards: posts.map((post) => post.boardId),
      posts: posts.map((post) => post.id),
      withdrawn: true,
    });
  });
}

/** Lets what was withdrawn hold again: it is read as before, and asks again what it asked. */
export async function reinstate(db: Database, actor: Actor, occurrenceId: number): Promise<void> {
  await openOccurrence(db, actor, occurrenceId);
  await transact(db, async (trx) => {
    if (!(await lockOccurrence(trx, occurrenceId))) throw new Problem(409, 'It is not withdrawn.');
    const posts = await markReinstated(trx, occurrenceId);
    await record(trx, {
      actorId: actor.id,
      action: 'reinstate',
      subject: 'occurrence',
      subjectId: occurrenceId,
    });
    await emit(trx, 'occurrence.withdrawn', {
      occurrence: occurrenceId,
      boards: posts.map((post) => post.boardId),
      posts: posts.map((post) => post.id),
      withdrawn: false,
    });
  });
}
