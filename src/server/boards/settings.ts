import type { z } from 'zod';
import { boardChangeWords } from '../../core/boards/changed.ts';
import { PRESETS } from '../../core/boards/switches.ts';
import type { BoardChange, newBoardSchema } from '../../core/boards/boardSchemas.ts';
import type { Switches } from '../../core/boards/switchesSchema.ts';
import { isReadable } from '../../core/audience/groups.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { linkSchema } from '../../core/content/linkSchema.ts';
import { countPeople, peopleAmong } from '../audience/store.ts';
import { deedsOnBoard, record } from '../audit/store.ts';
import { type Database, isDuplicate, transact } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { allGroups, changeGroup } from '../groups/store.ts';
import { namesOfPeople, personById } from '../people/store.ts';
import { placeOfBoard } from '../patterns/store.ts';
import { emit } from '../events/store.ts';
import { requireOfTheOrganisation } from '../people/guests.ts';
import { notFound, Problem } from '../problem.ts';
import { addressIn, unsigned } from '../uploads/address.ts';
import { requireOwnUploads } from '../uploads/service.ts';
import {
  allBoards,
  changeBoard,
  insertBoard,
  linksOf,
  orderBoards,
  replaceLinks,
  setModerator,
} from './store.ts';
import { FEW, switchesOf, visibleBoard, requireOnBoard, type BoardForReader } from './service.ts';

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
  /** Whether linked contacts of its readers may read it by a link of their own. */
  contactsRead: boolean;
  owner: { id: number; name: string } | null;
  moderators: { id: number; name: string; owner: boolean }[];
  links: { label: string; url: string }[];
  /** Null where this person may change them; else the reason why not. */
  denied: string | null;
  /** The place from a pattern that it is of, for coordinators; null where it is of none. */
  made: { id: number; pattern: string; behind: boolean } | null;
  /** The groups it could belong to, for those who may change that. */
  groups: { id: number; name: string; kind: 'live' | 'fixed' }[];
  /** What was done here, for those who moderate. */
  deeds: { atMs: number; actor: string | null; action: string; changes: string[] }[];
}

export async function boardSettings(db: Database, actor: Actor, id: number): Promise<BoardSettings> {
  const board = await visibleBoard(db, actor, id);
  const decision = decide(actor, { kind: 'on board', permission: 'change settings', board: board.rules });
  const may = decision.outcome === 'allowed';
  const [links, now, deeds, names, made] = await Promise.all([
    linksOf(db, id),
    audienceContext(db),
    may ? deedsOnBoard(db, id) : [],
    namesOfPeople(db, board.rules.ownerId === null ? [] : [board.rules.ownerId]),
    actor.role === 'coordinator' ? placeOfBoard(db, id) : undefined,
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
    contactsRead: board.contactsRead,
    owner:
      board.rules.ownerId === null
        ? null
        : { id: board.rules.ownerId, name: names.get(board.rules.ownerId) ?? '' },
    moderators: board.moderatorRows.map(({ personId, name, owner }) => ({ id: personId, name, owner })),
    links: links.map(({ label, url }) => ({ label, url: addressIn('board', id)(url) })),
    denied: decision.outcome === 'allowed' ? null : decision.reason,
    made: made ?? null,
    groups:
      actor.role === 'coordinator'
        ? [...now.groups.values()]
            .filter((group) => !group.archived || group.id === board.groupId)
            .map((group) => ({ id: group.id, name: group.name, kind: group.kind }))
        : [],
    deeds: deeds.map(({ detail, ...deed }) => ({ ...deed, changes: changesOf(detail) })),
  };
}

/** From what to what, as far as an entry of the trail says. */
function changesOf(detail: string | null): string[] {
  if (detail === null) return [];
  const read = JSON.parse(detail) as Record<string, unknown>;
  const { was, ...now } = read;
  return typeof was === 'object' && was !== null ? boardChangeWords(now, was as Record<string, unknown>) : [];
}

const nameTaken = (error: unknown): never => {
  if (isDuplicate(error))
    throw new Problem(422, 'There is a board of this name already.', {
      errors: [{ field: 'name', detail: 'There is a board of this name already. Choose another.' }],
    });
  throw error;
};

function requireGroup(now: AudienceContext, groupId: number | null | undefined): void {
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
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, 'Only a coordinator makes boards.');
  const now = await audienceContext(db);
  requireGroup(now, input.groupId);
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
    await emit(trx, 'board.made', { board: id });
    return id;
  });
}

