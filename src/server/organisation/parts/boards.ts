import { z } from 'zod';
import { freeName, sameName } from '../../../core/organisation/parts.ts';
import { aboutSchema } from '../../../core/boards/boardSchemas.ts';
import { BOARD_SETTINGS } from '../../../core/boards/switches.ts';
import { switchesSchema } from '../../../core/boards/switchesSchema.ts';
import { count } from '../../../core/words.ts';
import { appointModerator, makeBoard, placeLinks, changeBoardSettings } from '../../boards/settings.ts';
import { allBoards, allModerators, linksOf } from '../../boards/store.ts';
import { keyOfLink, linkHere, partOf, readAs, type Bringing, type FoundPart } from './bringing.ts';
import type { RowOf } from './archiveParts.ts';

const flag = z.union([z.boolean(), z.int()]).transform((value) => value === true || value === 1);
const storedSchema = z
  .object({
    about: z.string(),
    ...switchesSchema.shape,
    automations: flag,
    gateways: flag,
    warns: flag,
    passing: flag,
    section_limit: z.int(),
    pin_limit: z.int(),
    contacts_read: flag,
  })
  .transform(({ section_limit, pin_limit, contacts_read, ...rest }) => ({
    ...rest,
    sectionLimit: section_limit,
    pinLimit: pin_limit,
    contactsRead: contacts_read,
  }));
type Settings = z.infer<typeof storedSchema>;
type BoardHere = Awaited<ReturnType<typeof allBoards>>[number];
interface Link {
  label: string;
  url: string;
}

const namesOf = async (by: Bringing): Promise<Map<number, number[]>> => {
  const found = new Map<number, number[]>();
  for (const { board_id, person_id } of await by.contents.all('board_moderators'))
    found.set(board_id, [...(found.get(board_id) ?? []), person_id]);
  return found;
};

/** Whether a board of an archive is made by itself: those of sessions and of dates are made from the calendar. */
export const isPlain = (row: RowOf<'boards'>): boolean => !row.archived_at && !row.session_of && !row.date_of;

/** A board of an archive beside the one of its name here. */
interface BoardThere {
  row: RowOf<'boards'>;
  settings: Settings;
  /** The group it is for, here; null where that is not here. */
  document: { groupId: number | null } | null;
  mine: BoardHere | undefined;
  /** Who moderates it there, and which of them are here. */
  there: readonly unknown[];
  moderators: readonly number[];
  moderatorsHere: Awaited<ReturnType<typeof allModerators>>;
  owner: number | undefined;
  theirs: readonly Link[];
  /** Its links that the one here has not. */
  further: readonly Link[];
}

/** What bringing it in would say of it, and what speaks against that. */
function compared(board: BoardThere): { says: string[]; against: string[] } {
  const { row, settings, document, mine, there, moderators, moderatorsHere, owner, theirs, further } = board;
  const says: string[] = [];
  const against: string[] = [];
  if (!mine) {
    if (there.length > 0)
      says.push(
        there.length === moderators.length
          ? count(there.length, 'moderator', 'moderators')
          : `${moderators.length} of its ${there.length} moderators; the others are not here`,
      );
    if (theirs.length > 0) says.push(count(theirs.length, 'key link', 'key links'));
    if (row.owner_id && owner === undefined) says.push('it is yours: its owner is not here');
  } else if (mine.archived) against.push('One of this name is archived here.');
  else {
    if (document === null || document.groupId !== mine.groupId) says.push('whose place it is');
    for (const [field, words] of Object.entries(BOARD_SETTINGS))
      if (mine[field as keyof Settings] !== settings[field as keyof Settings]) says.push(words);
    const moderating = new Set(
      moderatorsHere.filter(({ boardId }) => boardId === mine.id).map(({ personId }) => personId),
    );
    const more = moderators.filter((person) => !moderating.has(person)).length;
    if (more > 0) says.push(count(more, 'more moderator', 'more moderators'));
    if (further.length > 0) says.push(count(further.length, 'more key link', 'more key links'));
  }
  return { says, against };
}

