import { callsOf, resolveMentions, type Doc } from '../../core/content/document.ts';
import { excerpt } from '../../core/content/text.ts';
import type { ModeratorDecision } from '../../core/boards/decision.ts';
import { actorOf } from '../accounts/actor.ts';
import { versionById } from '../announcements/versionStore.ts';
import type { Sql } from '../audience/sql.ts';
import { isIn } from '../audience/store.ts';
import { whyNotCalling } from '../boards/callable.ts';
import { boardsSeenBy, seersOf } from '../boards/service.ts';
import { allBoards, allModerators, type BoardRow } from '../boards/store.ts';
import type { Database } from '../database/connection.ts';
import type { Handlers } from '../events/follow.ts';
import { audienceContext } from '../groups/directory.ts';
import { notifyEverybody, notifyPeople } from '../notices/notify.ts';
import type { Telling } from '../notices/store.ts';
import { namesOfPeople } from '../people/store.ts';
import { followersOfPost, replyById } from '../replies/store.ts';
import { thanksOfPosts } from '../thanks/store.ts';
import { postsOfOccurrence } from './occurrencePostStore.ts';
import { reportById, reportersOf } from './reportStore.ts';
import { postById, type PostRow } from './store.ts';

type Board = Pick<BoardRow, 'id' | 'name' | 'groupId'>;

const boardById = async (db: Database, id: number): Promise<BoardRow | undefined> =>
  (await allBoards(db)).find((board) => board.id === id);

const moderatorsOf = async (db: Database, boardId: number, but: number): Promise<number[]> =>
  (await allModerators(db))
    .filter((each) => each.boardId === boardId && each.personId !== but)
    .map((each) => each.personId);

/** Tells those called on in texts who may see the board, or of these those for whom a condition holds; not who wrote them. */
async function notifyCalled(
  db: Database,
  board: Board,
  authorId: number,
  documents: readonly Doc[],
  telling: Omit<Telling, 'kind' | 'why'>,
  among: Sql = { sql: 'TRUE', bindings: [] },
): Promise<void> {
  const { mentions } = callsOf(documents);
  if (mentions.length === 0) return;
  const now = await audienceContext(db);
  const seers = seersOf(board, now);
  const others: Sql = {
    sql: `p.id <> ? AND (${seers.sql}) AND ${among.sql}`,
    bindings: [authorId, ...seers.bindings, ...among.bindings],
  };
  await notifyPeople(
    db,
    mentions.filter((each) => each.kind === 'person').map((each) => each.id),
    { ...telling, kind: 'mention', why: `You are called on by name on ${board.name}.` },
    others,
  );
  const many = mentions.flatMap((each): Sql[] => {
    if (each.kind === 'group') return [isIn({ kind: 'group', id: each.id }, now)];
    return each.kind === 'everybody' ? [seers] : [];
  });
  for (const who of many)
    await notifyEverybody(
      db,
      { sql: `${others.sql} AND (${who.sql})`, bindings: [...others.bindings, ...who.bindings] },
      {
        ...telling,
        kind: 'mention',
        why: `Everybody in a group you belong to is called on, on ${board.name}.`,
      },
    );
}

/** Those whose inbox does not have what went out. */
const withoutIt = (occurrenceId: number): Sql => ({
  sql: `NOT EXISTS (SELECT 1 FROM deliveries d WHERE d.occurrence_id = ? AND d.person_id = p.id AND d.method = 'inbox')`,
  bindings: [occurrenceId],
});

/**
 * Tells those whom an announcement calls on, on the boards it went up on: not whose inbox has it. A group, or everybody, is
 * called where whoever sent it may call on them.
 */
