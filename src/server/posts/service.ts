import { randomBytes } from 'node:crypto';
import type { z } from 'zod';
import type {
  decisionSchema,
  NewPost,
  passOnSchema,
  PostPage,
  pinSchema,
  Reply,
} from '../../core/boards/board.ts';
import { contentProblems, simpleContent, type Content } from '../../core/content/announcement.ts';
import { callsOf, settleMentions, type Doc } from '../../core/content/document.ts';
import { sectionsHtml } from '../../core/content/html.ts';
import { excerpt, searchText } from '../../core/content/text.ts';
import { EMPTY_PLAN } from '../../core/plan/plan.ts';
import { decide, moderates, type Actor } from '../../core/rights/decide.ts';
import { dayAfter, settle } from '../../core/timing/wallTime.ts';
import { readBody } from '../../core/stored.ts';
import { freezeVersion, insertAnnouncement } from '../announcements/store.ts';
import { record } from '../audit/store.ts';
import type { Sql } from '../audience/sql.ts';
import { isIn } from '../audience/store.ts';
import {
  boardsSeenBy,
  demandOnBoard,
  seersOf,
  visibleBoard,
  type BoardForReader,
} from '../boards/service.ts';
import { followsOf, mayBePassedOn, setFollow } from '../boards/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { circumstances } from '../groups/directory.ts';
import { markNoticesRead, tell, these, type Telling } from '../notices/store.ts';
import { publish } from '../outbox/store.ts';
import { topics } from '../outbox/topics.ts';
import { namesOfPeople } from '../people/store.ts';
import { notFound, orNone, Problem } from '../problem.ts';
import { repliesPage } from '../replies/store.ts';
import { makeFindable, makeUnfindable } from '../search/store.ts';
import { thanksOfPosts } from '../thanks/store.ts';
import { addressIn } from '../uploads/address.ts';
import { requireOwnUploads } from '../uploads/service.ts';
import { readPosts, readReplies } from './readable.ts';
import {
  announcementOf,
  deciderOf,
  editPost,
  insertMemberPost,
  insertReport,
  lockPost,
  markOpened,
  movePost,
  orderPins,
  pinnedPosts,
  pinPost,
  pinUntil,
  postById,
  postByKey,
  postsOfOccurrence,
  reportById,
  settleReports,
  textsOf,
  unpinPost,
  type PostRow,
} from './store.ts';

const REPLIES = 30;

/** A post with its board, as this person may see them; a 404 problem alike where there is none and where it is not theirs. */
export async function visiblePost(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ post: PostRow; board: BoardForReader }> {
  const post = await postById(db, id);
  const board = post && (await orNone(visibleBoard(db, actor, post.boardId)));
  if (!post || !board) throw notFound('post');
  const mine = post.authorId === actor.id;
  const gone = post.state !== 'up' && !mine && !moderates(actor, board.rules);
  if (gone || post.state === 'deleted') throw notFound('post');
  return { post, board };
}

