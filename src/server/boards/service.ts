import type { z } from 'zod';
import type { BoardListing, BoardPage } from '../../core/boards/board.ts';
import { PRESETS, type BoardChange, type newBoardSchema, type Switches } from '../../core/boards/switches.ts';
import type { Audience } from '../../core/audience/expression.ts';
import { isReadable } from '../../core/audience/groups.ts';
import { includes, type Circumstances } from '../../core/audience/includes.ts';
import type { Board } from '../../core/boards/board.ts';
import { decide, moderates, type Actor, type BoardDeed, type BoardRules } from '../../core/rights/decide.ts';
import { linkSchema } from '../../core/content/link.ts';
import { excerpt } from '../../core/content/text.ts';
import { countPeople, factsOf, isIn } from '../audience/store.ts';
import type { Sql } from '../audience/sql.ts';
import { deedsOnBoard, record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { circumstances } from '../groups/directory.ts';
import { namesOfPeople, peopleNamedAmong, personById } from '../people/store.ts';
import { publish } from '../outbox/store.ts';
import { topics } from '../outbox/topics.ts';
import {
  heldPosts,
  openReports,
  ownNotUp,
  pinnedPosts,
  postsPage,
  readInInbox,
  unreadOn,
} from '../posts/store.ts';
import { readPosts } from '../posts/readable.ts';
import { notFound, Problem } from '../problem.ts';
import { addressIn, unsigned } from '../uploads/address.ts';
import { requireOwnUploads } from '../uploads/service.ts';

import {
  allBoards,
  allModerators,
  changeBoard,
  followsOf,
  insertBoard,
  lastPosted,
  linksOf,
  markSeen,
  orderBoards,
  replaceLinks,
  setFollow,
  setModerator,
  waitingOn,
  type BoardRow,
  type ModeratorRow,
} from './store.ts';

const PAGE = 20;
/** Fewer than this on a board know each other, and what they say there is not passed on unless its settings say so. */
const FEW = 20;

/** A board with its rules as they stand for one person. */
export interface BoardForReader extends Board {
  groupId: number | null;
  sectionLimit: number;
  pinLimit: number;
  takesThanks: boolean;
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
  const [boards, moderators, now] = await Promise.all([allBoards(db), allModerators(db), circumstances(db)]);
  const ofBoards = boards.flatMap((board): Audience[] =>
    board.groupId === null ? [] : [{ kind: 'group', id: board.groupId }],
  );
  const person = (await factsOf(db, [actor.id], { kind: 'any', of: ofBoards }, now)).get(actor.id);
  // Who is in a group whose rule cannot be read is not known: only those who moderate its board see it meanwhile.
  const belongs = (board: BoardRow): boolean =>
    board.groupId === null ||
    (!!person &&
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
export function seersOf(board: { id: number; groupId: number | null }, now: Circumstances): Sql {
  if (board.groupId === null) return { sql: "p.standing <> 'left' AND p.linked_to IS NULL", bindings: [] };
  const audience: Audience = { kind: 'group', id: board.groupId };
  const group = isReadable(audience, now) ? isIn(audience, now) : { sql: 'FALSE', bindings: [] };
  return {
    sql: `p.standing <> 'left' AND p.linked_to IS NULL AND (p.role = 'coordinator' OR (${group.sql})
      OR p.id IN (SELECT m.person_id FROM board_moderators m WHERE m.board_id = ?)
      OR p.id IN (SELECT b.owner_id FROM boards b WHERE b.id = ? AND b.owner_id IS NOT NULL))`,
    bindings: [...group.bindings, board.id, board.id],
  };
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
    ),
  ]);
  return boards.map((board) => ({
    id: board.id,
    name: board.name,
    about: board.about,
    whose: board.whose,
    moderators: board.moderators,
    archived: board.archived,
    posting: decide(actor, { kind: 'on board', deed: 'post', board: board.rules }),
    lastMs: last.get(board.id) ?? null,
    unread: unread.get(board.id) ?? 0,
    muted: follows.get(board.id) === 'mute',
    waiting: waiting.get(board.id) ?? 0,
  }));
}

