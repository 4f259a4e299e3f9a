import type { Actor } from '../../core/rights/decide.ts';
import { cellWords } from '../../core/sheets/cell.ts';
import { calculator } from '../../core/sheets/formula.ts';
import { isCalculated, type Cells } from '../../core/sheets/sheet.ts';
import type { SheetEdit } from '../../core/sheets/viewSchema.ts';
import { transact, type Database, type Transaction } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { requireOwnColumns } from './following/service.ts';
import { requireChanging } from './rights.ts';
import { calculatedWords, readCells } from './cells.ts';
import { removeRecord } from './service.ts';
import { changeRecord, insertRecords, lockRecord, lockSheet, type SheetRow } from './store.ts';

interface Wrong {
  field: string;
  detail: string;
}

/** A record with some other cells: what is wrong with them, or what was there and what is. */
async function altered(
  trx: Transaction,
  sheet: SheetRow,
  { record: id, cells: written, was }: SheetEdit['change'][number],
  at: number,
  calculate: (cells: Cells) => Cells,
): Promise<{ wrong: Wrong[]; conflict: boolean } | { before: Cells; after: Cells; columns: string[] }> {
  const held = await lockRecord(trx, id);
  if (held?.sheetId !== sheet.id)
    return {
      wrong: [{ field: `change.${at}`, detail: 'This record was deleted meanwhile.' }],
      conflict: true,
    };
  const named = sheet.columns.filter((column) => column.id in written);
  const over = named.filter((column) => was && (was[column.id] ?? '') !== (held.cells[column.id] ?? ''));
  if (over.length > 0)
    return {
      wrong: over.map((column) => ({
        field: `change.${at}.${column.id}`,
        detail: `${column.name} holds “${cellWords(column, held.cells[column.id] ?? '', 'UTC') || 'nothing'}” by now: somebody changed it. Look at it, and write it again if you want to.`,
      })),
      conflict: true,
    };
  const calculated = named.filter(
    (column) => isCalculated(column) && written[column.id] !== (held.cells[column.id] ?? ''),
  );
  if (calculated.length > 0)
    return {
      wrong: calculated.map((column) => ({
        field: `change.${at}.${column.id}`,
        detail: calculatedWords(column),
      })),
      conflict: false,
    };
  const { cells, problems } = readCells(named, written);
  if (problems.length > 0)
    return {
      wrong: problems.map(({ field, detail }) => ({ field: `change.${at}.${field}`, detail })),
      conflict: false,
    };
  const byHand = Object.fromEntries(
    Object.entries({
      ...held.cells,
      ...Object.fromEntries(
        named
          .filter((column) => !isCalculated(column))
          .map(({ id: column }) => [column, cells[column] ?? '']),
      ),
    }).filter(
      ([column, value]) =>
        value !== '' && !sheet.columns.some((each) => each.id === column && isCalculated(each)),
    ),
  );
  const after = calculate(byHand);
  if (Object.keys(byHand).length === 0)
    return {
      wrong: [{ field: `change.${at}`, detail: 'Nothing would be left in this record. Delete it instead.' }],
      conflict: false,
    };
  const columns = sheet.columns
    .map((column) => column.id)
    .filter((column) => (held.cells[column] ?? '') !== (after[column] ?? ''));
  return { before: held.cells, after, columns };
}

/**
 * Changes, adds and deletes records of a sheet in one go, or nothing of it. Each change of a record is an event of its own, as
 * if it had been made alone.
 *
 * @returns the ids of those that were added, in order
 * @throws 403 for whoever only sees it; 404; 409 where a cell holds something else than whoever changes it saw, with what by its
 *   place: `change.3.c2`; 422 with what cannot be kept, by its place
 */
export async function editRecords(
  db: Database,
  actor: Actor,
  sheetId: number,
  edit: SheetEdit,
): Promise<number[]> {
  await requireChanging(db, actor, sheetId);
  return transact(db, async (trx) => {
    const sheet = await lockSheet(trx, sheetId);
    if (!sheet) throw notFound('record sheet');
    const calculate = calculator(sheet.columns);
    const wrong: Wrong[] = [];
    let conflict = false;
    // In the order of their ids, so that two that change the same records wait for each other and never both.
    const inOrder = edit.change
      .map((change, at) => ({ change, at }))
      .sort((a, b) => a.change.record - b.change.record);
    const changed: { id: number; before: Cells; after: Cells; columns: string[] }[] = [];
    for (const { change, at } of inOrder) {
      const done = await altered(trx, sheet, change, at, calculate);
      if ('wrong' in done) {
        wrong.push(...done.wrong);
        conflict ||= done.conflict;
      } else if (done.columns.length > 0) changed.push({ id: change.record, ...done });
    }
    const added = edit.add.map((written, at) => {
      const { cells, problems } = readCells(sheet.columns, written);
      wrong.push(...problems.map(({ field, detail }) => ({ field: `add.${at}.${field}`, detail })));
      return cells;
    });
    if (wrong.length > 0)
      throw new Problem(conflict ? 409 : 422, `${wrong[0]?.detail ?? ''} Nothing was changed.`, {
        errors: wrong.slice(0, 50),
      });
    for (const { id, before, after, columns } of changed) {
      await requireOwnColumns(trx, sheetId, id, columns);
      await changeRecord(trx, id, before, after, actor.id);
      await emit(trx, 'records.changed', {
        sheet: sheetId,
        records: [id],
        form: false,
        changed: Object.fromEntries(
          columns.map((column) => [column, { before: before[column] ?? '', after: after[column] ?? '' }]),
        ),
      });
    }
    const ids = await insertRecords(
      trx,
      sheetId,
      added.filter((cells) => Object.keys(cells).length > 0).map(calculate),
      actor.id,
      false,
    );
    if (ids.length > 0) await emit(trx, 'records.changed', { sheet: sheetId, records: ids, form: false });
    for (const id of edit.remove.toSorted((a, b) => a - b)) await removeRecord(trx, actor, sheetId, id);
    if (edit.remove.length > 0)
      await emit(trx, 'records.changed', { sheet: sheetId, records: edit.remove, form: false });
    return ids;
  });
}
