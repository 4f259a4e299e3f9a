import type { z } from 'zod';
import { decide, type Actor } from '../../core/rights/decide.ts';
import type { SheetRights, sheetRightsSchema } from '../../core/sheets/sheet.ts';
import { actorOf } from '../accounts/actor.ts';
import { requireDesk, requireOrganisation } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { namedFor, peopleOfSheet, saveRights, sheetsWithout } from './rightsStore.ts';
import { lockSheet, sheetById, type SheetRow } from './store.ts';

/** Whether somebody says what a sheet is, and who sees it: coordinators do. */
export const mayKeep = (actor: Actor): boolean =>
  decide(actor, { kind: 'look after the organisation' }).outcome === 'allowed';

/** What somebody at the desk may of a sheet; undefined where it is not there for them. */
async function rightsOf(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ sheet: SheetRow; mayChange: boolean } | undefined> {
  const sheet = await sheetById(db, id);
  if (!sheet || mayKeep(actor)) return sheet && { sheet, mayChange: true };
  const named = await namedFor(db, id, actor.id);
  return named || sheet.seenBy === 'desk' ? { sheet, mayChange: named?.mayChange ?? false } : undefined;
}

/** A sheet that somebody sees. @throws 403 for all but the desk; 404 where it is not there, or not for them */
export async function requireSeeing(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ sheet: SheetRow; mayChange: boolean }> {
  requireDesk(actor);
  const found = await rightsOf(db, actor, id);
  if (!found) throw notFound('record sheet');
  return found;
}

/** @throws 404 where somebody does not see a sheet; 403 where they only see it */
export async function requireChanging(db: Database, actor: Actor, id: number): Promise<void> {
  const { mayChange } = await requireSeeing(db, actor, id);
  if (!mayChange)
    throw new Problem(
      403,
      'Its records are changed by coordinators, and by those they name for it. Ask a coordinator.',
    );
}

/** What is told of an automation whose owner does not see the sheet it reads. */
export const UNSEEN_SHEET =
  'It reads a record sheet that whoever looks after it may not see. Have a coordinator name them for it, or choose another.';

/** Whether an automation that somebody looks after may read a sheet: they see it, and are at the desk. */
export async function mayRead(db: Database, owner: Actor, id: number): Promise<boolean> {
  if (decide(owner, { kind: 'see the desk' }).outcome === 'denied') return false;
  return mayKeep(owner) || (await rightsOf(db, owner, id)) !== undefined;
}

/** The sheets that somebody does not see. */
export async function unseenSheets(db: Database, actor: Actor): Promise<Set<number>> {
  if (mayKeep(actor)) return new Set();
  return new Set((await sheetsWithout(db, actor.id)).map(({ id }) => id));
}

/**
 * Says who sees a sheet and who changes its records.
 *
 * @throws 403 for all but coordinators; 404; 422 with who is named and not at the desk
 */
export async function setRights(
  db: Database,
  actor: Actor,
  id: number,
  rights: z.infer<typeof sheetRightsSchema>,
): Promise<SheetRights> {
  requireOrganisation(actor);
  return transact(db, async (trx) => {
    if (!(await lockSheet(trx, id))) throw notFound('record sheet');
    for (const [at, person] of rights.people.entries()) {
      const named = await actorOf(trx, person.id);
      if (named && decide(named, { kind: 'see the desk' }).outcome === 'allowed') continue;
      const detail = named
        ? 'Record sheets are seen at the desk, and this person is not there. Make them an editor first, or take them out.'
        : 'This person is not there any more. Take them out.';
      throw new Problem(422, detail, { errors: [{ field: `people.${at}.id`, detail }] });
    }
    await saveRights(trx, id, rights);
    await record(trx, {
      actorId: actor.id,
      action: 'set rights',
      subject: 'record sheet',
      subjectId: id,
      detail: { seenBy: rights.seenBy, people: rights.people },
    });
    await emit(trx, 'sheet.changed', { sheet: id });
    return { seenBy: rights.seenBy, people: await peopleOfSheet(trx, id) };
  });
}