/** One board as this person may see it; a 404 problem alike where there is none and where it is not theirs. */
export async function visibleBoard(db: Database, actor: Actor, id: number): Promise<BoardForReader> {
  const board = (await boardsFor(db, actor)).find((each) => each.id === id);
  if (!board || !maySee(actor, board)) throw notFound('board');
  return board;
}

/** Refuses with the reason where somebody may not do something on a board; says whether it is held. */
export function demandOnBoard(actor: Actor, deed: BoardDeed, board: BoardForReader): { held: boolean } {
  const decision = decide(actor, { kind: 'on board', deed, board: board.rules });
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
  const now = await circumstances(db);
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
  before: { postedMs: number; id: number } | null,
): Promise<BoardPage> {
  const { rules, pinLimit, takesThanks, ...board } = await visibleBoard(db, actor, id);
  const may = (deed: BoardDeed) => decide(actor, { kind: 'on board', deed, board: rules });
  const moderating = moderates(actor, rules);
  const [pinned, found, queue, reports, links, follows] = await Promise.all([
    before ? [] : pinnedPosts(db, id),
    postsPage(db, id, before, PAGE + 1),
    before ? [] : moderating ? heldPosts(db, id) : ownNotUp(db, id, actor.id),
    before || !moderating ? [] : openReports(db, id),
    before ? [] : linksOf(db, id),
    followsOf(db, actor.id, 'board', [id]),
  ]);
  const page = found.slice(0, PAGE);
  const last = page.at(-1);
  const seen = await boardsSeenBy(db, actor);
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
    next: found.length > PAGE && last ? { postedMs: last.postedMs, id: last.id } : null,
  };
}

/** Notes how far somebody has seen a board, and what of that lies in their inbox as read there. */
export async function seeBoard(db: Database, actor: Actor, id: number, toMs: number): Promise<void> {
  await visibleBoard(db, actor, id);
  await transact(db, async (trx) => {
    if (!(await markSeen(trx, actor.id, id, toMs))) return;
    await readInInbox(trx, actor.id, id, toMs);
    await publish(trx, [topics.person(actor.id)]);
  });
}

/** Follows or mutes a board, or neither. */
export async function followBoard(
  db: Database,
  actor: Actor,
  id: number,
  choice: 'follow' | 'mute' | null,
): Promise<void> {
  await visibleBoard(db, actor, id);
  await transact(db, async (trx) => {
    await setFollow(trx, actor.id, 'board', id, choice);
    await publish(trx, [topics.person(actor.id)]);
  });
}

/** What a board's settings say, for anybody who may see it; whether they may change them. */
export interface BoardSettings {
  id: number;
  name: string;
  about: string;
  groupId: number | null;
  whose: string;
  archived: boolean;
  switches: Switches;
  sectionLimit: number;
  pinLimit: number;
  owner: { id: number; name: string } | null;
  moderators: { id: number; name: string; owner: boolean }[];
  links: { label: string; url: string }[];
  /** Null where this person may change them; else the reason why not. */
  denied: string | null;
  /** The groups it could belong to, for those who may change that. */
  groups: { id: number; name: string; kind: 'live' | 'fixed' }[];
  /** What was done here, for those who moderate. */
  deeds: { atMs: number; actor: string | null; action: string }[];
}