/** Makes a board of an archive, or has the one of its name here follow it. */
async function bringBoard(
  now: Bringing,
  { settings, mine, moderators, owner, theirs, further }: BoardThere,
  {
    place,
    called,
    aside,
    mineLinks,
  }: { place: number | null; called: string; aside: boolean; mineLinks: readonly Link[] },
): Promise<number> {
  const { db, actor } = now;
  const groupId = now.resolving.resolve({ groupId: place }).document?.groupId ?? null;
  let to = mine?.id ?? 0;
  if (!mine || aside)
    to = await makeBoard(db, actor, {
      name: called,
      about: settings.about,
      purpose: 'news',
      groupId,
    });
  await changeBoardSettings(db, actor, to, {
    ...settings,
    groupId,
    ...((!mine || aside) && owner !== undefined ? { ownerId: owner } : {}),
  });
  const moderating = new Set(
    (await allModerators(db)).flatMap((each) => (each.boardId === to ? [each.personId] : [])),
  );
  for (const person of moderators)
    if (!moderating.has(person)) await appointModerator(db, actor, to, person, true);
  const placed = !mine || aside ? theirs : further;
  if (placed.length > 0) {
    const kept = !mine || aside ? [] : mineLinks.map(({ label, url }) => ({ label, url }));
    for (const link of placed) kept.push({ label: link.label, url: await linkHere(now, link.url) });
    await placeLinks(db, actor, to, kept);
  }
  return to;
}

/** The boards of an archive, with who moderates them and their key links, beside those here. What stands on them stays there. */
export async function boardParts(by: Bringing): Promise<FoundPart[]> {
  const [boards, moderatorsHere, moderatorsThere, links] = await Promise.all([
    allBoards(by.db),
    allModerators(by.db),
    namesOf(by),
    by.contents.all('board_links'),
  ]);
  const taken = new Set(boards.map(({ name }) => sameName(name)));
  const parts: FoundPart[] = [];
  for (const row of (await by.contents.all('boards')).filter(isPlain)) {
    const { id } = row;
    const settings = readAs<Settings>(storedSchema, row);
    const name = readAs(aboutSchema.shape.name, row.name);
    const place = row.group_id ?? null;
    const { document, needs, why } = by.resolving.resolve({ groupId: place });
    const mine = boards.find((board) => sameName(board.name) === sameName(name));
    const there = moderatorsThere.get(id) ?? [];
    const moderators = by.resolving.people(there);
    const owner = by.resolving.person(row.owner_id);
    const mineLinks = mine ? await linksOf(by.db, mine.id) : [];
    const theirs = links
      .filter(({ board_id }) => board_id === id)
      .toSorted((a, b) => a.place - b.place)
      .map(({ label, url }) => ({ label, url }));
    const further = theirs.filter(
      ({ label, url }) =>
        !mineLinks.some((link) => link.label === label && (link.url === url || keyOfLink(url) !== undefined)),
    );
    const board = {
      row,
      settings,
      document,
      mine,
      there,
      moderators,
      moderatorsHere,
      owner,
      theirs,
      further,
    };
    const { says, against } = compared(board);
    const clash = why.length > 0 || against.length > 0;
    const beside = freeName(name, (tried) => taken.has(sameName(tried)), 120);
    parts.push(
      partOf('board', id, {
        name,
        state: clash ? 'clash' : !mine ? 'new' : says.length > 0 ? 'changed' : 'same',
        says,
        why: [...why, ...against],
        needs,
        beside: why.length === 0 && mine && (says.length > 0 || against.length > 0) ? beside : null,
        bring: async (now, aside) => {
          const called = mine && aside ? beside : name;
          const to = await bringBoard(now, board, { place, called, aside, mineLinks });
          return { id: to, name: mine && !aside ? mine.name : called, path: `/boards/${to}` };
        },
      }),
    );
  }
  return parts;
}
