import type { z } from 'zod';
import type { Actor } from '../../core/rights/decide.ts';
import type { SavedView } from '../../core/sheets/view.ts';
import type { savedViewSchema } from '../../core/sheets/viewSchema.ts';
import { transact, type Database, type Transaction } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { requireTestable } from './grid.ts';
import { mayKeep, requireSeeing } from './rights.ts';
import { lockSheet } from './store.ts';
import { deleteViewById, insertView, lockView, saveView, viewsFor, type ViewRow } from './viewStore.ts';

type Written = z.infer<typeof savedViewSchema>;

const MOST_VIEWS = 100;

/** The views of a sheet that somebody has, by name. */
export async function viewsOf(db: Database, actor: Actor, sheetId: number): Promise<SavedView[]> {
  await requireSeeing(db, actor, sheetId);
  return (await viewsFor(db, sheetId, actor.id)).map(({ madeBy, ...view }) => ({
    ...view,
    mine: madeBy === actor.id || (view.shared && mayKeep(actor)),
  }));
}

/** What everybody has is for whoever keeps the sheet to make. */
async function requireFitting(
  trx: Transaction,
  actor: Actor,
  sheetId: number,
  written: Written,
  but: number | null,
): Promise<void> {
  await requireSeeing(trx, actor, sheetId);
  const sheet = await lockSheet(trx, sheetId);
  if (!sheet) throw notFound('record sheet');
  if (written.shared && !mayKeep(actor))
    throw new Problem(403, 'A view for everybody is made by a coordinator. Keep it for yourself.');
  requireTestable(sheet, written.view);
  const there = (await viewsFor(trx, sheetId, actor.id)).filter(({ id }) => id !== but);
  if (there.length >= MOST_VIEWS)
    throw new Problem(422, `A sheet has at most ${MOST_VIEWS} views. Delete one first.`);
  if (there.some(({ name }) => name.toLowerCase() === written.name.toLowerCase())) {
    const detail = 'There is a view of this name already. Choose another.';
    throw new Problem(422, detail, { errors: [{ field: 'name', detail }] });
  }
}

async function requireMine(trx: Transaction, actor: Actor, sheetId: number, id: number): Promise<ViewRow> {
  await requireSeeing(trx, actor, sheetId);
  const view = await lockView(trx, sheetId, id);
  // Somebody else's own view is not there for others.
  if (!view || (!view.shared && view.madeBy !== actor.id)) throw notFound('view');
  if (view.madeBy !== actor.id && !mayKeep(actor))
    throw new Problem(403, 'A view for everybody is changed by a coordinator.');
  return view;
}

/** Keeps a view of a sheet. @throws 403 where an editor makes one for everybody; 404; 422 by field */
export const addView = (db: Database, actor: Actor, sheetId: number, written: Written): Promise<number> =>
  transact(db, async (trx) => {
    await requireFitting(trx, actor, sheetId, written, null);
    const id = await insertView(trx, sheetId, actor.id, written);
    if (written.shared) await emit(trx, 'sheet.changed', { sheet: sheetId });
    return id;
  });

/** Changes a view that is kept. @throws 403; 404 also for somebody else's own; 422 by field */
export const alterView = (
  db: Database,
  actor: Actor,
  sheetId: number,
  id: number,
  written: Written,
): Promise<void> =>
  transact(db, async (trx) => {
    const before = await requireMine(trx, actor, sheetId, id);
    await requireFitting(trx, actor, sheetId, written, id);
    await saveView(trx, id, written);
    if (before.shared || written.shared) await emit(trx, 'sheet.changed', { sheet: sheetId });
  });

/** Takes a view out; the records stay. @throws 403; 404 also for somebody else's own */
export const dropView = (db: Database, actor: Actor, sheetId: number, id: number): Promise<void> =>
  transact(db, async (trx) => {
    const before = await requireMine(trx, actor, sheetId, id);
    await deleteViewById(trx, id);
    if (before.shared) await emit(trx, 'sheet.changed', { sheet: sheetId });
  });
