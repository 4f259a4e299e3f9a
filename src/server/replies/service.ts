import type { z } from 'zod';
import type { NewReply, replySchema } from '../../core/boards/board.ts';
import { documentHtml } from '../../core/content/html.ts';
import { excerpt, plainWords } from '../../core/content/text.ts';
import { decide, moderates, type Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { demandOnBoard, seersOf, type BoardForReader } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { circumstances } from '../groups/directory.ts';
import { tell, these } from '../notices/store.ts';
import { publish } from '../outbox/store.ts';
import { topics } from '../outbox/topics.ts';
import { anew, reportTo, settleCalls, tellCalled, visiblePost } from '../posts/service.ts';
import { settleReports, type PostRow } from '../posts/store.ts';
import { notFound, orNone, Problem } from '../problem.ts';
import { makeFindable, makeUnfindable } from '../search/store.ts';
import { requireOwnUploads } from '../uploads/service.ts';
import {
  earlierReplies,
  editReply,
  followersOfPost,
  insertReply,
  moveReply,
  replyById,
  replyByKey,
  type ReplyRow,
} from './store.ts';

/** A reply with its post and board, as this person may see them. */
async function visibleReply(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ reply: ReplyRow; post: PostRow; board: BoardForReader }> {
  const reply = await replyById(db, id);
  if (!reply || reply.state === 'deleted') throw notFound('reply');
  const found = await visiblePost(db, actor, reply.postId).catch((error: unknown) => {
    throw error instanceof Problem && error.status === 404 ? notFound('reply') : error;
  });
  const gone =
    reply.state === 'hidden' && reply.authorId !== actor.id && !moderates(actor, found.board.rules);
  if (gone) throw notFound('reply');
  return { reply, ...found };
}

const GONE = 'This post was taken down, or closed to replies, meanwhile. Your text is still here.';

/** Replies to a post. The same key replies once. */
export async function writeReply(
  db: Database,
  actor: Actor,
  postId: number,
  input: z.infer<typeof replySchema>,
  key: string,
): Promise<number> {
  // Alike where it was taken down and where it never was: what was written is still with whoever wrote it.
  const found = await orNone(visiblePost(db, actor, postId));
  if (!found) throw new Problem(409, GONE);
  const { post, board } = found;
  const known = await replyByKey(db, actor.id, key);
  if (known !== undefined) return known;
  demandOnBoard(actor, 'reply', board);
  await requireOwnUploads(db, actor, input.files);
  const called = await settleCalls(db, actor, board, input.document);
  const { document } = called;
  try {
    return await transact(db, async (trx) => {
      const id = await insertReply(trx, {
        postId,
        authorId: actor.id,
        document,
        files: input.files,
        key,
      });
      if (id === undefined) throw new Problem(409, GONE);
      await indexReply(trx, { id, authorId: actor.id, document }, post);
      const telling = {
        title: `Re: ${post.title}`,
        text: excerpt([{ heading: '', document }]),
        path: `/posts/${postId}`,
        about: `reply:${id}`,
      };
      await tellCalled(trx, actor, board, called, telling);
      const followers = (await followersOfPost(trx, postId)).filter((each) => each !== actor.id);
      const seers = seersOf(board, await circumstances(trx));
      const who = these(followers);
      await tell(
        trx,
        { sql: `(${who.sql}) AND (${seers.sql})`, bindings: [...who.bindings, ...seers.bindings] },
        { ...telling, kind: 'reply', why: `You wrote, replied to or follow this on ${board.name}.` },
      );
      await publish(trx, [
        topics.post(postId),
        topics.board(board.id),
        ...followers.slice(0, 100).map(topics.person),
      ]);
      return id;
    });
  } catch (error) {
    const written = await replyByKey(db, actor.id, key);
    if (written !== undefined) return written;
    throw error;
  }
}

async function indexReply(
  db: Database,
  reply: Pick<ReplyRow, 'id' | 'authorId' | 'document'>,
  post: PostRow,
): Promise<void> {
  await makeFindable(db, {
    kind: 'reply',
    subjectId: reply.id,
    boardId: post.boardId,
    occurrenceId: null,
    authorId: reply.authorId,
    category: '',
    atMs: null,
    asks: false,
    title: `Re: ${post.title}`,
    body: plainWords(reply.document),
  });
}

/** Puts another text in a reply of one's own. */
export async function rewriteReply(db: Database, actor: Actor, id: number, input: NewReply): Promise<void> {
  const { reply, post, board } = await visibleReply(db, actor, id);
  const decision = decide(actor, { kind: 'change own', authorId: reply.authorId, board: board.rules });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  const called = await settleCalls(db, actor, board, input.document);
  await transact(db, async (trx) => {
    if (!(await editReply(trx, id, called.document))) throw new Problem(409, GONE);
    await indexReply(trx, { ...reply, document: called.document }, post);
    await tellCalled(trx, actor, board, called, {
      title: `Re: ${post.title}`,
      text: excerpt([{ heading: '', document: called.document }]),
      path: `/posts/${post.id}`,
      about: `reply:${id}`,
    });
    await publish(trx, [topics.post(post.id)]);
  });
}

/** What an author changes a reply from. */
export async function draftOfReply(db: Database, actor: Actor, id: number): Promise<NewReply> {
  const { reply } = await visibleReply(db, actor, id);
  if (reply.authorId !== actor.id) throw new Problem(403, 'Only who wrote this changes it or takes it back.');
  return { document: reply.document, files: reply.files };
}

/** Takes back a reply of one's own, or decides on one as a moderator. */
export async function decideReply(
  db: Database,
  actor: Actor,
  id: number,
  to: 'up' | 'hidden' | 'deleted',
  word: string,
): Promise<void> {
  const { reply, post, board } = await visibleReply(db, actor, id);
  const own = reply.authorId === actor.id && to === 'deleted';
  if (!own) {
    demandOnBoard(actor, 'moderate', board);
    if (to !== 'up' && word.length < 3)
      throw new Problem(422, 'Say why, in a few words.', {
        errors: [{ field: 'word', detail: 'Say why, in a few words.' }],
      });
  }
  await transact(db, async (trx) => {
    if (!(await moveReply(trx, reply, to, actor.id, word)))
      throw new Problem(409, 'Somebody decided on this meanwhile. Look at how it stands now.');
    if (to === 'up') await indexReply(trx, reply, post);
    else await makeUnfindable(trx, 'reply', id);
    await settleReports(trx, actor.id, { subject: 'reply', subjectId: id });
    await record(trx, {
      actorId: actor.id,
      action: { up: 'show reply', hidden: 'hide reply', deleted: own ? 'take back reply' : 'delete reply' }[
        to
      ],
      subject: 'board',
      subjectId: board.id,
      detail: { reply: id, word },
    });
    if (!own && reply.authorId !== actor.id)
      await tell(trx, these([reply.authorId]), {
        kind: 'decision',
        title: `Re: ${post.title}: ${{ up: 'is shown again', hidden: 'was hidden', deleted: 'was deleted' }[to]}`,
        text: word,
        path: `/posts/${post.id}`,
        why: `You wrote this on ${board.name}, and somebody who moderates it decided.`,
        about: `reply-decision:${id}:${anew()}`,
      });
    await publish(trx, [topics.post(post.id), topics.board(board.id), topics.person(reply.authorId)]);
  });
}

/** Reports a reply to whoever moderates its board. */
export async function reportReply(db: Database, actor: Actor, id: number, reason: string): Promise<void> {
  const { post, board } = await visibleReply(db, actor, id);
  await reportTo(
    db,
    actor,
    board,
    { subject: 'reply', subjectId: id, postId: post.id, title: `Re: ${post.title}` },
    reason,
  );
}

/** The texts a reply had before, for those who moderate its board and its author. */
export async function earlierTextsOfReply(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ html: string; keptMs: number }[]> {
  const { reply, board } = await visibleReply(db, actor, id);
  if (reply.authorId !== actor.id) demandOnBoard(actor, 'moderate', board);
  return (await earlierReplies(db, id)).map(({ document, keptMs }) => ({
    html: documentHtml(document, undefined, 4),
    keptMs,
  }));
}
