import type { Reaction } from '../../core/boards/reaction.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { demandOnBoard } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { inboxItem } from '../inbox/store.ts';
import { publish } from '../outbox/store.ts';
import { topics } from '../outbox/topics.ts';
import { visiblePost } from '../posts/service.ts';
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
  const changed: string[] = [];
  if (to.subject === 'occurrence') {
    if (!(await inboxItem(db, actor.id, to.id))) throw notFound('announcement');
    changed.push(topics.occurrence(to.id));
  } else {
    const reply = to.subject === 'reply' ? await replyById(db, to.id) : undefined;
    if (to.subject === 'reply' && (!reply || reply.state !== 'up')) throw notFound('reply');
    const { post, board } = await visiblePost(db, actor, reply?.postId ?? to.id);
    if (post.state !== 'up') throw new Problem(409, 'This post is not up, so nobody reacts to it.');
    demandOnBoard(actor, 'react', board);
    changed.push(topics.post(post.id), topics.board(board.id));
    if (post.occurrenceId !== null) changed.push(topics.occurrence(post.occurrenceId));
  }
  await transact(db, async (trx) => {
    if (await setReaction(trx, actor.id, to, kind, given)) await publish(trx, changed);
  });
}
