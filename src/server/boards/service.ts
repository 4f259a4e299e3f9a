import type { BoardFollowing, BoardListing, BoardPage, Board } from '../../core/boards/board.ts';
import type { BoardMembersPage, BoardView } from '../../core/boards/reading.ts';
import type { ReadOnBoard } from '../../core/boards/readingSchema.ts';
import type { Switches } from '../../core/boards/switchesSchema.ts';
import type { Audience } from '../../core/audience/expression.ts';
import { endOfDate } from '../../core/timing/day.ts';
import { isReadable } from '../../core/audience/groups.ts';
import { includes, type AudienceContext } from '../../core/audience/includes.ts';
import {
  decide,
  moderates,
  type Actor,
  type BoardPermission,
  type BoardRules,
} from '../../core/rights/decide.ts';
import { excerpt } from '../../core/content/text.ts';
import { countPeople, factsOf, isIn } from '../audience/store.ts';
import type { Sql } from '../audience/sql.ts';
import { transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { whichHold } from '../groups/memberStore.ts';
import { emit } from '../events/store.ts';
import { heldPosts, ownNotUp, pinnedPosts, postsPage } from '../posts/store.ts';
import { markRead, readInInbox, unreadOn } from '../posts/readStore.ts';
import { openReports } from '../posts/reportStore.ts';
import { readPosts } from '../posts/readable.ts';
import { notFound, Problem } from '../problem.ts';
import { addressIn } from '../uploads/address.ts';
import { boardMembersPage } from './memberStore.ts';
import {
  allBoards,
  allModerators,
  followsOf,
  lastPosted,
  linksOf,
  markSeen,
  setFollow,
  waitingOn,
  type BoardRow,
  type ModeratorRow,
} from './store.ts';

const PAGE = 20;
const MEMBERS = 50;
/** Fewer than this on a board know each other, and what they say there is not passed on unless its settings say so. */
export const FEW = 20;

/** A board with its rules as they stand for one person. */
export interface BoardForReader extends Board {
  groupId: number | null;
  sectionLimit: number;
  pinLimit: number;
  takesThanks: boolean;
  contactsRead: boolean;
  rules: BoardRules;
  moderatorRows: ModeratorRow[];
}

/** A board's switches, and nothing else of its rules. */
export const switchesOf = (rules: Switches): Switches => ({
  posting: rules.posting,
  replying: rules.replying,
  reacting: rules.reacting,
  pinning: rules.pinning,
  mentioning: rules.mentioning,
  automations: rules.automations,
  gateways: rules.gateways,
  warns: rules.warns,
  passing: rules.passing,
});

/** Every board with its rules as they stand for this person, in order; also those they may not see. */
export async function boardsFor(db: Database, actor: Actor): Promise<BoardForReader[]> {
  const [boards, moderators, now] = await Promise.all([
    allBoards(db),
    allModerators(db),
    audienceContext(db),
  ]);
  const ofBoards = boards.flatMap((board): Audience[] =>
    board.groupId === null ? [] : [{ kind: 'group', id: board.groupId }],
  );
  const person = (await factsOf(db, [actor.id], { kind: 'any', of: ofBoards }, now)).get(actor.id);
  // Who is in a group whose rule cannot be read is not known: only those who moderate its board see it meanwhile.
  const belongs = (board: BoardRow): boolean =>
    (board.groupId === null && !actor.guest) ||
    (board.groupId !== null &&
      !!person &&
      isReadable({ kind: 'group', id: board.groupId }, now) &&
      includes({ kind: 'group', id: board.groupId }, person, now));
  const whose = (board: BoardRow): string => {
    if (board.groupId === null) return 'everybody';
    const group = now.groups.get(board.groupId);
    return group ? `${group.name} (${group.kind} group)` : 'a group that no longer exists';
  };
  return boards.map((board) => {
    const moderatorRows = moderators.filter((each) => each.boardId === board.id);
    const moderatorNames = moderatorRows.map((each) => each.name);
    return {
      id: board.id,
      name: board.name,
      about: board.about,
      whose: whose(board),
      moderators: moderatorNames,
      archived: board.archived,
      groupId: board.groupId,
      sectionLimit: board.sectionLimit,
      pinLimit: board.pinLimit,
      takesThanks: board.takesThanks,
      contactsRead: board.contactsRead,
      moderatorRows,
      rules: {
        ...switchesOf(board),
        id: board.id,
        name: board.name,
        belongs: belongs(board),
        moderatorNames,
        ownerId: board.ownerId,
        archived: board.archived,
      },
    };
  });
}

const maySee = (actor: Actor, board: BoardForReader): boolean =>
  decide(actor, { kind: 'see board', board: board.rules }).outcome === 'allowed';

/** The boards this person may see, without what else is told of them. */
export const boardsSeenBy = async (db: Database, actor: Actor): Promise<BoardForReader[]> =>
  (await boardsFor(db, actor)).filter((board) => maySee(actor, board));

/** Who may see a board, as a condition over `people p`. */
export function seersOf(board: { id: number; groupId: number | null }, now: AudienceContext): Sql {
  const audience: Audience =
    board.groupId === null ? { kind: 'everyone' } : { kind: 'group', id: board.groupId };
  const group = isReadable(audience, now) ? isIn(audience, now) : { sql: 'FALSE', bindings: [] };
  return {
    sql: `p.standing <> 'left' AND p.linked_to IS NULL AND (p.role = 'coordinator' OR (${group.sql})
      OR p.id IN (SELECT m.person_id FROM board_moderators m WHERE m.board_id = ?)
      OR p.id IN (SELECT b.owner_id FROM boards b WHERE b.id = ? AND b.owner_id IS NOT NULL))`,
    bindings: [...group.bindings, board.id, board.id],
  };
}

/** Whether somebody may see any of some boards. */
export async function isOnAny(
  db: Database,
  personId: number,
  boards: readonly BoardForReader[],
): Promise<boolean> {
  if (boards.length === 0) return false;
  const now = await audienceContext(db);
  const holds = await whichHold(
    db,
    personId,
    boards.map((board) => seersOf(board, now)),
  );
  return holds.some(Boolean);
}

/** The boards this person may see, with what is new on each. */
export async function listBoards(db: Database, actor: Actor): Promise<BoardListing[]> {
  const boards = await boardsSeenBy(db, actor);
  const ids = boards.map((board) => board.id);
  const [last, unread, follows, waiting] = await Promise.all([
    lastPosted(db),
    unreadOn(
      db,
      actor.id,
      boards.filter((board) => !board.archived).map((board) => board.id),
    ),
    followsOf(db, actor.id, 'board', ids),
    waitingOn(
      db,
      boards.filter((board) => moderates(actor, board.rules)).map((board) => board.id),
      actor.id,
    ),
  ]);
  return boards.map((board) => ({
    id: board.id,
    name: board.name,
    about: board.about,
    whose: board.whose,
    moderators: board.moderators,
    archived: board.archived,
    posting: decide(actor, { kind: 'on board', permission: 'post', board: board.rules }),
    latest: last.get(board.id) ?? null,
    unread: unread.get(board.id) ?? 0,
    muted: follows.get(board.id) === 'mute',
    hidden: follows.get(board.id) === 'hide',
    waiting: waiting.get(board.id) ?? 0,
  }));
}

/** One board as this person may see it; a 404 problem alike where there is none and where it is not theirs. */
export const visibleBoard = async (db: Database, actor: Actor, id: number): Promise<BoardForReader> =>
  (await boardAmong(db, actor, id)).board;

/** One board as `visibleBoard` gives it, and all that this person may see, itself among them. */
export async function boardAmong(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ board: BoardForReader; seen: BoardForReader[] }> {
  const seen = await boardsSeenBy(db, actor);
  const board = seen.find((each) => each.id === id);
  if (!board) throw notFound('board');
  return { board, seen };
}

/** Refuses with the reason where somebody may not do something on a board; says whether it is held. */
export function requireOnBoard(
  actor: Actor,
  permission: BoardPermission,
  board: BoardForReader,
): { held: boolean } {
  const decision = decide(actor, { kind: 'on board', permission, board: board.rules });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  return { held: decision.outcome === 'held' };
}

/** How many a post on a board reaches, and who they are. */
export async function reachOf(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ people: number; whom: string }> {
  const board = await visibleBoard(db, actor, id);
  const now = await audienceContext(db);
  const group = board.groupId === null ? undefined : now.groups.get(board.groupId);
  return {
    people: await countPeople(
      db,
      board.groupId === null ? { kind: 'everyone' } : { kind: 'group', id: board.groupId },
      now,
    ),
    whom: group?.name ?? 'everybody',
  };
}

/** A board with what is pinned and a page of its posts, the latest first. */
export async function openBoard(
  db: Database,
  actor: Actor,
  id: number,
  view: BoardView = {},
  zone = 'UTC',
): Promise<BoardPage> {
  const before = beginningOf(view, zone);
  const first = view.id === undefined;
  const {
    board: { rules, pinLimit, takesThanks, ...board },
    seen,
  } = await boardAmong(db, actor, id);
  const may = (permission: BoardPermission) => decide(actor, { kind: 'on board', permission, board: rules });
  const moderating = moderates(actor, rules);
  const [pinned, found, queue, reports, links, follows, unread] = await Promise.all([
    first ? pinnedPosts(db, id) : [],
    postsPage(db, id, before, PAGE + 1, view.only === 'unread' ? actor.id : null),
    !first ? [] : moderating ? heldPosts(db, id) : ownNotUp(db, id, actor.id),
    first && moderating ? openReports(db, id, actor.id) : [],
    first ? linksOf(db, id) : [],
    followsOf(db, actor.id, 'board', [id]),
    first ? unreadOn(db, actor.id, [id]) : new Map<number, number>(),
  ]);
  const page = found.slice(0, PAGE);
  const last = page.at(-1);
  const read = await readPosts(
    db,
    actor,
    [...pinned, ...page, ...queue],
    new Map(seen.map((each) => [each.id, each.name])),
  );
  return {
    board: {
      id: board.id,
      name: board.name,
      about: board.about,
      whose: board.whose,
      moderators: board.moderators,
      archived: board.archived,
    },
    switches: switchesOf(rules),
    posting: may('post'),
    replying: may('reply'),
    reacting: may('react').outcome === 'allowed',
    pinning: may('pin'),
    moderating,
    mentioning: may('mention everybody'),
    pinLimit,
    takesThanks,
    pinned: read.slice(0, pinned.length),
    links: links.map((link) => ({ ...link, url: addressIn('board', id)(link.url) })),
    posts: read.slice(pinned.length, pinned.length + page.length),
    queue: read.slice(pinned.length + page.length),
    reports: reports.map(({ document, ...report }) => ({
      ...report,
      excerpt:
        document === null
          ? ''
          : excerpt([
              { heading: '', document: JSON.parse(document) as Parameters<typeof excerpt>[0][0]['document'] },
            ]),
    })),
    following: follows.get(id) ?? null,
    unread: unread.get(id) ?? 0,
    next: found.length > PAGE && last ? { postedMs: last.postedMs, id: last.id } : null,
  };
}

/** Where a view of a board begins: after a post, or at the end of a day on its reader's clock; null for the latest. */
function beginningOf(view: BoardView, zone: string): { postedMs: number; id: number } | null {
  if (view.id !== undefined && view.postedMs !== undefined) return { postedMs: view.postedMs, id: view.id };
  if (view.until === undefined) return null;
  return { postedMs: endOfDate(view.until, zone), id: Number.MAX_SAFE_INTEGER };
}

/** Notes what somebody has read on a board, and what of that lies in their inbox as read there. */
export async function readOnBoard(db: Database, actor: Actor, id: number, read: ReadOnBoard): Promise<void> {
  await visibleBoard(db, actor, id);
  await transact(db, async (trx) => {
    if ('posts' in read) {
      if ((await markRead(trx, actor.id, id, read.posts)) === 0) return;
    } else {
      if (!(await markSeen(trx, actor.id, id, read.toMs))) return;
      await readInInbox(trx, actor.id, id, read.toMs);
    }
    await emit(trx, 'board.seen', { board: id, person: actor.id });
  });
}

/** Follows or mutes a board, puts it out of sight, or none of these. */
export async function followBoard(
  db: Database,
  actor: Actor,
  id: number,
  choice: BoardFollowing | null,
): Promise<void> {
  await visibleBoard(db, actor, id);
  await transact(db, async (trx) => {
    await setFollow(trx, actor.id, 'board', id, choice);
    await emit(trx, 'board.seen', { board: id, person: actor.id });
  });
}

/** Who belongs to a board or looks after it, by name, for whoever may see it. */
export async function membersOfBoard(
  db: Database,
  actor: Actor,
  id: number,
  letters: string,
  after: { name: string; id: number } | null,
): Promise<BoardMembersPage> {
  const board = await visibleBoard(db, actor, id);
  const now = await audienceContext(db);
  const audience: Audience =
    board.groupId === null ? { kind: 'everyone' } : { kind: 'group', id: board.groupId };
  const belongs = isReadable(audience, now) ? isIn(audience, now) : { sql: 'FALSE', bindings: [] };
  return boardMembersPage(db, id, belongs, letters, after, MEMBERS);
}