async function notifyCalledByOccurrence(
  db: Database,
  occurrenceId: number,
  posts: Awaited<ReturnType<typeof postsOfOccurrence>>,
): Promise<void> {
  const [first] = posts;
  const version = first && (await versionById(db, first.versionId));
  if (!version || callsOf(version.sections.map(({ document }) => document)).mentions.length === 0) return;
  const author = await actorOf(db, first.authorId);
  if (!author) return;
  const [boards, now] = await Promise.all([boardsSeenBy(db, author), audienceContext(db)]);
  for (const post of posts) {
    const board = boards.find(({ id }) => id === post.boardId);
    if (!board) continue;
    await notifyCalled(
      db,
      board,
      post.authorId,
      version.sections.map(({ document }) =>
        resolveMentions(document, (mention) =>
          whyNotCalling(author, [board], mention, now.groups) === null ? mention : null,
        ),
      ),
      {
        title: post.title,
        text: post.excerpt,
        path: `/posts/${post.id}`,
        dedupeKey: `posted:${occurrenceId}`,
      },
      withoutIt(occurrenceId),
    );
  }
}

/** Tells those who follow a board of a post that has gone up on it; of what went out, not those whose inbox has it. */
async function notifyFollowers(
  db: Database,
  board: Board,
  post: { id: number; title: string; text: string; authorId: number; occurrenceId?: number },
): Promise<void> {
  const without = withoutIt(post.occurrenceId ?? 0);
  const seers = seersOf(board, await audienceContext(db));
  await notifyEverybody(
    db,
    {
      sql: `p.id <> ? AND p.id IN (SELECT f.person_id FROM follows f WHERE f.subject = 'board' AND f.subject_id = ?
        AND f.choice = 'follow') AND (${seers.sql})
        AND ${without.sql}`,
      bindings: [post.authorId, board.id, ...seers.bindings, ...without.bindings],
    },
    {
      kind: 'post',
      title: post.title,
      text: post.text,
      path: `/posts/${post.id}`,
      why: `You follow ${board.name}.`,
      dedupeKey: post.occurrenceId === undefined ? `post:${post.id}` : `posted:${post.occurrenceId}`,
    },
  );
}

/** Tells those who were thanked in a post, where they may see the board it stands on. */
async function notifyThanked(db: Database, board: Board, postId: number): Promise<void> {
  const thanks = (await thanksOfPosts(db, [postId])).get(postId);
  if (!thanks) return;
  await notifyPeople(
    db,
    thanks.to.map((each) => each.id),
    {
      kind: 'thanks',
      title: `You were thanked: ${thanks.ribbon.name}`,
      text: thanks.sentence,
      path: `/posts/${postId}`,
      why: `Somebody thanked you on ${board.name}.`,
      dedupeKey: `thanks:${postId}`,
    },
    seersOf(board, await audienceContext(db)),
  );
}

/** Tells the author of what was passed on, naming the board only where they may see it. */
async function notifyOrigin(db: Database, board: Board, post: PostRow): Promise<void> {
  const origin = post.originId === null ? undefined : await postById(db, post.originId);
  if (!origin || origin.authorId === post.authorId) return;
  const names = await namesOfPeople(db, [post.authorId]);
  const who = names.get(post.authorId) ?? 'Somebody';
  const telling = {
    kind: 'reply' as const,
    title: `Passed on: ${origin.title}`,
    path: `/posts/${origin.id}`,
    why: 'You wrote it.',
    dedupeKey: `passed:${origin.id}:${board.id}:${post.id}`,
  };
  const author = [origin.authorId];
  await notifyPeople(
    db,
    author,
    { ...telling, text: `${who} passed it on to ${board.name}.` },
    seersOf(board, await audienceContext(db)),
  );
  // Whoever was told just now is not told again of the same.
  await notifyPeople(db, author, { ...telling, text: `${who} passed it on to another board.` });
}

/** Who wrote a post, and is not told of it; nobody where it came in from outside. */
const writerOf = (post: PostRow): number => (post.hookName === null ? post.authorId : 0);

const documentsOf = (post: PostRow): Doc[] => post.body.sections.map((section) => section.document);
const tellingOf = (post: PostRow): Omit<Telling, 'kind' | 'why'> => ({
  title: post.title,
  text: excerpt(post.body.sections),
  path: `/posts/${post.id}`,
  dedupeKey: `post:${post.id}`,
});