export async function boardSettings(db: Database, actor: Actor, id: number): Promise<BoardSettings> {
  const board = await visibleBoard(db, actor, id);
  const decision = decide(actor, { kind: 'on board', deed: 'settle', board: board.rules });
  const may = decision.outcome === 'allowed';
  const [links, now, deeds, names] = await Promise.all([
    linksOf(db, id),
    circumstances(db),
    may ? deedsOnBoard(db, id) : [],
    namesOfPeople(db, board.rules.ownerId === null ? [] : [board.rules.ownerId]),
  ]);
  return {
    id,
    name: board.name,
    about: board.about,
    groupId: board.groupId,
    whose: board.whose,
    archived: board.archived,
    switches: switchesOf(board.rules),
    sectionLimit: board.sectionLimit,
    pinLimit: board.pinLimit,
    owner:
      board.rules.ownerId === null
        ? null
        : { id: board.rules.ownerId, name: names.get(board.rules.ownerId) ?? '' },
    moderators: board.moderatorRows.map(({ personId, name, owner }) => ({ id: personId, name, owner })),
    links: links.map(({ label, url }) => ({ label, url: addressIn('board', id)(url) })),
    denied: decision.outcome === 'allowed' ? null : decision.reason,
    groups:
      actor.role === 'coordinator'
        ? [...now.groups.values()].map((group) => ({ id: group.id, name: group.name, kind: group.kind }))
        : [],
    deeds,
  };
}

const nameTaken = (error: unknown): never => {
  if (error instanceof Error && 'errno' in error && error.errno === 1062)
    throw new Problem(422, 'There is a board of this name already.', {
      errors: [{ field: 'name', detail: 'There is a board of this name already. Choose another.' }],
    });
  throw error;
};

function demandGroup(now: Circumstances, groupId: number | null | undefined): void {
  if (typeof groupId === 'number' && !now.groups.has(groupId))
    throw new Problem(422, 'There is no such group.', {
      errors: [{ field: 'groupId', detail: 'There is no such group. Choose one from the list.' }],
    });
}

/** Makes a board from a purpose; whoever makes it owns it. Only coordinators. */
export async function makeBoard(
  db: Database,
  actor: Actor,
  input: z.infer<typeof newBoardSchema>,
): Promise<number> {
  const decision = decide(actor, { kind: 'look after the house' });
  if (decision.outcome === 'denied') throw new Problem(403, 'Only a coordinator makes boards.');
  const now = await circumstances(db);
  demandGroup(now, input.groupId);
  const { switches: preset } = PRESETS[input.purpose];
  // What is said among few is not passed on, unless they choose otherwise.
  const few =
    input.groupId !== null &&
    isReadable({ kind: 'group', id: input.groupId }, now) &&
    (await countPeople(db, { kind: 'group', id: input.groupId }, now)) < FEW;
  const switches = { ...preset, passing: preset.passing && !few };
  return transact(db, async (trx) => {
    const id = await insertBoard(trx, {
      name: input.name,
      about: input.about,
      groupId: input.groupId,
      ...switches,
      ownerId: actor.id,
    }).catch(nameTaken);
    await record(trx, { actorId: actor.id, action: 'make', subject: 'board', subjectId: id });
    await publish(trx, [topics.desk, topics.board(id)]);
    return id;
  });
}

/** Changes what is given of a board. Whose place it is and who owns it only a coordinator changes. */
export async function settleBoard(db: Database, actor: Actor, id: number, given: BoardChange): Promise<void> {
  const board = await visibleBoard(db, actor, id);
  demandOnBoard(actor, 'settle', board);
  if ((given.groupId !== undefined || given.ownerId !== undefined) && actor.role !== 'coordinator')
    throw new Problem(403, 'Whose place it is, and who owns it, only a coordinator changes.');
  demandGroup(await circumstances(db), given.groupId);
  if (typeof given.ownerId === 'number') {
    const owner = await personById(db, given.ownerId);
    if (!owner || owner.standing === 'left')
      throw new Problem(422, 'There is no such person.', {
        errors: [{ field: 'ownerId', detail: 'There is no such person here. Choose somebody else.' }],
      });
  }
  await transact(db, async (trx) => {
    await changeBoard(trx, id, given).catch(nameTaken);
    await record(trx, {
      actorId: actor.id,
      action: given.archived === undefined ? 'settle' : given.archived ? 'archive' : 'restore',
      subject: 'board',
      subjectId: id,
      detail: given,
    });
    await publish(trx, [topics.board(id), topics.desk]);
  });
}