/** A post with the latest of what was said to it. Notes that it was opened. */
export async function openPost(db: Database, actor: Actor, id: number): Promise<PostPage> {
  const { post, board } = await visiblePost(db, actor, id);
  const moderating = moderates(actor, board.rules);
  const seen = await boardsSeenBy(db, actor);
  const names = new Map(seen.map((each) => [each.id, each.name]));
  const [read, replies, follows] = await Promise.all([
    readPosts(db, actor, [post], names),
    repliesPage(db, id, null, REPLIES + 1),
    followsOf(db, actor.id, 'post', [id]),
  ]);
  const [shown] = read;
  if (!shown) throw notFound('post');
  const told = await markNoticesRead(db, actor.id, `/posts/${id}`);
  if ((await markOpened(db, actor.id, id)) || told > 0) await publish(db, [topics.person(actor.id)]);
  const page = replies.length > REPLIES ? replies.slice(1) : replies;
  const may = (deed: 'reply' | 'react' | 'pin' | 'mention everybody') =>
    decide(actor, { kind: 'on board', deed, board: board.rules });
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
    replying,
    reacting: shown.state === 'up' && may('react').outcome === 'allowed',
    pinning: shown.state === 'up' && may('pin').outcome === 'allowed',
    moderating,
    mentioning: may('mention everybody'),
    own: shown.own && !board.archived,
    replies: await readReplies(db, actor, page, moderating),
    earlier: replies.length > REPLIES ? (page[0]?.id ?? null) : null,
    following: follows.get(id) ?? null,
    passableTo:
      shown.state === 'up' && !shown.thanks && board.rules.passing && shown.quote?.state !== 'gone'
        ? seen.flatMap((each) => {
            const posting = decide(actor, { kind: 'on board', deed: 'post', board: each.rules });
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

/** Whom a text calls on. */
export interface Called {
  document: Doc;
  people: number[];
  groups: number[];
  everybody: boolean;
}

/**
 * Settles whom a text calls on: each name as it is in the directory, whatever the text said it was. Calling on everybody
 * needs the right to; a whole group is called only by those who may send to it.
 */
export async function settleCalls(
  db: Database,
  actor: Actor,
  board: BoardForReader,
  doc: Doc,
): Promise<Called> {
  const { mentions } = callsOf([doc]);
  const [names, now] = await Promise.all([
    namesOfPeople(
      db,
      mentions.filter((each) => each.kind === 'person').map((each) => each.id),
    ),
    circumstances(db),
  ]);
  const called: Called = { document: doc, people: [], groups: [], everybody: false };
  called.document = settleMentions(doc, (mention) => {
    switch (mention.kind) {
      case 'person': {
        const name = names.get(mention.id);
        if (name !== undefined) called.people.push(mention.id);
        return name === undefined ? null : { ...mention, label: name };
      }
      case 'everybody': {
        demandOnBoard(actor, 'mention everybody', board);
        called.everybody = true;
        return { kind: 'everybody', id: board.id, label: `everybody on ${board.name}` };
      }
      case 'group': {
        const group = now.groups.get(mention.id);
        if (!group) return null;
        if (group.id === board.groupId) demandOnBoard(actor, 'mention everybody', board);
        else {
          const decision = decide(actor, {
            kind: 'address',
            audience: { kind: 'group', id: group.id },
            boards: [],
          });
          if (decision.outcome === 'denied')
            throw new Problem(403, `You may not call on ${group.name} at once. Name people, or take it out.`);
        }
        called.groups.push(group.id);
        return { ...mention, label: group.name };
      }
    }
  });
  return called;
}

/** Tells those called on in a text who may see the board; not who wrote it. */
export async function tellCalled(
  db: Database,
  actor: Actor,
  board: BoardForReader,
  called: Called,
  telling: Omit<Telling, 'kind' | 'why'>,
): Promise<void> {
  const now = await circumstances(db);
  const seers = seersOf(board, now);
  const among = (who: Sql): Sql => ({
    sql: `p.id <> ? AND (${seers.sql}) AND (${who.sql})`,
    bindings: [actor.id, ...seers.bindings, ...who.bindings],
  });
  if (called.people.length > 0) {
    await tell(db, among(these(called.people)), {
      ...telling,
      kind: 'mention',
      why: `You are called on by name on ${board.name}.`,
    });
    await publish(db, called.people.map(topics.person));
  }
  const groups: Sql[] = called.groups.map((id) => isIn({ kind: 'group', id }, now));
  if (called.everybody) groups.push(seersOf(board, now));
  for (const group of groups)
    await tell(db, among(group), {
      ...telling,
      kind: 'mention',
      why: `Everybody in a group you belong to is called on, on ${board.name}.`,
    });
  if (groups.length > 0) await publish(db, [topics.arrivals]);
}

/** Tells those who follow a board of a post that has gone up on it; of what went out, not those whose inbox has it. */
export async function tellFollowers(
  db: Database,
  board: { id: number; name: string; groupId: number | null },
  post: { id: number; title: string; text: string; authorId: number; occurrenceId?: number },
): Promise<void> {
  const seers = seersOf(board, await circumstances(db));
  await tell(
    db,
    {
      sql: `p.id <> ? AND p.id IN (SELECT f.person_id FROM follows f WHERE f.subject = 'board' AND f.subject_id = ?
        AND f.choice = 'follow') AND (${seers.sql})
        AND NOT EXISTS (SELECT 1 FROM deliveries d WHERE d.occurrence_id = ? AND d.person_id = p.id AND d.method = 'inbox')`,
      bindings: [post.authorId, board.id, ...seers.bindings, post.occurrenceId ?? 0],
    },
    {
      kind: 'post',
      title: post.title,
      text: post.text,
      path: `/posts/${post.id}`,
      why: `You follow ${board.name}.`,
      about: post.occurrenceId === undefined ? `post:${post.id}` : `posted:${post.occurrenceId}`,
    },
  );
}

/** Tells those who follow the boards an occurrence stands on, once each, and not those who got it in their inbox. */
export async function tellOfOccurrence(db: Database, occurrenceId: number): Promise<void> {
  for (const post of await postsOfOccurrence(db, occurrenceId))
    await tellFollowers(
      db,
      { id: post.boardId, name: post.boardName, groupId: post.groupId },
      { id: post.id, title: post.title, text: post.excerpt, authorId: post.authorId, occurrenceId },
    );
}

/** Sets apart what may be told of again: a post that is held a second time is a second thing to look at. */
export const anew = (): string => randomBytes(6).toString('hex');

/** Tells those who were thanked, where they may see the board it stands on. */
export async function tellThanked(
  db: Database,
  board: BoardForReader,
  postId: number,
  to: readonly number[],
  thanks: { ribbon: { name: string }; sentence: string },
): Promise<void> {
  const seers = seersOf(board, await circumstances(db));
  const who = these(to);
  await tell(
    db,
    { sql: `(${who.sql}) AND (${seers.sql})`, bindings: [...who.bindings, ...seers.bindings] },
    {
      kind: 'thanks',
      title: `You were thanked: ${thanks.ribbon.name}`,
      text: thanks.sentence,
      path: `/posts/${postId}`,
      why: `Somebody thanked you on ${board.name}.`,
      about: `thanks:${postId}`,
    },
  );
  await publish(db, to.map(topics.person));
}

const moderatorsOf = (board: BoardForReader, but: number): Sql =>
  these(board.moderatorRows.map((each) => each.personId).filter((id) => id !== but));

const contentOf = (input: NewPost, document: Doc): Content => {
  const content = simpleContent(input.title, document);
  const [section] = content.sections;
  return section
    ? { ...content, sections: [{ ...section, image: input.image, files: input.files }] }
    : content;
};

function demandComplete(content: Content): void {
  const errors = contentProblems(content).map((problem) =>
    // A post has one section, so its image needs no number.
    /^sections\..*\.alt$/.test(problem.field) ? { ...problem, field: 'image.alt' } : problem,
  );
  if (errors.length > 0) throw new Problem(422, 'The post cannot go up yet.', { errors });
}

/** Makes a post findable, or not, as it now stands. */
async function indexPost(db: Database, post: PostRow): Promise<void> {
  if (post.state !== 'up') {
    await makeUnfindable(db, 'post', post.id);
    return;
  }
  await makeFindable(db, {
    kind: 'post',
    subjectId: post.id,
    boardId: post.boardId,
    occurrenceId: post.occurrenceId,
    authorId: post.authorId,
    category: '',
    atMs: post.postedMs,
    asks: false,
    title: post.title,
    body: searchText(post.body.sections),
  });
}

export async function reindex(db: Database, id: number): Promise<void> {
  const post = await postById(db, id);
  if (post) await indexPost(db, post);
}

/** What became of a post: it is up, or waits. */
export interface Written {
  id: number;
  state: 'up' | 'held';
}

/** Puts a text on a board under a key, once, with all that follows from it. Call it with the right already asked for. */
export async function putUp(
  db: Database,
  actor: Actor,
  board: BoardForReader,
  content: Content,
  options: {
    key: string;
    held: boolean;
    called: Called | null;
    originId?: number;
    after?: (trx: Database, postId: number) => Promise<void>;
  },
): Promise<Written> {
  const known = await postByKey(db, actor.id, options.key);
  if (known) return { id: known.id, state: known.state === 'held' ? 'held' : 'up' };
  const state = options.held ? 'held' : 'up';
  try {
    return await transact(db, async (trx) => {
      const versionId = await freezeVersion(
        trx,
        await insertAnnouncement(trx, actor.id, content, EMPTY_PLAN, 'committed'),
        actor.id,
        content,
        'sent',
      );
      const id = await insertMemberPost(trx, {
        boardId: board.id,
        versionId,
        authorId: actor.id,
        key: options.key,
        state,
        originId: options.originId ?? null,
      });
      await options.after?.(trx, id);
      await record(trx, {
        actorId: actor.id,
        action: options.held ? 'write, held' : options.originId === undefined ? 'post' : 'pass on',
        subject: 'board',
        subjectId: board.id,
        detail: { post: id },
      });
      await announce(trx, actor, board, id, content, options.called, state);
      return { id, state };
    });
  } catch (error) {
    const written = await postByKey(db, actor.id, options.key);
    if (written) return { id: written.id, state: written.state === 'held' ? 'held' : 'up' };
    throw error;
  }
}

/** What follows from a post that is written: it is findable and told of, or its moderators are told that it waits. */
async function announce(
  trx: Database,
  actor: Actor,
  board: BoardForReader,
  id: number,
  content: Content,
  called: Called | null,
  state: 'up' | 'held',
): Promise<void> {
  const text = excerpt(content.sections);
  const telling = { title: content.title, text, path: `/posts/${id}`, about: `post:${id}` };
  if (state === 'held') {
    await tell(trx, moderatorsOf(board, actor.id), {
      ...telling,
      kind: 'held',
      about: `held:${id}:${anew()}`,
      why: `You moderate ${board.name}, where posts wait until somebody has looked.`,
    });
    await publish(trx, [
      topics.board(board.id),
      topics.desk,
      ...board.moderatorRows.map((each) => topics.person(each.personId)),
    ]);
    return;
  }
  await reindex(trx, id);
  if (called) await tellCalled(trx, actor, board, called, telling);
  await tellFollowers(trx, board, { id, title: content.title, text, authorId: actor.id });
  await publish(trx, [topics.board(board.id), topics.arrivals]);
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
  const { held } = demandOnBoard(actor, 'post', board);
  await requireOwnUploads(db, actor, input);
  const called = await settleCalls(db, actor, board, input.document);
  const content = contentOf(input, called.document);
  demandComplete(content);
  return putUp(db, actor, board, content, { key, held, called });
}

/**
 * Puts another text in a post of one's own. It never stands higher by that than before: what waits or came back waits until a
 * moderator has looked, whatever the board's switches say now, unless its author may post here unasked; what is up stays up,
 * or is looked at again where the board holds posts now.
 */
export async function rewritePost(db: Database, actor: Actor, id: number, input: NewPost): Promise<Written> {
  const { post, board } = await visiblePost(db, actor, id);
  demandOwn(actor, post, board);
  await requireOwnUploads(db, actor, input, JSON.stringify(post.body));
  // Who may not start posts here any more may still mend what they wrote.
  const { outcome } = decide(actor, { kind: 'on board', deed: 'post', board: board.rules });
  const held = outcome === 'held' || (post.state !== 'up' && outcome !== 'allowed');
  const called = await settleCalls(db, actor, board, input.document);
  const content =
    post.originId === null ? contentOf(input, called.document) : ownWords(post.title, called.document);
  if (post.originId === null) demandComplete(content);
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
    if (state === 'held') {
      await makeUnfindable(trx, 'post', id);
      if (post.state !== 'held') await announce(trx, actor, board, id, content, null, 'held');
    } else if (post.state !== 'up') {
      // It goes up now: those are told whom a new post would tell.
      await announce(trx, actor, board, id, content, called, 'up');
      await tellOrigin(trx, actor, board, post.originId);
    } else {
      await reindex(trx, id);
      await tellCalled(trx, actor, board, called, {
        title: content.title,
        text: excerpt(content.sections),
        path: `/posts/${id}`,
        about: `post:${id}`,
      });
    }
    await publish(trx, [topics.board(board.id), topics.post(id)]);
    return { id, state };
  });
}

function demandOwn(actor: Actor, post: PostRow, board: BoardForReader): void {
  if (post.occurrenceId !== null)
    throw new Problem(403, 'This went out by a plan. Correct it from the page of its send.');
  const decision = decide(actor, { kind: 'change own', authorId: post.authorId, board: board.rules });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

/** What an author changes a post from: its text as it was written. */
export async function draftOfPost(db: Database, actor: Actor, id: number): Promise<NewPost> {
  const { post, board } = await visiblePost(db, actor, id);
  demandOwn(actor, post, board);
  const [section] = post.body.sections;
  return {
    title: post.title,
    document: section?.document ?? { type: 'doc', content: [] },
    image: section?.image ?? null,
    files: section?.files ?? [],
  };
}

/** Takes back a post of one's own. */
export async function takeDownOwn(db: Database, actor: Actor, id: number): Promise<void> {
  const { post, board } = await visiblePost(db, actor, id);
  demandOwn(actor, post, board);
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
    await publish(trx, [topics.board(board.id), topics.post(id), topics.arrivals]);
  });
}

