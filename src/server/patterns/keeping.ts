import type { z } from 'zod';
import { namesGroup, sheetOf } from '../../core/automation/automation.ts';
import { groupsNamedIn } from '../../core/audience/expression.ts';
import { referencesIn } from '../../core/organisation/references.ts';
import { blanksIn, timesNamed } from '../../core/patterns/filling.ts';
import type { PlaceLook } from '../../core/patterns/page.ts';
import { partKey, type PatternDocument, type PatternPart } from '../../core/patterns/pattern.ts';
import type {
  replacingSchema,
  Kept,
  newPatternSchema,
  patternChangeSchema,
} from '../../core/patterns/patternSchema.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { allAutomations } from '../automations/store.ts';
import { allBoards } from '../boards/store.ts';
import { visibleBoard } from '../boards/service.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { allGroups } from '../groups/store.ts';
import { pinnedPosts } from '../posts/store.ts';
import { notFound, Problem } from '../problem.ts';
import { allSheets } from '../sheets/store.ts';
import { blankLines, described } from './describing.ts';
import { partHere, pinPart } from './reading.ts';
import {
  deletePatternById,
  fixedGroupsWithin,
  insertPattern,
  insertVersion,
  lockPattern,
  patternById,
  renamePattern,
  setNumber,
} from './store.ts';

/** Patterns are for coordinators: what is made from them are groups, boards and automations. */
export function requirePatterns(actor: Actor): void {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, 'Only a coordinator keeps patterns.');
}

/** A part of a place, and whether it is kept unless somebody chooses otherwise. */
interface Belonging {
  part: PatternPart;
  kept: boolean;
}

/** What belongs to the place that a board is: its group and those made of that, their boards, what is pinned, sheets and automations. */
async function belongingsOf(db: Database, actor: Actor, boardId: number): Promise<Belonging[]> {
  const main = await visibleBoard(db, actor, boardId);
  const [groups, all, automations, sheets] = await Promise.all([
    allGroups(db),
    allBoards(db),
    allAutomations(db),
    allSheets(db),
  ]);
  const stored = all.find((board) => board.id === boardId);
  if (main.archived) throw new Problem(409, 'This board is archived. Bring it back first.');
  if (!stored || stored.sessionOf !== null || stored.dateOf !== null)
    throw new Problem(
      409,
      'This board was made for a session of the calendar, which makes such boards itself.',
    );
  const found: Belonging[] = [];
  const put = (part: PatternPart | null, kept = true): void => {
    if (part) found.push({ part, kept });
  };
  const own = groups.filter(
    (group) =>
      !group.archived &&
      (group.id === main.groupId ||
        (main.groupId !== null &&
          group.kind === 'live' &&
          group.rule !== null &&
          groupsNamedIn(group.rule).includes(main.groupId))),
  );
  const groupIds = own.map(({ id }) => id);
  const boards = all.filter(
    (board) =>
      board.id === boardId ||
      (!board.archived &&
        board.sessionOf === null &&
        board.dateOf === null &&
        board.groupId !== null &&
        groupIds.includes(board.groupId)),
  );
  const boardIds = boards.map(({ id }) => id);
  for (const id of groupIds) put(await partHere(db, 'group', id));
  // Those that are picked by hand say nowhere of which group they are part: they are offered where all in them belong to it.
  const within =
    main.groupId === null ? [] : await fixedGroupsWithin(db, main.groupId, await audienceContext(db));
  for (const { id, archived } of groups)
    if (!archived && within.includes(id) && !groupIds.includes(id))
      put(await partHere(db, 'group', id), false);
  const speaking = automations.filter(({ draft, live }) => {
    const said = live ?? draft;
    return (
      groupIds.some((id) => namesGroup(said, id)) ||
      referencesIn(said).some(({ kind, id }) => kind === 'board' && boardIds.includes(id))
    );
  });
  const parts = await Promise.all(boardIds.map((id) => partHere(db, 'board', id)));
  const addresses = parts.flatMap((part) => (part?.kind === 'board' ? part.links.map(({ url }) => url) : []));
  const readBy = new Set(speaking.map(({ draft, live }) => sheetOf((live ?? draft).when)));
  // A sheet that is not kept is shared: the new place goes on with the one there is.
  for (const { id, formKey } of sheets)
    if (readBy.has(id) || (formKey !== null && addresses.some((url) => url.includes(`/forms/${formKey}`))))
      put(await partHere(db, 'sheet', id), false);
  for (const part of parts) put(part);
  for (const board of boards)
    for (const post of await pinnedPosts(db, board.id)) if (post.originId === null) put(pinPart(post));
  for (const { id, state, draft, live } of speaking) {
    // One that speaks elsewhere too is not of this place alone.
    const elsewhere = referencesIn(live ?? draft).some(
      ({ kind, id: named }) => kind === 'board' && !boardIds.includes(named),
    );
    put(await partHere(db, 'automation', id), state === 'on' && !elsewhere);
  }
  return found;
}

