import { referencesIn } from '../../core/organisation/references.ts';
import { inMakingOrder } from '../../core/patterns/filling.ts';
import { partKey, partName } from '../../core/patterns/pattern.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { count, list, people } from '../../core/words.ts';
import { record } from '../audit/store.ts';
import { deleteAutomation, switchAutomation } from '../automations/service.ts';
import { allAutomations, automationById, automationsReading, lockAutomation } from '../automations/store.ts';
import { deleteBoardWith } from '../boards/deletingStore.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { allHooksIn } from '../gateways/inStore.ts';
import { allHooksOut } from '../gateways/outStore.ts';
import { deleteGroup } from '../groups/making.ts';
import { lockGroup, plansOf } from '../groups/store.ts';
import { usesOf } from '../groups/uses.ts';
import { notFound, Problem } from '../problem.ts';
import { deleteSheet } from '../sheets/service.ts';
import { lockSheet } from '../sheets/store.ts';
import { requirePatterns } from './keeping.ts';
import { PATHS, requirePlace, type Place } from './place.ts';
import { partHere } from './reading.ts';
import {
  deletePlaceById,
  lockBoards,
  lockPlace,
  peopleIn,
  postsOn,
  recordsIn,
  runsOf,
  talkOn,
  type PlacePart,
} from './store.ts';

/** Whatever of somebody's own would be lost with a place, or would speak of what is gone; in words. */
export async function inTheWay(db: Database, { place, parts, before }: Place): Promise<string[]> {
  const found: string[] = [];
  const own = new Set(parts.map(({ kind, madeId }) => `${PATHS[kind]}/${madeId}`));
  const made = (kind: PlacePart['kind']): number[] =>
    parts.flatMap((part) => (part.kind === kind ? [part.madeId] : []));
  const nameOf = async (kind: PlacePart['kind'], id: number): Promise<string> => {
    const part = await partHere(db, kind, id);
    return part ? `“${partName(part)}”` : `that is archived`;
  };
  const ruled = new Set(
    before.parts.flatMap((part) => (part.kind === 'group' && part.rule !== null ? [part.id] : [])),
  );
  for (const { kind, partId, madeId } of parts) {
    if (kind !== 'group') continue;
    const more = ruled.has(partId) ? 0 : await peopleIn(db, madeId, place.answers.ownerId);
    if (more > 0) found.push(`${people(more)} more in the group ${await nameOf('group', madeId)}`);
    for (const use of await usesOf(db, madeId))
      if (use.path === null || !own.has(use.path))
        found.push(`the ${use.kind} “${use.name}” speaks of the group ${await nameOf('group', madeId)}`);
  }
  const boards = new Set(made('board'));
  for (const id of boards) {
    const { posts, replies, passedOn } = await talkOn(db, id, made('pin'));
    const said = [
      ...(posts > 0 ? [count(posts, 'post', 'posts')] : []),
      ...(replies > 0 ? [count(replies, 'reply', 'replies')] : []),
      ...(passedOn > 0 ? [count(passedOn, 'post that was passed on', 'posts that were passed on')] : []),
    ];
    if (said.length > 0) found.push(`${list(said, 'and')} of the board ${await nameOf('board', id)}`);
  }
  found.push(...(await usesOfBoards(db, boards, new Set(made('automation')))));
  const reading = await automationsReading(db);
  for (const id of made('sheet')) {
    const records = await recordsIn(db, id);
    if (records > 0)
      found.push(`${count(records, 'record', 'records')} in the record sheet ${await nameOf('sheet', id)}`);
    for (const each of reading)
      if (each.sheetId === id && !made('automation').includes(each.id))
        found.push(`the automation “${each.name}” reads the record sheet ${await nameOf('sheet', id)}`);
  }
  for (const id of made('automation')) {
    const runs = await runsOf(db, id);
    if (runs > 0)
      found.push(`${count(runs, 'run', 'runs')} of the automation ${await nameOf('automation', id)}`);
  }
  return found;
}

