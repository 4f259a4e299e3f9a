import type { z } from 'zod';
import type { NewReply, replySchema } from '../../core/boards/board.ts';
import { documentHtml } from '../../core/content/html.ts';
import { decide, moderates, type Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { requireOnBoard, type BoardForReader } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { reportTo } from '../posts/reporting.ts';
import { visiblePost } from '../posts/opening.ts';
import { resolveCalls } from '../posts/calling.ts';
import type { PostRow } from '../posts/store.ts';
import { closeReports } from '../posts/reportStore.ts';
import { notFound, orNone, Problem } from '../problem.ts';
import { makeUnfindable } from '../search/indexStore.ts';
import { requireOwnUploads } from '../uploads/service.ts';
import {
  earlierReplies,
  editReply,
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
  const { board } = found;
  const known = await replyByKey(db, actor.id, key);
  if (known !== undefined) return known;
  requireOnBoard(actor, 'reply', board);
  await requireOwnUploads(db, actor, input.files);
  const document = await resolveCalls(db, actor, board, input.document);
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
      await emit(trx, 'reply.published', { reply: id, post: postId, board: board.id });
      return id;
    });
  } catch (error) {
    const written = await replyByKey(db, actor.id, key);
    if (written !== undefined) return written;
    throw error;
  }
}

/** Puts another text in a reply of one's own. */
export async function rewriteReply(db: Database, actor: Actor, id: number, input: NewReply): Promise<void> {
  const { reply, post, board } = await visibleReply(db, actor, id);
  const decision = decide(actor, { kind: 'change own', authorId: reply.authorId, board: board.rules });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  const document = await resolveCalls(db, actor, board, input.document);
  await transact(db, async (trx) => {
    if (!(await editReply(trx, id, document))) throw new Problem(409, GONE);
    // The words it had are found no more from this moment; those it has, soon after.
    await makeUnfindable(trx, 'reply', id);
    await emit(trx, 'reply.changed', { reply: id, post: post.id, board: board.id });
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
  note: string,
): Promise<void> {
  const { reply, post, board } = await visibleReply(db, actor, id);
  const own = reply.authorId === actor.id && to === 'deleted';
  if (!own) {
    requireOnBoard(actor, 'moderate', board);
    if (to !== 'up' && note.length < 3)
      throw new Problem(422, 'Say why, in a few words.', {
        errors: [{ field: 'note', detail: 'Say why, in a few words.' }],
      });
  }
  await transact(db, async (trx) => {
    if (!(await moveReply(trx, reply, to, actor.id, note)))
      throw new Problem(409, 'Somebody decided on this meanwhile. Look at how it stands now.');
    // What is taken down is found no more from this moment; what is put up is found soon after.
    if (to !== 'up') await makeUnfindable(trx, 'reply', id);
    await closeReports(trx, actor.id, { subject: 'reply', subjectId: id });
    await record(trx, {
      actorId: actor.id,
      action: { up: 'show reply', hidden: 'hide reply', deleted: own ? 'take back reply' : 'delete reply' }[
        to
      ],
      subject: 'board',
      subjectId: board.id,
      detail: { reply: id, note },
    });
    await emit(trx, 'reply.decided', {
      reply: id,
      post: post.id,
      board: board.id,
      to,
      note,
      by: actor.id,
    });
  });
}

/** Reports a reply to whoever moderates its board. */
export async function reportReply(db: Database, actor: Actor, id: number, reason: string): Promise<void> {
  const { board } = await visibleReply(db, actor, id);
  await reportTo(db, actor, board, { subject: 'reply', subjectId: id }, reason);
}

/** The texts a reply had before, for those who moderate its board and its author. */
export async function earlierTextsOfReply(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ html: string; keptMs: number }[]> {
  const { reply, board } = await visibleReply(db, actor, id);
  if (reply.authorId !== actor.id) requireOnBoard(actor, 'moderate', board);
  return (await earlierReplies(db, id)).map(({ document, keptMs }) => ({
    html: documentHtml(document, undefined, 4),
    keptMs,
  }));
}