/** What of a place can be kept as a pattern, and what such a pattern would ask for. */
export async function lookAtPlace(db: Database, actor: Actor, boardId: number): Promise<PlaceLook> {
  requirePatterns(actor);
  const belongings = await belongingsOf(db, actor, boardId);
  const parts = belongings.map(({ part }) => part);
  const blanks = blanksIn(parts);
  const today = new Date().toISOString().slice(0, 10);
  const [lines, asked, board] = await Promise.all([
    described(db, actor, parts),
    blankLines(db, blanks),
    visibleBoard(db, actor, boardId),
  ]);
  return {
    board: { id: boardId, name: board.name },
    parts: lines.map((line, at) => ({ ...line, kept: belongings[at]?.kept ?? true })),
    // A date that is over says when something began; it is seldom what differs.
    blanks: asked.map((blank) => ({ ...blank, asked: blank.kind !== 'date' || blank.was >= today })),
  };
}

/** The parts of a place that are chosen, as they are now. @throws 409 where one is not there any more, 422 where none is a board */
async function documentOf(
  db: Database,
  actor: Actor,
  boardId: number,
  { called, parts: chosen, blanks }: Kept,
): Promise<PatternDocument> {
  const all = new Map(
    (await belongingsOf(db, actor, boardId)).map(({ part }) => [partKey(part), part] as const),
  );
  const parts = [...all.values()].filter((part) => chosen.includes(partKey(part)));
  if (parts.length < new Set(chosen).size)
    throw new Problem(409, 'The place has changed meanwhile. Look at it again.');
  const wrong = (field: string, detail: string): Problem =>
    new Problem(422, detail, { errors: [{ field, detail }] });
  if (!parts.some(({ kind }) => kind === 'board'))
    throw wrong('parts', 'A place has at least one board. Choose one.');
  const boards = new Set(parts.flatMap(({ kind, id }) => (kind === 'board' ? [id] : [])));
  if (parts.some((part) => part.kind === 'pin' && !boards.has(part.boardId)))
    throw wrong(
      'parts',
      'A pinned post needs the board it stands on. Choose that too, or leave the post out.',
    );
  const asked = new Set(blanksIn(parts).map(({ key }) => key));
  if (timesNamed(parts, called) === 0)
    throw wrong(
      'called',
      `“${called}” stands in none of the names and texts that are kept, so a new place would take the same names. Write it as it stands there.`,
    );
  return { called, parts, blanks: blanks.filter((key) => asked.has(key)) };
}

const nameTaken = (error: unknown): never => {
  if (!isDuplicate(error)) throw error;
  const detail = 'There is a pattern of this name already. Choose another.';
  throw new Problem(422, detail, { errors: [{ field: 'name', detail }] });
};

/** Keeps a place as a pattern. */
export async function keepPattern(
  db: Database,
  actor: Actor,
  { name, about, boardId, ...kept }: z.infer<typeof newPatternSchema>,
): Promise<{ id: number }> {
  requirePatterns(actor);
  const document = await documentOf(db, actor, boardId, kept);
  return transact(db, async (trx) => {
    const id = await insertPattern(trx, { name, about, boardId, document, by: actor.id }).catch(nameTaken);
    await record(trx, {
      actorId: actor.id,
      action: 'keep',
      subject: 'pattern',
      subjectId: id,
      detail: { name, board: boardId },
    });
    return { id };
  });
}

/** Takes a pattern anew from the place it was taken from: a version of its own, whose changes the places made from it are offered. */
export async function replacePattern(
  db: Database,
  actor: Actor,
  id: number,
  { number, ...kept }: z.infer<typeof replacingSchema>,
): Promise<{ number: number }> {
  requirePatterns(actor);
  const before = await patternById(db, id);
  if (!before) throw notFound('pattern');
  if (before.boardId === null)
    throw new Problem(409, 'The place it was taken from is gone. Keep another place as a pattern.');
  const document = await documentOf(db, actor, before.boardId, kept);
  return transact(db, async (trx) => {
    if ((await lockPattern(trx, id)) !== number)
      throw new Problem(409, 'Somebody took this pattern anew a moment ago. Look at it again.');
    if (JSON.stringify(document) === JSON.stringify(before.document))
      throw new Problem(409, 'The place is as the pattern has it already.');
    await insertVersion(trx, id, number + 1, document, actor.id);
    await setNumber(trx, id, number + 1);
    await record(trx, {
      actorId: actor.id,
      action: 'take anew',
      subject: 'pattern',
      subjectId: id,
      detail: { number: number + 1 },
    });
    return { number: number + 1 };
  });
}

/** Changes a pattern's own name and what it is for. */
export async function changePattern(
  db: Database,
  actor: Actor,
  id: number,
  change: z.infer<typeof patternChangeSchema>,
): Promise<void> {
  requirePatterns(actor);
  await transact(db, async (trx) => {
    if ((await lockPattern(trx, id)) === undefined) throw notFound('pattern');
    await renamePattern(trx, id, change).catch(nameTaken);
    await record(trx, {
      actorId: actor.id,
      action: 'rename',
      subject: 'pattern',
      subjectId: id,
      detail: change,
    });
  });
}

/** Deletes a pattern. The places made from it stay, and are places like any other. */
export async function deletePattern(db: Database, actor: Actor, id: number): Promise<void> {
  requirePatterns(actor);
  await transact(db, async (trx) => {
    const before = await patternById(trx, id);
    if (!before) throw notFound('pattern');
    await deletePatternById(trx, id);
    await record(trx, {
      actorId: actor.id,
      action: 'delete',
      subject: 'pattern',
      subjectId: id,
      detail: { name: before.name },
    });
  });
}
