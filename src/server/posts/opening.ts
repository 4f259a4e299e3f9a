import type { PostPage, Reply } from '../../core/boards/board.ts';
import { sectionsHtml } from '../../core/content/html.ts';
import { decide, moderates, type Actor } from '../../core/rights/decide.ts';
import { readBody } from '../../core/stored.ts';
import { boardAmong, requireOnBoard, type BoardForReader } from '../boards/service.ts';
import { followsOf } from '../boards/store.ts';
import type { Database } from '../database/connection.ts';
import { markNoticesRead } from '../notices/store.ts';
import { emit } from '../events/store.ts';
import { notFound, orNone } from '../problem.ts';
import { repliesPage } from '../replies/store.ts';
import { addressIn } from '../uploads/address.ts';
import { readPosts, readReplies } from './readable.ts';
import { postById, textsOf, type PostRow } from './store.ts';
import { placesOfOccurrence } from './occurrencePostStore.ts';
import { markRead } from './readStore.ts';

const REPLIES = 30;

/**
 * A post with its board, as this person may see them, and all the boards they see; a 404 problem alike where there is none
 * and where it is not theirs.
 */
export async function visiblePost(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ post: PostRow; board: BoardForReader; seen: BoardForReader[] }> {
  const post = await postById(db, id);
  const among = post && (await orNone(boardAmong(db, actor, post.boardId)));
  if (!among) throw notFound('post');
  const { board, seen } = among;
  const mine = post.authorId === actor.id;
  const gone = post.state !== 'up' && !mine && !moderates(actor, board.rules);
  if (gone || post.state === 'deleted') throw notFound('post');
  return { post, board, seen };
}

/** A post with the latest of what was said to it. Notes that it was opened. */
export async function openPost(db: Database, actor: Actor, id: number): Promise<PostPage> {
  const { post, board, seen } = await visiblePost(db, actor, id);
  const moderating = moderates(actor, board.rules);
  const names = new Map(seen.map((each) => [each.id, each.name]));
  const [read, replies, follows] = await Promise.all([
    readPosts(db, actor, [post], names, 2),
    repliesPage(db, id, null, REPLIES + 1),
    followsOf(db, actor.id, 'post', [id]),
  ]);
  const [shown] = read;
  const followed = follows.get(id);
  if (!shown) throw notFound('post');
  const told = await markNoticesRead(db, actor.id, `/posts/${id}`);
  if ((await markRead(db, actor.id, board.id, [id])) > 0 || told > 0)
    await emit(db, 'post.opened', { post: id, board: board.id, person: actor.id });
  const page = replies.length > REPLIES ? replies.slice(1) : replies;
  const may = (permission: 'reply' | 'react' | 'pin' | 'mention everybody') =>
    decide(actor, { kind: 'on board', permission, board: board.rules });
  const replying =
    shown.state !== 'up'
      ? ({ outcome: 'denied', reason: 'This post is not up, so nobody can reply to it.' } as const)
      : shown.locked
        ? ({ outcome: 'denied', reason: 'Replies to this post are closed.' } as const)
        : may('reply');
  return {
    board: {
      id: board.id,
      name: board.name,
      about: board.about,
      whose: board.whose,
      moderators: board.moderators,
      archived: board.archived,
    },
    post: shown,
    parts:
      shown.part && shown.occurrenceId !== null
        ? (await placesOfOccurrence(db, shown.occurrenceId)).flatMap((each) =>
            each.boardId === board.id && each.id !== id && each.state === 'up'
              ? [{ id: each.id, number: each.part }]
              : [],
          )
        : [],
    replying,
    reacting: shown.state === 'up' && may('react').outcome === 'allowed',
    pinning: shown.state === 'up' && may('pin').outcome === 'allowed',
    moderating,
    mentioning: may('mention everybody'),
    own: shown.own && !board.archived,
    replies: await readReplies(db, actor, page, moderating),
    earlier: replies.length > REPLIES ? (page[0]?.id ?? null) : null,
    following: followed === 'follow' || followed === 'mute' ? followed : null,
    passableTo:
      shown.state === 'up' && !shown.thanks && board.rules.passing && shown.quote?.state !== 'gone'
        ? seen.flatMap((each) => {
            const posting = decide(actor, { kind: 'on board', permission: 'post', board: each.rules });
            return each.id === board.id || posting.outcome === 'denied'
              ? []
              : [
                  {
                    id: each.id,
                    name: each.name,
                    held: posting.outcome === 'held',
                    warns: each.rules.warns,
                  },
                ];
          })
        : [],
  };
}

/** Replies to a post from before one of them. */
export async function earlierThan(
  db: Database,
  actor: Actor,
  id: number,
  before: number,
): Promise<{ replies: Reply[]; earlier: number | null }> {
  const { board } = await visiblePost(db, actor, id);
  const found = await repliesPage(db, id, before, REPLIES + 1);
  const page = found.length > REPLIES ? found.slice(1) : found;
  return {
    replies: await readReplies(db, actor, page, moderates(actor, board.rules)),
    earlier: found.length > REPLIES ? (page[0]?.id ?? null) : null,
  };
}

/** The texts a post had before, for those who moderate its board and its author. */
export async function earlierTexts(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ title: string; html: string; keptMs: number }[]> {
  const { post, board } = await visiblePost(db, actor, id);
  if (post.authorId !== actor.id) requireOnBoard(actor, 'moderate', board);
  const texts = await textsOf(db, post.versionId);
  return texts
    .filter((text) => text.versionId !== post.versionId)
    .map(({ versionId, title, body, keptMs }) => ({
      title,
      html: sectionsHtml(readBody(body).sections, undefined, {
        kind: 'page',
        level: 4,
        address: addressIn('version', versionId),
      }),
      keptMs,
    }));
}
