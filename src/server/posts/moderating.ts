import type { z } from 'zod';
import type { decisionSchema } from '../../core/boards/board.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { requireOnBoard } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { Problem } from '../problem.ts';
import { makeUnfindable } from '../search/indexStore.ts';
import { deciderOf, lockPost, movePost } from './store.ts';
import { closeReports } from './reportStore.ts';
import { visiblePost } from './opening.ts';

/** A moderator's decision on a post, told to its author. Of two who decide at once, one does. */
export async function decidePost(
  db: Database,
  actor: Actor,
  id: number,
  input: z.infer<typeof decisionSchema>,
): Promise<void> {
  const { post, board } = await visiblePost(db, actor, id);
  requireOnBoard(actor, 'moderate', board);
  const { decision, note } = input;
  if (
    decision === 'approve' &&
    post.authorId === actor.id &&
    actor.role !== 'coordinator' &&
    post.state === 'held'
  )
    throw new Problem(403, 'Somebody else has to look at what you wrote yourself.');
  await transact(db, async (trx) => {
    const done =
      decision === 'lock' || decision === 'unlock'
        ? await lockPost(trx, id, decision === 'lock')
        : await movePost(trx, id, decision, actor.id, note);
    if (!done) {
      const by = await deciderOf(trx, id);
      throw new Problem(409, `${by ?? 'Somebody'} decided on this meanwhile. Look at how it stands now.`);
    }
    await record(trx, {
      actorId: actor.id,
      action: `${decision} post`,
      subject: 'board',
      subjectId: board.id,
      detail: { post: id, note },
    });
    await closeReports(trx, actor.id, { subject: 'post', subjectId: id });
    // What is taken down is found no more from this moment; what is put up is found soon after.
    if (decision === 'delete' || decision === 'hide') await makeUnfindable(trx, 'post', id);
    await emit(trx, 'post.decided', { post: id, board: board.id, decision, note, by: actor.id });
    if (decision === 'approve') await emit(trx, 'post.published', { post: id, board: board.id });
  });
}
