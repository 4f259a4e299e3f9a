import { randomBytes } from 'node:crypto';
import { z } from 'zod';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { cellWords } from '../../core/sheets/cell.ts';
import { calculator, formulaProblems } from '../../core/sheets/formula.ts';
import {
  freshColumn,
  isCalculated,
  sheetSchema,
  type Cells,
  type SheetColumn,
  type SheetHead,
  type SheetLine,
  type SheetPage,
  type SheetShape,
} from '../../core/sheets/sheet.ts';
import { requireDesk } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { automationsReading } from '../automations/store.ts';
import { isDuplicate, transact, type Database, type Transaction } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { mapPausing } from '../pausing.ts';
import { notFound, Problem } from '../problem.ts';
import { followingOf, requireOwnColumns, requireUnfollowed } from './following/service.ts';
import { recalculate } from './calculatingStore.ts';
import { readCells, requireCells, requireNotCalculated } from './cells.ts';
import { mayKeep, requireChanging, requireSeeing, unseenSheets } from './rights.ts';
import { peopleOfSheet } from './rightsStore.ts';
import {
  allSheets,
  changeRecord,
  changesOfRecord,
  countRecords,
  deleteRecordById,
  deleteSheetById,
  insertManyRecords,
  insertRecords,
  insertSheet,
  lockRecord,
  lockSheet,
  recordsByIds,
  recordsPage,
  saveSheet,
  sheetCounts,
  type SheetRow,
} from './store.ts';

const PAGE = 100;
/** Records of which one event tells. */
const MOST_TOLD = 10_000;