/** Makes somebody a moderator of a board, or takes that back. An owner moderates always. */
export async function appointModerator(
  db: Database,
  actor: Actor,
  id: number,
  personId: number,
  appointed: boolean,
): Promise<void> {
  const board = await visibleBoard(db, actor, id);
  demandOnBoard(actor, 'settle', board);
  if (!appointed && board.rules.ownerId === personId)
    throw new Problem(422, 'The owner of a board always moderates it. Give the board another owner first.');
  const person = appointed ? await personById(db, personId) : undefined;
  if (appointed && (!person || person.standing === 'left')) throw notFound('person');
  await transact(db, async (trx) => {
    if (!(await setModerator(trx, id, personId, appointed))) return;
    await record(trx, {
      actorId: actor.id,
      action: appointed ? 'appoint moderator' : 'dismiss moderator',
      subject: 'board',
      subjectId: id,
      detail: { person: personId },
    });
    await publish(trx, [topics.board(id), topics.person(personId)]);
  });
}

/** Puts key links and files beside what is pinned. */
export async function placeLinks(
  db: Database,
  actor: Actor,
  id: number,
  links: readonly { label: string; url: string }[],
): Promise<void> {
  const board = await visibleBoard(db, actor, id);
  demandOnBoard(actor, 'settle', board);
  links.forEach(({ url }, i) => {
    if (!/^\/files\/[A-Za-z0-9_-]{22}\//.test(unsigned(url)) && !linkSchema.safeParse(url).success) {
      const detail = 'A link begins with https://, http://, mailto: or tel:.';
      throw new Problem(422, detail, { errors: [{ field: `links.${i}.url`, detail }] });
    }
  });
  const before = (await linksOf(db, id)).map((link) => link.url).join(' ');
  await requireOwnUploads(
    db,
    actor,
    links.flatMap(({ url }) => {
      const key = /^\/files\/([A-Za-z0-9_-]{22})\//.exec(url)?.[1];
      return key === undefined ? [] : [{ key }];
    }),
    before,
  );
  await transact(db, async (trx) => {
    await replaceLinks(
      trx,
      id,
      links.map(({ label, url }) => ({ label, url: unsigned(url) })),
    );
    await record(trx, { actorId: actor.id, action: 'place links', subject: 'board', subjectId: id });
    await publish(trx, [topics.board(id)]);
  });
}

/** Sets the order in which boards are listed. */
export async function arrangeBoards(db: Database, actor: Actor, ids: readonly number[]): Promise<void> {
  const decision = decide(actor, { kind: 'look after the house' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  await transact(db, async (trx) => {
    await orderBoards(trx, ids);
    await record(trx, { actorId: actor.id, action: 'arrange boards', subject: 'organisation', subjectId: 1 });
  });
}

/** People who may see a board and whose name holds some letters, for calling on them there. */
export async function callableOn(
  db: Database,
  actor: Actor,
  id: number,
  letters: string,
): Promise<{ kind: 'person' | 'everybody'; id: number; name: string; detail: string }[]> {
  const board = await visibleBoard(db, actor, id);
  const text = letters.trim();
  const now = await circumstances(db);
  const people = await peopleNamedAmong(db, seersOf(board, now), text, 8);
  const all = decide(actor, { kind: 'on board', deed: 'mention everybody', board: board.rules });
  const everybody = `everybody on ${board.name}`;
  return [
    ...(all.outcome === 'allowed' && everybody.toLowerCase().includes(text.toLowerCase())
      ? [
          {
            kind: 'everybody' as const,
            id,
            name: everybody,
            detail: `calls ${(await reachOf(db, actor, id)).people.toLocaleString('en-GB')}`,
          },
        ]
      : []),
    ...people.map((person) => ({
      kind: 'person' as const,
      id: person.id,
      name: person.name,
      detail: person.station ?? '',
    })),
  ];
}
