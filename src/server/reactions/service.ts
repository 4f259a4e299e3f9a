import type { Reaction } from '../../core/boards/reaction.ts';
import type { Detail } from '../../core/events/event.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireOnBoard } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { inboxItem } from '../inbox/store.ts';
import { emit } from '../events/store.ts';
import { visiblePost } from '../posts/opening.ts';
import { notFound, Problem } from '../problem.ts';
import { replyById } from '../replies/store.ts';
import { setReaction, type ReactedTo } from './store.ts';

/** Gives or takes back a reaction. Doing it twice is doing it once. */
export async function react(
  db: Database,
  actor: Actor,
  to: { subject: ReactedTo; id: number },
  kind: Reaction,
  given: boolean,
): Promise<void> {
  const changed: Detail<'reaction.changed'> = { post: null, board: null, occurrence: null };
  if (to.subject === 'occurrence') {
    if (!(await inboxItem(db, actor.id, to.id))) throw notFound('announcement');
    changed.occurrence = to.id;
  } else {
    const reply = to.subject === 'reply' ? await replyById(db, to.id) : undefined;
    if (to.subject === 'reply' && (!reply || reply.state !== 'up')) throw notFound('reply');
    const { post, board } = await visiblePost(db, actor, reply?.postId ?? to.id);
    if (post.state !== 'up') throw new Problem(409, 'This post is not up, so nobody reacts to it.');
    requireOnBoard(actor, 'react', board);
    changed.post = post.id;
    changed.board = board.id;
    changed.occurrence = post.occurrenceId;
  }
  await transact(db, async (trx) => {
    if (await setReaction(trx, actor.id, to, kind, given)) await emit(trx, 'reaction.changed', changed);
  });
}
