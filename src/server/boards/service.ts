import { z } from 'zod';
import type { Board, BoardListing, BoardPage, Post } from '../../core/boards/board.ts';
import { contentProblems, draftContentSchema, simpleContent } from '../../core/content/announcement.ts';
import { documentSchema } from '../../core/content/document.ts';
import { eventSpan } from '../../core/content/event.ts';
import type { Reader } from '../../core/content/field.ts';
import { fillFor, sectionsHtml } from '../../core/content/html.ts';
import { partsOf } from '../../core/content/section.ts';
import type { Audience } from '../../core/audience/expression.ts';
import { includes } from '../../core/audience/includes.ts';
import { decide, type Actor, type BoardRules } from '../../core/rights/decide.ts';
import { freezeVersion, insertAnnouncement } from '../announcements/store.ts';
import { factsOf } from '../audience/store.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { circumstances } from '../groups/directory.ts';
import { readerById } from '../people/store.ts';
import { publish } from '../outbox/store.ts';
import { topics } from '../outbox/topics.ts';
import { notFound, Problem } from '../problem.ts';
import { EMPTY_PLAN } from '../../core/plan/plan.ts';
import {
  allBoards,
  boardOfPost,
  insertMemberPost,
  lastPosted,
  moderatorNames,
  pinnedPosts,
  postByKey,
  postsPage,
  setPinned,
  setSectionLimit,
  type BoardRow,
  type PostRow,
} from './store.ts';

const PAGE = 20;

/** A board with its rules as they stand for one person. */
export interface BoardForReader extends Board {
  groupId: number | null;
  sectionLimit: number;
  rules: BoardRules;
}

/** Every board with its rules as they stand for this person, in order; also those they may not see. */
export async function boardsFor(db: Database, actor: Actor): Promise<BoardForReader[]> {
  const [boards, moderators, now] = await Promise.all([allBoards(db), moderatorNames(db), circumstances(db)]);
  const ofBoards = boards.flatMap((board): Audience[] =>
    board.groupId === null ? [] : [{ kind: 'group', id: board.groupId }],
  );
  const person = (await factsOf(db, [actor.id], { kind: 'any', of: ofBoards }, now)).get(actor.id);
  const belongs = (board: BoardRow): boolean =>
    board.groupId === null || (!!person && includes({ kind: 'group', id: board.groupId }, person, now));
  const whose = (board: BoardRow): string => {
    if (board.groupId === null) return 'everybody';
    const group = now.groups.get(board.groupId);
    return group ? `${group.name} (${group.kind} group)` : 'a group that no longer exists';
  };
  return boards.map((board) => ({
    id: board.id,
    name: board.name,
    about: board.about,
    whose: whose(board),
    moderators: moderators.get(board.id) ?? [],
    groupId: board.groupId,
    sectionLimit: board.sectionLimit,
    rules: {
      id: board.id,
      name: board.name,
      posting: board.posting,
      belongs: belongs(board),
      moderatorNames: moderators.get(board.id) ?? [],
    },
  }));
}

const maySee = (actor: Actor, board: BoardForReader): boolean =>
  decide(actor, { kind: 'see board', board: board.rules }).outcome === 'allowed';

/** The boards this person may see. */
export async function listBoards(db: Database, actor: Actor): Promise<BoardListing[]> {
  const [boards, last] = await Promise.all([boardsFor(db, actor), lastPosted(db)]);
  return boards
    .filter((board) => maySee(actor, board))
    .map(({ rules, ...board }) => ({
      ...board,
      posting: decide(actor, { kind: 'post on board', board: rules }),
      lastMs: last.get(board.id) ?? null,
    }));
}

/** One board as this person may see it; a 404 problem alike where there is none and where it is not theirs. */
async function visibleBoard(db: Database, actor: Actor, id: number): Promise<BoardForReader> {
  const board = (await boardsFor(db, actor)).find((each) => each.id === id);
  if (!board || !maySee(actor, board)) throw notFound('board');
  return board;
}

