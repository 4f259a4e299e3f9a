import type { z } from 'zod';
import type { pinSchema } from '../../core/boards/board.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { dayAfter, resolveMoment } from '../../core/timing/wallTime.ts';
import { record } from '../audit/store.ts';
import { requireOnBoard, visibleBoard } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { Problem } from '../problem.ts';
import { pinnedPosts } from './store.ts';
import { orderPins, pinPost, pinUntil, unpinPost } from './pinStore.ts';
import { visiblePost } from './opening.ts';

/**
 * Pins or unpins a post. Where as many are pinned as may be, it says which they are, and pins once it is told which to
 * take down.
 *
 * @param zone in which the last day of `until` ends
 */
export async function pin(
  db: Database,
  actor: Actor,
  id: number,
  input: z.infer<typeof pinSchema>,
  zone: string,
): Promise<void> {
  const { post, board } = await visiblePost(db, actor, id);
  requireOnBoard(actor, 'pin', board);
  if (input.pinned && post.state !== 'up')
    throw new Problem(409, 'This post is not up, so it is not pinned.');
  // To the end of that day.
  const untilMs =
    input.until === null ? null : resolveMoment({ wall: `${dayAfter(input.until)}T00:00`, zone }).epochMs;
  if (untilMs !== null && untilMs <= Date.now())
    throw new Problem(422, 'That day is over.', {
      errors: [{ field: 'until', detail: 'That day is over. Choose a later one, or none.' }],
    });
  await transact(db, async (trx) => {
    if (!input.pinned) {
      if (!(await unpinPost(trx, { id, boardId: board.id }))) return;
    } else {
      const target = { id, boardId: board.id };
      if (input.replaces !== null) await unpinPost(trx, { id: input.replaces, boardId: board.id });
      if (!(await pinPost(trx, target, actor.id, untilMs, board.pinLimit))) {
        const pinned = await pinnedPosts(trx, board.id);
        if (pinned.some((each) => each.id === id)) await pinUntil(trx, id, untilMs);
        else
          throw new Problem(
            409,
            `${board.pinLimit} posts are pinned here already. Choose which to take down.`,
            {
              more: { pinned: pinned.map((each) => ({ id: each.id, title: each.title })) },
            },
          );
      }
    }
    await record(trx, {
      actorId: actor.id,
      action: input.pinned ? 'pin' : 'unpin',
      subject: 'board',
      subjectId: board.id,
      detail: { post: id, ...(input.replaces === null ? {} : { replaces: input.replaces }) },
    });
    await emit(trx, 'post.pinned', { post: id, board: board.id });
  });
}

/** Sets the order of what is pinned on a board. */
export async function arrangePins(
  db: Database,
  actor: Actor,
  boardId: number,
  ids: readonly number[],
): Promise<void> {
  const board = await visibleBoard(db, actor, boardId);
  requireOnBoard(actor, 'pin', board);
  await transact(db, async (trx) => {
    await orderPins(trx, boardId, ids);
    await record(trx, { actorId: actor.id, action: 'arrange pins', subject: 'board', subjectId: boardId });
    await emit(trx, 'board.changed', { board: boardId });
  });
}
