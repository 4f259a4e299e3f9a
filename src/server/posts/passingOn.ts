import type { z } from 'zod';
import type { passOnSchema } from '../../core/boards/board.ts';
import { simpleContent, type Content } from '../../core/content/announcement.ts';
import type { Doc } from '../../core/content/document.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireOnBoard, visibleBoard } from '../boards/service.ts';
import { mayBePassedOn } from '../boards/store.ts';
import type { Database } from '../database/connection.ts';
import { namesOfPeople } from '../people/store.ts';
import { Problem } from '../problem.ts';
import { postById } from './store.ts';
import { resolveCalls } from './calling.ts';
import { visiblePost } from './opening.ts';
import { type Written, putUp } from './puttingUp.ts';

/** What somebody says of what they pass on, as a post of its own: the original is quoted under it as it stands. */
export const ownWords = (title: string, document: Doc): Content => simpleContent(title, document);

/**
 * Passes a post on to another board: one's own words, with the post quoted as it stands at every moment. Whether posts may be
 * passed on is the board's to say on which the original stands, and its author is told.
 *
 * @throws 403 where the board does not let its posts be passed on, or one may not post on the other; 409 where it is not up
 */
export async function passOn(
  db: Database,
  actor: Actor,
  id: number,
  { boardId, document: written }: z.infer<typeof passOnSchema>,
  key: string,
): Promise<Written> {
  const { post, board: from } = await visiblePost(db, actor, id);
  const origin = post.originId === null ? post : await postById(db, post.originId);
  if (post.state !== 'up' || origin?.state !== 'up')
    throw new Problem(409, 'This post is not up, so it is not passed on.');
  const passing = post.originId === null ? from.rules.passing : await mayBePassedOn(db, origin.boardId);
  if (!passing) throw new Problem(403, `Posts on ${from.name} are not passed on to other boards.`);
  const board = await visibleBoard(db, actor, boardId);
  if (board.id === post.boardId || board.id === origin.boardId)
    throw new Problem(422, 'It is on this board already.', {
      errors: [{ field: 'boardId', detail: 'It is on this board already. Choose another.' }],
    });
  const { held } = requireOnBoard(actor, 'post', board);
  const document = await resolveCalls(db, actor, board, written);
  const names = await namesOfPeople(db, [actor.id]);
  const content = ownWords(`Passed on by ${names.get(actor.id) ?? 'somebody'}`.slice(0, 150), document);
  return putUp(db, actor, board, content, { key, held, originId: origin.id });
}