const POST_DONE: Record<Exclude<ModeratorDecision, 'lock' | 'unlock'>, string> = {
  approve: 'went up',
  return: 'came back to you',
  decline: 'was declined',
  hide: 'was hidden',
  show: 'is shown again',
  delete: 'was deleted',
};
const REPLY_DONE = { up: 'is shown again', hidden: 'was hidden', deleted: 'was deleted' } as const;
const DECIDED_WHY = (board: Board): string =>
  `You wrote this on ${board.name}, and somebody who moderates it decided.`;

/** Tells those who reported something what came of it, where they may see its board still; nobody else, and not who else did. */
async function notifyReporters(
  db: Database,
  board: Board,
  reporters: readonly number[],
  told: { post: PostRow; re: boolean; text: string; dedupeKey: string },
): Promise<void> {
  await notifyPeople(
    db,
    reporters,
    {
      kind: 'decision',
      title: `What you reported: ${told.re ? 'Re: ' : ''}${told.post.title}`,
      text: told.text,
      path: `/boards/${board.id}`,
      why: `You reported it on ${board.name}.`,
      dedupeKey: told.dedupeKey,
    },
    seersOf(board, await audienceContext(db)),
  );
}

/** A post and its board as they stand now; nothing where either is gone. */
async function found(
  db: Database,
  of: { post: number; board: number },
): Promise<{ post: PostRow; board: BoardRow } | undefined> {
  const [post, board] = await Promise.all([postById(db, of.post), boardById(db, of.board)]);
  return post && board && { post, board };
}