const DONE: Record<z.infer<typeof decisionSchema>['decision'], string> = {
  approve: 'went up',
  return: 'came back to you',
  decline: 'was declined',
  hide: 'was hidden',
  show: 'is shown again',
  delete: 'was deleted',
  lock: 'takes no more replies',
  unlock: 'takes replies again',
};

/** A moderator's decision on a post, told to its author. Of two who decide at once, one does. */
export async function decidePost(
  db: Database,
  actor: Actor,
  id: number,
  input: z.infer<typeof decisionSchema>,
): Promise<void> {
  const { post, board } = await visiblePost(db, actor, id);
  demandOnBoard(actor, 'moderate', board);
  const { decision, word } = input;
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
        : await movePost(trx, id, decision, actor.id, word);
    if (!done) {
      const by = await deciderOf(trx, id);
      throw new Problem(409, `${by ?? 'Somebody'} decided on this meanwhile. Look at how it stands now.`);
    }
    await record(trx, {
      actorId: actor.id,
      action: `${decision} post`,
      subject: 'board',
      subjectId: board.id,
      detail: { post: id, word },
    });
    await settleReports(trx, actor.id, { subject: 'post', subjectId: id });
    if (decision === 'delete' || decision === 'hide') await makeUnfindable(trx, 'post', id);
    else await reindex(trx, id);
    if (post.authorId !== actor.id && decision !== 'lock' && decision !== 'unlock')
      await tell(trx, these([post.authorId]), {
        kind: 'decision',
        title: `${post.title}: ${DONE[decision]}`,
        text: word === '' ? board.name : word,
        path: decision === 'delete' ? `/boards/${board.id}` : `/posts/${id}`,
        why: `You wrote this on ${board.name}, and somebody who moderates it decided.`,
        about: `decision:${id}:${anew()}`,
      });
    if (decision === 'approve') {
      const telling = {
        title: post.title,
        text: excerpt(post.body.sections),
        path: `/posts/${id}`,
        about: `post:${id}`,
      };
      const { mentions } = callsOf(post.body.sections.map((section) => section.document));
      await tellCalled(
        trx,
        { ...actor, id: post.authorId },
        board,
        {
          document: { type: 'doc', content: [] },
          people: mentions.filter((each) => each.kind === 'person').map((each) => each.id),
          groups: mentions.filter((each) => each.kind === 'group').map((each) => each.id),
          everybody: mentions.some((each) => each.kind === 'everybody'),
        },
        telling,
      );
      await tellFollowers(trx, board, { ...telling, id, authorId: post.authorId });
      await tellOrigin(trx, { ...actor, id: post.authorId }, board, post.originId);
      const thanks = (await thanksOfPosts(trx, [id])).get(id);
      if (thanks)
        await tellThanked(
          trx,
          board,
          id,
          thanks.to.map((each) => each.id),
          thanks,
        );
    }
    await publish(trx, [
      topics.board(board.id),
      topics.post(id),
      topics.desk,
      topics.arrivals,
      topics.person(post.authorId),
    ]);
  });
}

