import type { NewPost } from '../../core/boards/board.ts';
import { contentProblems, simpleContent, type Content } from '../../core/content/announcement.ts';
import type { Doc } from '../../core/content/document.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { freezeVersion } from '../announcements/versionStore.ts';
import { record } from '../audit/store.ts';
import { requireOnBoard, visibleBoard, type BoardForReader } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { Problem } from '../problem.ts';
import { makeUnfindable } from '../search/indexStore.ts';
import { requireOwnUploads } from '../uploads/service.ts';
import { announcementOf, editPost, movePost, type PostRow } from './store.ts';
import { resolveCalls } from './calling.ts';
import { visiblePost } from './opening.ts';
import { ownWords } from './passingOn.ts';
import { type Written, putUp } from './puttingUp.ts';

const contentOf = (input: NewPost, document: Doc): Content => {
  const content = simpleContent(input.title, document);
  const [section] = content.sections;
  return section
    ? {
        ...content,
        sections: [{ ...section, image: input.image, gallery: input.gallery, files: input.files }],
      }
    : content;
};

function requireComplete(content: Content): void {
  const errors = contentProblems(content).map((problem) =>
    // A post has one section, so its image needs no number.
    ({
      ...problem,
      field: problem.field
        .replace(/^sections\.[^.]+\.alt$/, 'image.alt')
        .replace(/^sections\.[^.]+\.gallery/, 'gallery'),
    }),
  );
  if (errors.length > 0) throw new Problem(422, 'The post cannot go up yet.', { errors });
}

/** Writes straight to a board, where the board's rules allow it. The same key posts once. */
export async function writePost(
  db: Database,
  actor: Actor,
  boardId: number,
  input: NewPost,
  key: string,
): Promise<Written> {
  const board = await visibleBoard(db, actor, boardId);
  const { held } = requireOnBoard(actor, 'post', board);
  await requireOwnUploads(db, actor, input);
  const document = await resolveCalls(db, actor, board, input.document);
  const content = contentOf(input, document);
  requireComplete(content);
  return putUp(db, actor, board, content, { key, held });
}

/**
 * Puts another text in a post of one's own. It never stands higher by that than before: what waits or came back waits until a
 * moderator has looked, whatever the board's switches say now, unless its author may post here unasked; what is up stays up,
 * or is looked at again where the board holds posts now.
 */
export async function rewritePost(db: Database, actor: Actor, id: number, input: NewPost): Promise<Written> {
  const { post, board } = await visiblePost(db, actor, id);
  requireOwn(actor, post, board);
  await requireOwnUploads(db, actor, input, JSON.stringify(post.body));
  // Who may not start posts here any more may still mend what they wrote.
  const { outcome } = decide(actor, { kind: 'on board', permission: 'post', board: board.rules });
  const held = outcome === 'held' || (post.state !== 'up' && outcome !== 'allowed');
  const document = await resolveCalls(db, actor, board, input.document);
  const content = post.originId === null ? contentOf(input, document) : ownWords(post.title, document);
  if (post.originId === null) requireComplete(content);
  const state = held ? 'held' : 'up';
  return transact(db, async (trx) => {
    const versionId = await freezeVersion(
      trx,
      await announcementOf(trx, post.versionId),
      actor.id,
      content,
      'sent',
    );
    if (!(await editPost(trx, id, versionId, post.state, state)))
      throw new Problem(409, 'This post was taken down meanwhile. Your text is still here.');
    await record(trx, {
      actorId: actor.id,
      action: 'edit post',
      subject: 'board',
      subjectId: board.id,
      detail: { post: id },
    });
    const of = { post: id, board: board.id };
    // The words it had are found no more from this moment; those it has, soon after.
    await makeUnfindable(trx, 'post', id);
    if (state === 'held' && post.state !== 'held') await emit(trx, 'post.held', of);
    // It goes up now: those are told whom a new post would tell.
    else if (state === 'up' && post.state !== 'up') await emit(trx, 'post.published', of);
    else await emit(trx, 'post.changed', of);
    return { id, state };
  });
}

function requireOwn(actor: Actor, post: PostRow, board: BoardForReader): void {
  if (post.occurrenceId !== null)
    throw new Problem(403, 'This went out by a plan. Correct it from the page of its send.');
  const decision = decide(actor, { kind: 'change own', authorId: post.authorId, board: board.rules });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

/** What an author changes a post from: its text as it was written. */
export async function draftOfPost(db: Database, actor: Actor, id: number): Promise<NewPost> {
  const { post, board } = await visiblePost(db, actor, id);
  requireOwn(actor, post, board);
  const [section] = post.body.sections;
  return {
    title: post.title,
    document: section?.document ?? { type: 'doc', content: [] },
    image: section?.image ?? null,
    gallery: section?.gallery ?? [],
    files: section?.files ?? [],
  };
}

/** Takes back a post of one's own. */
export async function takeDownOwn(db: Database, actor: Actor, id: number): Promise<void> {
  const { post, board } = await visiblePost(db, actor, id);
  requireOwn(actor, post, board);
  await transact(db, async (trx) => {
    if (!(await movePost(trx, id, 'delete', actor.id, ''))) return;
    await makeUnfindable(trx, 'post', id);
    await record(trx, {
      actorId: actor.id,
      action: 'take back post',
      subject: 'board',
      subjectId: board.id,
      detail: { post: id },
    });
    await emit(trx, 'post.withdrawn', { post: id, board: board.id });
  });
}