/** Who is told of what happens on boards. */
export const postNotices: Handlers = {
  'post.published': async (trx, of) => {
    const there = await found(trx, of);
    if (there?.post.state !== 'up') return;
    const { post, board } = there;
    const telling = tellingOf(post);
    await notifyCalled(trx, board, writerOf(post), documentsOf(post), telling);
    await notifyFollowers(trx, board, { ...telling, id: post.id, authorId: writerOf(post) });
    await notifyOrigin(trx, board, post);
    await notifyThanked(trx, board, post.id);
  },
  'post.changed': async (trx, of) => {
    const there = await found(trx, of);
    if (there?.post.state !== 'up') return;
    await notifyCalled(
      trx,
      there.board,
      writerOf(there.post),
      documentsOf(there.post),
      tellingOf(there.post),
    );
  },
  'post.held': async (trx, of, event) => {
    const there = await found(trx, of);
    if (there?.post.state !== 'held') return;
    await notifyPeople(trx, await moderatorsOf(trx, of.board, writerOf(there.post)), {
      ...tellingOf(there.post),
      kind: 'held',
      dedupeKey: `held:${of.post}:${event}`,
      why: `You moderate ${there.board.name}, where posts wait until somebody has looked.`,
    });
  },
  'post.decided': async (trx, of, event) => {
    const { decision, note } = of;
    const there = await found(trx, of);
    if (!there || decision === 'lock' || decision === 'unlock') return;
    const { post, board } = there;
    if (decision === 'hide' || decision === 'delete')
      await notifyReporters(trx, board, await reportersOf(trx, 'post', post.id), {
        post,
        re: false,
        text: `It ${POST_DONE[decision]}.`,
        dedupeKey: `report-outcome:post:${post.id}:${event}`,
      });
    if (post.authorId === of.by) return;
    await notifyPeople(trx, [post.authorId], {
      kind: 'decision',
      title: `${post.title}: ${POST_DONE[decision]}`,
      text: note === '' ? board.name : note,
      path: decision === 'delete' ? `/boards/${board.id}` : `/posts/${post.id}`,
      why: DECIDED_WHY(board),
      dedupeKey: `decision:${post.id}:${event}`,
    });
  },
  'post.reported': async (trx, of) => {
    const [report, board] = await Promise.all([reportById(trx, of.report), boardById(trx, of.board)]);
    if (!report || !board) return;
    const reply = report.subject === 'reply' ? await replyById(trx, report.subjectId) : undefined;
    const post = await postById(trx, reply?.postId ?? report.subjectId);
    if (!post) return;
    const others = (await moderatorsOf(trx, board.id, report.reporterId)).filter(
      (id) => id !== report.authorId,
    );
    await notifyPeople(trx, others, {
      kind: 'report',
      title: `Reported: ${reply ? 'Re: ' : ''}${post.title}`,
      text: report.reason,
      path: `/posts/${post.id}`,
      why: `You moderate ${board.name}.`,
      dedupeKey: `report:${report.subject}:${report.subjectId}:${report.reporterId}`,
    });
  },
  'report.dismissed': async (trx, of, event) => {
    const [report, board] = await Promise.all([reportById(trx, of.report), boardById(trx, of.board)]);
    if (!report || !board) return;
    const reply = report.subject === 'reply' ? await replyById(trx, report.subjectId) : undefined;
    const post = await postById(trx, reply?.postId ?? report.subjectId);
    if (post)
      await notifyReporters(trx, board, [report.reporterId], {
        post,
        re: reply !== undefined,
        text: 'Somebody who moderates the board looked at it, and it stands.',
        dedupeKey: `report-outcome:${of.report}:${event}`,
      });
  },
  'reply.published': (trx, of) => notifyOfReply(trx, of, true),
  'reply.changed': (trx, of) => notifyOfReply(trx, of, false),
  'reply.decided': async (trx, of, event) => {
    const there = await found(trx, of);
    const reply = await replyById(trx, of.reply);
    if (!there || !reply) return;
    if (of.to !== 'up')
      await notifyReporters(trx, there.board, await reportersOf(trx, 'reply', of.reply), {
        post: there.post,
        re: true,
        text: `It ${REPLY_DONE[of.to]}.`,
        dedupeKey: `report-outcome:reply:${of.reply}:${event}`,
      });
    if (reply.authorId === of.by) return;
    await notifyPeople(trx, [reply.authorId], {
      kind: 'decision',
      title: `Re: ${there.post.title}: ${REPLY_DONE[of.to]}`,
      text: of.note,
      path: `/posts/${of.post}`,
      why: DECIDED_WHY(there.board),
      dedupeKey: `reply-decision:${of.reply}:${event}`,
    });
  },
  'occurrence.reached': async (trx, of) => {
    if (!of.posted) return;
    const posts = await postsOfOccurrence(trx, of.occurrence);
    await notifyCalledByOccurrence(trx, of.occurrence, posts);
    // Those who follow several of its boards are told once, and those who are called on as such.
    for (const post of posts)
      await notifyFollowers(
        trx,
        { id: post.boardId, name: post.boardName, groupId: post.groupId },
        {
          id: post.id,
          title: post.title,
          text: post.excerpt,
          authorId: post.authorId,
          occurrenceId: of.occurrence,
        },
      );
  },
};

async function notifyOfReply(
  trx: Database,
  of: { reply: number; post: number; board: number },
  isNew: boolean,
): Promise<void> {
  const there = await found(trx, of);
  const reply = await replyById(trx, of.reply);
  if (!there || reply?.state !== 'up') return;
  const { post, board } = there;
  const telling = {
    title: `Re: ${post.title}`,
    text: excerpt([{ heading: '', document: reply.document }]),
    path: `/posts/${post.id}`,
    dedupeKey: `reply:${reply.id}`,
  };
  await notifyCalled(trx, board, reply.authorId, [reply.document], telling);
  if (!isNew) return;
  const followers = (await followersOfPost(trx, post.id)).filter((each) => each !== reply.authorId);
  await notifyPeople(
    trx,
    followers,
    { ...telling, kind: 'reply', why: `You wrote, replied to or follow this on ${board.name}.` },
    seersOf(board, await audienceContext(trx)),
  );
}