/** Changes what is given of a board. Whose place it is and who owns it only a coordinator changes. */
export async function changeBoardSettings(
  db: Database,
  actor: Actor,
  id: number,
  given: BoardChange,
): Promise<void> {
  const board = await visibleBoard(db, actor, id);
  requireOnBoard(actor, 'change settings', board);
  if (
    [given.groupId, given.ownerId, given.contactsRead].some((each) => each !== undefined) &&
    actor.role !== 'coordinator'
  )
    throw new Problem(
      403,
      'Whose place it is, who owns it, and whether linked contacts read it, only a coordinator changes.',
    );
  requireGroup(await audienceContext(db), given.groupId);
  if (typeof given.ownerId === 'number') {
    const owner = await personById(db, given.ownerId);
    if (!owner || owner.standing === 'left')
      throw new Problem(422, 'There is no such person.', {
        errors: [{ field: 'ownerId', detail: 'There is no such person here. Choose somebody else.' }],
      });
  }
  const outside = given.groupId === undefined ? [] : await moderatorsOutside(db, board, given.groupId);
  await transact(db, async (trx) => {
    await changeBoard(trx, id, given).catch(nameTaken);
    if (given.name !== undefined) await renameSessionGroup(trx, board, given.name);
    for (const person of outside) {
      if (!(await setModerator(trx, id, person.id, false))) continue;
      await record(trx, {
        actorId: actor.id,
        action: 'dismiss moderator',
        subject: 'board',
        subjectId: id,
        detail: { person: person.id },
      });
      await emit(trx, 'moderator.changed', { board: id, person: person.id, appointed: false });
    }
    await record(trx, {
      actorId: actor.id,
      action: given.archived === undefined ? 'settle' : given.archived ? 'archive' : 'restore',
      subject: 'board',
      subjectId: id,
      detail: { ...given, was: valuesBefore(board, given) },
    });
    await emit(trx, 'board.changed', { board: id });
  });
}

/** A session's board keeps the name of its group, which is of those who come to it, the same as its own. */
async function renameSessionGroup(db: Database, board: BoardForReader, name: string): Promise<void> {
  const { sessionOf = null, dateOf = null } =
    (await allBoards(db)).find((each) => each.id === board.id) ?? {};
  if ((sessionOf === null && dateOf === null) || board.groupId === null) return;
  const group = (await allGroups(db)).find((each) => each.id === board.groupId);
  if (group?.name === board.name) await changeGroup(db, group.id, { name }).catch(nameTaken);
}

/** Those who moderate a board without owning it, are no coordinators, and would not be in a group it is given to. */
async function moderatorsOutside(
  db: Database,
  board: BoardForReader,
  groupId: number | null,
): Promise<{ id: number; name: string }[]> {
  const now = await audienceContext(db);
  if (groupId === null || !isReadable({ kind: 'group', id: groupId }, now)) return [];
  const asked = board.moderatorRows.filter((row) => !row.owner);
  const within = await peopleAmong(
    db,
    asked.map((row) => row.personId),
    {
      kind: 'any',
      of: [
        { kind: 'group', id: groupId },
        { kind: 'role', role: 'coordinator' },
      ],
    },
    now,
  );
  return asked
    .filter((row) => !within.has(row.personId))
    .map(({ personId, name }) => ({ id: personId, name }));
}

/** What giving a board to a group, or to everybody, would mean: how many can read it then, and who would not moderate it any more. */
export async function placeFor(
  db: Database,
  actor: Actor,
  id: number,
  groupId: number | null,
): Promise<{ people: number; outside: string[] }> {
  const board = await visibleBoard(db, actor, id);
  requireOnBoard(actor, 'change settings', board);
  const now = await audienceContext(db);
  requireGroup(now, groupId);
  const [people, outside] = await Promise.all([
    countPeople(db, groupId === null ? { kind: 'everyone' } : { kind: 'group', id: groupId }, now),
    moderatorsOutside(db, board, groupId),
  ]);
  return { people, outside: outside.map((person) => person.name) };
}

/** What stood where something is changed, of what can be told from what to what. */
function valuesBefore(board: BoardForReader, given: BoardChange): Record<string, unknown> {
  const before: Record<string, unknown> = {
    ...switchesOf(board.rules),
    name: board.name,
    about: board.about,
    sectionLimit: board.sectionLimit,
    pinLimit: board.pinLimit,
  };
  return Object.fromEntries(
    Object.keys(given).flatMap((name) => (name in before ? [[name, before[name]]] : [])),
  );
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
  requireOnBoard(actor, 'change settings', board);
  if (!appointed && board.rules.ownerId === personId)
    throw new Problem(422, 'The owner of a board always moderates it. Give the board another owner first.');
  const person = appointed ? await personById(db, personId) : undefined;
  if (appointed && (!person || person.standing === 'left')) throw notFound('person');
  if (person) requireOfTheOrganisation(person);
  await transact(db, async (trx) => {
    if (!(await setModerator(trx, id, personId, appointed))) return;
    await record(trx, {
      actorId: actor.id,
      action: appointed ? 'appoint moderator' : 'dismiss moderator',
      subject: 'board',
      subjectId: id,
      detail: { person: personId },
    });
    await emit(trx, 'moderator.changed', { board: id, person: personId, appointed });
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
  requireOnBoard(actor, 'change settings', board);
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
    await emit(trx, 'board.changed', { board: id });
  });
}

/** Sets the order in which boards are listed. */
export async function arrangeBoards(db: Database, actor: Actor, ids: readonly number[]): Promise<void> {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  await transact(db, async (trx) => {
    await orderBoards(trx, ids);
    await record(trx, { actorId: actor.id, action: 'arrange boards', subject: 'organisation', subjectId: 1 });
  });
}