/** The texts a post had before, for those who moderate its board and its author. */
export async function earlierTexts(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ title: string; html: string; keptMs: number }[]> {
  const { post, board } = await visiblePost(db, actor, id);
  if (post.authorId !== actor.id) demandOnBoard(actor, 'moderate', board);
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

/** Reports a post to whoever moderates its board. Reporting it again changes nothing. */
export async function reportPost(db: Database, actor: Actor, id: number, reason: string): Promise<void> {
  const { post, board } = await visiblePost(db, actor, id);
  await reportTo(db, actor, board, { subject: 'post', subjectId: id, postId: id, title: post.title }, reason);
}

/** Reports something on a board to those who moderate it. */
export async function reportTo(
  db: Database,
  actor: Actor,
  board: BoardForReader,
  what: { subject: 'post' | 'reply'; subjectId: number; postId: number; title: string },
  reason: string,
): Promise<void> {
  await transact(db, async (trx) => {
    const { subject, subjectId } = what;
    if (!(await insertReport(trx, { subject, subjectId, boardId: board.id, reporterId: actor.id, reason })))
      return;
    await record(trx, {
      actorId: actor.id,
      action: `report ${subject}`,
      subject: 'board',
      subjectId: board.id,
      detail: { [subject]: subjectId },
    });
    await tell(trx, moderatorsOf(board, actor.id), {
      kind: 'report',
      title: `Reported: ${what.title}`,
      text: reason,
      path: `/posts/${what.postId}`,
      why: `You moderate ${board.name}.`,
      about: `report:${subject}:${subjectId}:${actor.id}`,
    });
    await publish(trx, [
      topics.board(board.id),
      topics.desk,
      ...board.moderatorRows.map((each) => topics.person(each.personId)),
    ]);
  });
}

/** Settles a report without doing anything to what was reported. */
export async function settleReport(db: Database, actor: Actor, id: number): Promise<void> {
  const report = await reportById(db, id);
  const board = report && (await orNone(visibleBoard(db, actor, report.boardId)));
  if (!report || !board) throw notFound('report');
  demandOnBoard(actor, 'moderate', board);
  await transact(db, async (trx) => {
    if ((await settleReports(trx, actor.id, { id })) === 0) return;
    await record(trx, {
      actorId: actor.id,
      action: 'let stand',
      subject: 'board',
      subjectId: board.id,
      detail: { report: id },
    });
    await publish(trx, [topics.board(board.id), topics.desk]);
  });
}

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
  demandOnBoard(actor, 'pin', board);
  if (input.pinned && post.state !== 'up')
    throw new Problem(409, 'This post is not up, so it is not pinned.');
  // To the end of that day.
  const untilMs =
    input.until === null ? null : settle({ wall: `${dayAfter(input.until)}T00:00`, zone }).epochMs;
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
    await publish(trx, [topics.board(board.id), topics.post(id)]);
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
  demandOnBoard(actor, 'pin', board);
  await transact(db, async (trx) => {
    await orderPins(trx, boardId, ids);
    await record(trx, { actorId: actor.id, action: 'arrange pins', subject: 'board', subjectId: boardId });
    await publish(trx, [topics.board(boardId)]);
  });
}