/** What a sheet is, coordinators say; who sees and changes its records is said for each sheet. */
export function requireKeeping(actor: Actor): void {
  const decision = decide(actor, { kind: 'look after the organisation' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

export const sheetChangeSchema = z.object({ revision: z.int().positive(), shape: sheetSchema });

const nameTaken = (error: unknown): never => {
  if (!isDuplicate(error)) throw error;
  throw new Problem(422, 'There is a record sheet of this name already.', {
    errors: [{ field: 'name', detail: 'There is a record sheet of this name already. Choose another.' }],
  });
};

/** The record sheets, by name, with what reads them. */
export async function listSheets(db: Database, actor: Actor): Promise<SheetLine[]> {
  requireDesk(actor);
  const [sheets, counts, readers, unseen] = await Promise.all([
    allSheets(db),
    sheetCounts(db),
    automationsReading(db),
    unseenSheets(db, actor),
  ]);
  return sheets
    .filter(({ id }) => !unseen.has(id))
    .map(({ id, name, purpose }) => ({
      id,
      name,
      purpose,
      records: counts.get(id)?.records ?? 0,
      changedMs: counts.get(id)?.changedMs ?? null,
      automations: readers.filter((each) => each.sheetId === id).map((each) => each.name),
    }));
}

/** A sheet without its records. */
export async function sheetHead(db: Database, actor: Actor, id: number): Promise<SheetHead> {
  const { sheet, mayChange } = await requireSeeing(db, actor, id);
  const [total, following, people] = await Promise.all([
    countRecords(db, id, ''),
    followingOf(db, id),
    peopleOfSheet(db, id),
  ]);
  const { formKey, seenBy, ...shape } = sheet;
  return {
    ...shape,
    formPath: formKey === null ? null : `/forms/${formKey}`,
    mayChange,
    mayKeep: mayKeep(actor),
    rights: { seenBy, people },
    following,
    total,
  };
}

/** A sheet with a page of its records, the newest first. */
export async function sheetPage(
  db: Database,
  actor: Actor,
  id: number,
  { before = null, search = '' }: { before?: number | null; search?: string } = {},
): Promise<SheetPage> {
  const [head, found, total] = await Promise.all([
    sheetHead(db, actor, id),
    recordsPage(db, id, before, search, PAGE + 1),
    countRecords(db, id, search),
  ]);
  const records = found.slice(0, PAGE);
  return {
    ...head,
    records,
    total,
    next: found.length > PAGE ? (records.at(-1)?.id ?? null) : null,
  };
}

/** @throws 422 with what is wrong with the formulas, by column: `columns.2.formula` */
function requireFormulas({ columns }: SheetShape): void {
  const problems = formulaProblems(columns).map(({ at, problem }) => ({
    field: `columns.${at}.formula`,
    detail: `${columns[at]?.name ?? ''}: ${problem}`,
  }));
  if (problems.length > 0)
    throw new Problem(422, problems[0]?.detail ?? 'A formula cannot be read.', { errors: problems });
}

/** Whether records calculated by some columns would be calculated otherwise by others. */
const calculateOtherwise = (before: readonly SheetColumn[], after: readonly SheetColumn[]): boolean => {
  const read = (columns: readonly SheetColumn[]): string =>
    JSON.stringify(
      columns.some(isCalculated)
        ? columns.map(({ id, kind, formula }) => [id, kind, formula]).toSorted()
        : [],
    );
  return after.some(isCalculated) && read(before) !== read(after);
};

const keyFor = (shape: SheetShape, before: string | null): string | null =>
  shape.form === null ? null : (before ?? randomBytes(16).toString('base64url'));

export async function makeSheet(db: Database, actor: Actor, shape: SheetShape): Promise<number> {
  requireKeeping(actor);
  requireFormulas(shape);
  return transact(db, async (trx) => {
    const id = await insertSheet(trx, { ...shape, formKey: keyFor(shape, null), by: actor.id });
    await record(trx, { actorId: actor.id, action: 'make', subject: 'record sheet', subjectId: id });
    await emit(trx, 'sheet.changed', { sheet: id });
    return id;
  }).catch(nameTaken);
}

/** Refuses a column under the id of one that was taken out, since records still hold what that one held. @throws 422 */
function requireNewColumns(
  { columns, lastColumn }: Pick<SheetRow, 'columns' | 'lastColumn'>,
  wanted: readonly SheetColumn[],
): void {
  const known = new Set(columns.map(({ id }) => id));
  const at = wanted.findIndex(({ id }) => !known.has(id) && Number(id.slice(1)) <= lastColumn);
  if (at < 0) return;
  const detail = `The column “${wanted[at]?.name ?? ''}” has the id of one that was taken out. Give it the id ${freshColumn(wanted, lastColumn)}.`;
  throw new Problem(422, detail, { errors: [{ field: `columns.${at}.id`, detail }] });
}

/**
 * Changes a sheet's name, columns or form. Records keep what they hold; what no longer fits a column's kind stays, and is
 * told when the record is next changed. Where columns are calculated in another way, the engine calculates all records anew.
 */
export async function alterSheet(
  db: Database,
  actor: Actor,
  id: number,
  { revision, shape }: z.infer<typeof sheetChangeSchema>,
): Promise<void> {
  requireKeeping(actor);
  requireFormulas(shape);
  await transact(db, async (trx) => {
    const before = await lockSheet(trx, id);
    if (!before) throw notFound('record sheet');
    requireNewColumns(before, shape.columns);
    await requireUnfollowed(
      trx,
      id,
      shape.columns.filter(isCalculated).map((column) => column.id),
    );
    if (!(await saveSheet(trx, id, revision, { ...shape, formKey: keyFor(shape, before.formKey) })))
      throw new Problem(409, 'Somebody changed this sheet a moment ago. Read it again.');
    if (calculateOtherwise(before.columns, shape.columns)) await recalculate(trx, id);
    await record(trx, { actorId: actor.id, action: 'change', subject: 'record sheet', subjectId: id });
    await emit(trx, 'sheet.changed', { sheet: id });
  }).catch(nameTaken);
}

/** Deletes a sheet with its records; refused while an automation reads it. */
export async function deleteSheet(db: Database, actor: Actor, id: number): Promise<void> {
  requireKeeping(actor);
  await transact(db, async (trx) => {
    const sheet = await lockSheet(trx, id);
    if (!sheet) throw notFound('record sheet');
    const readers = (await automationsReading(trx)).filter((each) => each.sheetId === id);
    if (readers.length > 0)
      throw new Problem(
        409,
        `The ${readers.length === 1 ? 'automation' : 'automations'} ${readers.map((each) => `“${each.name}”`).join(', ')} read it. Let them read something else first.`,
      );
    await deleteSheetById(trx, id);
    await record(trx, {
      actorId: actor.id,
      action: 'delete',
      subject: 'record sheet',
      subjectId: id,
      detail: { name: sheet.name },
    });
  });
}

/** Adds a record by hand. */
export async function addRecord(
  db: Database,
  actor: Actor,
  sheetId: number,
  written: Cells,
): Promise<number> {
  await requireChanging(db, actor, sheetId);
  return transact(db, async (trx) => {
    const sheet = await lockSheet(trx, sheetId);
    if (!sheet) throw notFound('record sheet');
    const [id] = await insertRecords(trx, sheetId, [requireCells(sheet, written)], actor.id, false);
    await emit(trx, 'records.changed', { sheet: sheetId, records: [id ?? 0], form: false });
    return id ?? 0;
  });
}

/**
 * Brings in rows in one go or not at all.
 *
 * @throws 422 with what is wrong, row by row: `rows.3.c2`
 */
export async function addRecords(
  db: Database,
  actor: Actor,
  sheetId: number,
  written: readonly Cells[],
): Promise<number> {
  await requireChanging(db, actor, sheetId);
  return transact(db, async (trx) => {
    const sheet = await lockSheet(trx, sheetId);
    if (!sheet) throw notFound('record sheet');
    const read = await mapPausing(written, (row) => readCells(sheet.columns, row));
    const errors = read.flatMap(({ problems }, at) =>
      problems.map(({ field, detail }) => ({
        field: `rows.${at}.${field}`,
        detail: `Row ${at + 1}, ${detail}`,
      })),
    );
    if (errors.length > 0)
      throw new Problem(422, `${errors[0]?.detail ?? ''} Nothing was brought in.`, {
        errors: errors.slice(0, 50),
      });
    const calculate = calculator(sheet.columns);
    const filled = read.filter(({ cells }) => Object.keys(cells).length > 0);
    const made = await mapPausing(filled, ({ cells }) => calculate(cells));
    const ids = await insertManyRecords(trx, sheetId, made, actor.id);
    for (let from = 0; from < ids.length; from += MOST_TOLD)
      await emit(trx, 'records.changed', {
        sheet: sheetId,
        records: ids.slice(from, from + MOST_TOLD),
        form: false,
      });
    await record(trx, {
      actorId: actor.id,
      action: 'bring in records',
      subject: 'record sheet',
      subjectId: sheetId,
      detail: { records: ids.length },
    });
    return ids.length;
  });
}

/** Changes some cells of a record; those not named stay. */
export async function alterRecord(
  db: Database,
  actor: Actor,
  sheetId: number,
  id: number,
  written: Cells,
): Promise<void> {
  await requireChanging(db, actor, sheetId);
  await transact(db, async (trx) => {
    // The sheet first, as whatever writes into it does.
    const sheet = await lockSheet(trx, sheetId, 'LOCK IN SHARE MODE');
    const held = await lockRecord(trx, id);
    if (!sheet || held?.sheetId !== sheetId) throw notFound('record');
    requireNotCalculated(sheet, written, held.cells);
    const cells = requireCells(sheet, { ...held.cells, ...written });
    if (JSON.stringify(cells) === JSON.stringify(held.cells)) return;
    const differ = sheet.columns.filter(
      (column) => (held.cells[column.id] ?? '') !== (cells[column.id] ?? ''),
    );
    await requireOwnColumns(
      trx,
      sheetId,
      id,
      differ.map((column) => column.id),
    );
    await changeRecord(trx, id, held.cells, cells, actor.id);
    const changed = Object.fromEntries(
      differ.map((column) => [
        column.id,
        { before: held.cells[column.id] ?? '', after: cells[column.id] ?? '' },
      ]),
    );
    await emit(trx, 'records.changed', { sheet: sheetId, records: [id], form: false, changed });
  });
}

/** Deletes a record of a sheet that is held. @throws 404; 409 where it comes from the source that the sheet follows */
export async function removeRecord(
  trx: Transaction,
  actor: Actor,
  sheetId: number,
  id: number,
): Promise<void> {
  const held = await lockRecord(trx, id);
  if (held?.sheetId !== sheetId) throw notFound('record');
  await requireOwnColumns(trx, sheetId, id, 'all');
  await deleteRecordById(trx, sheetId, id);
  await record(trx, {
    actorId: actor.id,
    action: 'delete record',
    subject: 'record sheet',
    subjectId: sheetId,
    detail: { record: id },
  });
}

export async function deleteRecord(db: Database, actor: Actor, sheetId: number, id: number): Promise<void> {
  await requireChanging(db, actor, sheetId);
  await transact(db, async (trx) => {
    // The sheet first, as whatever writes into it does.
    await lockSheet(trx, sheetId);
    await removeRecord(trx, actor, sheetId, id);
    await emit(trx, 'records.changed', { sheet: sheetId, records: [id], form: false });
  });
}

/** What became of a record's cells, in words, the latest change first. */
export async function recordHistory(
  db: Database,
  actor: Actor,
  sheetId: number,
  id: number,
  zone: string,
): Promise<{ atMs: number; by: string | null; changes: { column: string; from: string; to: string }[] }[]> {
  const { sheet } = await requireSeeing(db, actor, sheetId);
  if ((await recordsByIds(db, sheetId, [id])).length === 0) throw notFound('record');
  return (await changesOfRecord(db, id, 50)).map(({ before, after, atMs, by }) => ({
    atMs,
    by,
    changes: sheet.columns
      .filter((column) => (before[column.id] ?? '') !== (after[column.id] ?? ''))
      .map((column) => ({
        column: column.name,
        from: cellWords(column, before[column.id] ?? '', zone),
        to: cellWords(column, after[column.id] ?? '', zone),
      })),
  }));
}