function readable(post: PostRow, reader: Reader | null): Post {
  const { body } = post;
  const event = body.event && eventSpan(body.event);
  const fill = fillFor(reader && { ...reader, atMs: post.postedMs, eventMs: event?.startMs ?? null });
  const sections =
    post.parts > 1 ? (partsOf(body.sections, post.partSize)[post.part - 1] ?? []) : body.sections;
  const last = post.part >= post.parts;
  return {
    id: post.id,
    occurrenceId: post.occurrenceId,
    authorName: post.authorName,
    postedMs: post.postedMs,
    pinned: post.pinnedMs !== null,
    title: post.title,
    byline: post.byline,
    importance: post.importance,
    html: sectionsHtml(sections, fill, { kind: 'page', level: 4 }),
    button: last ? body.button : null,
    event: last ? body.event : null,
    part: post.parts > 1 ? { number: post.part, of: post.parts } : null,
    corrected: post.correctedMs === null ? null : { atMs: post.correctedMs, note: post.correction ?? '' },
  };
}

/** A board with what is pinned and a page of its posts, the latest first. */
export async function openBoard(
  db: Database,
  actor: Actor,
  id: number,
  before: { postedMs: number; id: number } | null,
): Promise<BoardPage> {
  const { rules, sectionLimit, ...board } = await visibleBoard(db, actor, id);
  const [pinned, found, reader] = await Promise.all([
    before ? [] : pinnedPosts(db, id),
    postsPage(db, id, before, PAGE + 1),
    readerById(db, actor.id),
  ]);
  const page = found.slice(0, PAGE);
  const last = page.at(-1);
  return {
    board,
    sectionLimit,
    postingRule: rules.posting,
    posting: decide(actor, { kind: 'post on board', board: rules }),
    pinning: decide(actor, { kind: 'pin on board', board: rules }),
    pinned: pinned.map((post) => readable(post, reader)),
    posts: page.map((post) => readable(post, reader)),
    next: found.length > PAGE && last ? { postedMs: last.postedMs, id: last.id } : null,
  };
}

/** Pins or unpins a post. Doing it twice is doing it once. */
export async function pin(db: Database, actor: Actor, postId: number, pinned: boolean): Promise<void> {
  const boardId = await boardOfPost(db, postId);
  if (boardId === undefined) throw notFound('post');
  const board = await visibleBoard(db, actor, boardId).catch(() => {
    throw notFound('post');
  });
  const decision = decide(actor, { kind: 'pin on board', board: board.rules });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  await transact(db, async (trx) => {
    if (!(await setPinned(trx, { id: postId, boardId }, pinned, actor.id))) return;
    await record(trx, {
      actorId: actor.id,
      action: pinned ? 'pin' : 'unpin',
      subject: 'post',
      subjectId: postId,
    });
    await publish(trx, [topics.board(boardId)]);
  });
}

export const memberPostSchema = z.object({
  title: draftContentSchema.shape.title,
  document: documentSchema,
});

/** Writes straight to a board, where the board's rules allow it. The same key posts once. */
export async function writePost(
  db: Database,
  actor: Actor,
  boardId: number,
  input: z.infer<typeof memberPostSchema>,
  key: string,
): Promise<number> {
  const board = await visibleBoard(db, actor, boardId);
  const decision = decide(actor, { kind: 'post on board', board: board.rules });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  const content = simpleContent(input.title, input.document);
  const errors = contentProblems(content);
  if (errors.length > 0) throw new Problem(422, 'The post cannot go up yet.', { errors });
  const known = await postByKey(db, actor.id, key);
  if (known !== undefined) return known;
  try {
    return await transact(db, async (trx) => {
      const announcementId = await insertAnnouncement(trx, actor.id, content, EMPTY_PLAN, 'committed');
      const versionId = await freezeVersion(trx, announcementId, actor.id, content, 'sent');
      const id = await insertMemberPost(trx, { boardId, versionId, authorId: actor.id, key });
      await record(trx, {
        actorId: actor.id,
        action: 'post',
        subject: 'board',
        subjectId: boardId,
        detail: { post: id },
      });
      await publish(trx, [topics.board(boardId)]);
      return id;
    });
  } catch (error) {
    const written = await postByKey(db, actor.id, key);
    if (written !== undefined) return written;
    throw error;
  }
}

/** Sets how many sections a post on this board has at most; what is longer stands in parts. */
export async function limitSections(db: Database, actor: Actor, id: number, limit: number): Promise<void> {
  const board = await visibleBoard(db, actor, id);
  const decision = decide(actor, { kind: 'pin on board', board: board.rules });
  if (decision.outcome === 'denied')
    throw new Problem(403, 'Only those who moderate this board change its settings.');
  await transact(db, async (trx) => {
    await setSectionLimit(trx, id, limit);
    await record(trx, {
      actorId: actor.id,
      action: 'limit sections',
      subject: 'board',
      subjectId: id,
      detail: { limit },
    });
    await publish(trx, [topics.board(id)]);
  });
}