/** What somebody says of what they pass on, as a post of its own: the original is quoted under it as it stands. */
const ownWords = (title: string, document: Doc): Content => simpleContent(title, document);

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
  { boardId, document }: z.infer<typeof passOnSchema>,
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
  const { held } = demandOnBoard(actor, 'post', board);
  const called = await settleCalls(db, actor, board, document);
  const names = await namesOfPeople(db, [actor.id]);
  const content = ownWords(
    `Passed on by ${names.get(actor.id) ?? 'somebody'}`.slice(0, 150),
    called.document,
  );
  return putUp(db, actor, board, content, {
    key,
    held,
    called,
    originId: origin.id,
    after: async (trx) => {
      if (!held) await tellOrigin(trx, actor, board, origin.id);
    },
  });
}

/** Tells the author of what was passed on, naming the board only where they may see it. */
async function tellOrigin(
  trx: Database,
  actor: Actor,
  board: BoardForReader,
  originId: number | null,
): Promise<void> {
  const origin = originId === null ? undefined : await postById(trx, originId);
  if (!origin || origin.authorId === actor.id) return;
  const seers = seersOf(board, await circumstances(trx));
  const author = these([origin.authorId]);
  const names = await namesOfPeople(trx, [actor.id]);
  const who = names.get(actor.id) ?? 'Somebody';
  const telling = {
    kind: 'reply' as const,
    title: `Passed on: ${origin.title}`,
    path: `/posts/${origin.id}`,
    why: 'You wrote it.',
  };
  const sees: Sql = {
    sql: `(${author.sql}) AND (${seers.sql})`,
    bindings: [...author.bindings, ...seers.bindings],
  };
  const about = `passed:${origin.id}:${board.id}:${anew()}`;
  await tell(trx, sees, { ...telling, text: `${who} passed it on to ${board.name}.`, about });
  // Whoever was told just now is not told again under the same name.
  await tell(trx, author, { ...telling, text: `${who} passed it on to another board.`, about });
  await publish(trx, [topics.person(origin.authorId)]);
}

/** Follows or mutes what is said to a post, or neither. */
export async function followPost(
  db: Database,
  actor: Actor,
  id: number,
  choice: 'follow' | 'mute' | null,
): Promise<void> {
  await visiblePost(db, actor, id);
  await setFollow(db, actor.id, 'post', id, choice);
}