/** What would speak to boards that are gone: plans, other automations, and ways in and out. */
async function usesOfBoards(
  db: Database,
  boards: ReadonlySet<number>,
  own: ReadonlySet<number>,
): Promise<string[]> {
  const [plans, automations, ins, outs] = await Promise.all([
    plansOf(db),
    allAutomations(db),
    allHooksIn(db),
    allHooksOut(db),
  ]);
  const names = (document: unknown): boolean =>
    referencesIn(document).some(({ kind, id }) => kind === 'board' && boards.has(id));
  return [
    ...plans
      .filter(({ plan }) => names(plan))
      .map(({ title }) => `the send or draft “${title}” goes to its board`),
    ...automations
      .filter(({ id, draft, live }) => !own.has(id) && (names(draft) || names(live)))
      .map(({ draft }) => `the automation “${draft.name}” posts on its board`),
    ...ins
      .filter(({ hook: { target } }) => target.kind === 'board' && boards.has(target.boardId))
      .map(({ hook }) => `the way in “${hook.name}” posts on its board`),
    ...outs
      .filter(({ hook }) => hook.boardId !== null && boards.has(hook.boardId))
      .map(({ hook }) => `the way out “${hook.name}” listens to its board`),
  ];
}

/** Holds all that was made until the transaction ends: what comes to it in this moment finds it gone, and is not lost with it. */
async function hold(trx: Database, parts: readonly PlacePart[]): Promise<void> {
  for (const { kind, madeId } of parts) {
    if (kind === 'group') await lockGroup(trx, madeId);
    else if (kind === 'sheet') await lockSheet(trx, madeId);
    else if (kind === 'automation') await lockAutomation(trx, madeId);
  }
  await lockBoards(
    trx,
    parts.flatMap(({ kind, madeId }) => (kind === 'board' ? [madeId] : [])),
  );
}

/** Takes a place back whole: whatever was made with it is deleted. @throws 409 with what of somebody's own stands in the way */
export async function undoPlace(db: Database, actor: Actor, id: number): Promise<void> {
  requirePatterns(actor);
  await transact(db, async (trx) => {
    if (!(await lockPlace(trx, id))) throw notFound('place');
    const at = await requirePlace(trx, actor, id);
    await hold(trx, at.parts);
    const obstacles = await inTheWay(trx, at);
    if (obstacles.length > 0)
      throw new Problem(409, `It is in use, and is not taken back: ${obstacles.slice(0, 5).join('; ')}.`);
    const made = (kind: PlacePart['kind']): number[] =>
      at.parts.flatMap((part) => (part.kind === kind ? [part.madeId] : []));
    for (const automation of made('automation')) {
      const row = await automationById(trx, automation);
      if (row?.state === 'on') await switchAutomation(trx, actor, automation, false);
      if (row) await deleteAutomation(trx, actor, automation);
    }
    for (const board of made('board')) {
      await deleteBoardWith(trx, board, await postsOn(trx, board));
      await emit(trx, 'board.changed', { board });
    }
    for (const sheet of made('sheet'))
      if (await partHere(trx, 'sheet', sheet)) await deleteSheet(trx, actor, sheet);
    // A group is made after those its rule names, and goes before them.
    const order = inMakingOrder(at.pattern.document.parts).map(partKey).toReversed();
    const groups = at.parts
      .filter(({ kind }) => kind === 'group')
      .toSorted((a, b) => order.indexOf(`group:${a.partId}`) - order.indexOf(`group:${b.partId}`));
    for (const { madeId } of groups)
      await deleteGroup(trx, actor, madeId).catch((error: unknown) => {
        // One that somebody deleted already.
        if (!(error instanceof Problem && error.status === 404)) throw error;
      });
    await deletePlaceById(trx, id);
    await record(trx, {
      actorId: actor.id,
      action: 'take back',
      subject: 'pattern',
      subjectId: at.pattern.id,
      detail: { name: at.place.name },
    });
  });
}
