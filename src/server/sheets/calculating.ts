import { calculator } from '../../core/sheets/formula.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { calculatedTo, recordsToCalculate, saveCalculated, sheetsToCalculate } from './calculatingStore.ts';
import { lockSheet } from './store.ts';

/** Records that are calculated in one transaction. */
const PIECE = 500;

/** Calculates a piece of a sheet; false where there was nothing left. */
const calculatePiece = (db: Database, sheetId: number): Promise<boolean> =>
  transact(db, async (trx) => {
    const sheet = await lockSheet(trx, sheetId);
    const records = await recordsToCalculate(trx, sheetId, PIECE);
    if (!sheet || !records) return false;
    const calculate = calculator(sheet.columns);
    for (const { id, cells } of records) {
      const after = calculate(cells);
      if (sheet.columns.some((column) => (cells[column.id] ?? '') !== (after[column.id] ?? '')))
        await saveCalculated(trx, id, after);
    }
    const done = records.length < PIECE;
    await calculatedTo(trx, sheetId, done ? null : (records.at(-1)?.id ?? null));
    // Whoever looks at it sees what is calculated by now. Automations are not told: a changed formula is no change of a record.
    if (done) await emit(trx, 'sheet.changed', { sheet: sheetId });
    return true;
  });

/**
 * Calculates records anew whose sheets have their columns calculated in another way, a piece of each in turn, so that whoever
 * writes into one waits for a piece at most. Several engines do no piece twice.
 */
export async function calculateDue(db: Database): Promise<void> {
  for (;;) {
    const sheets = await sheetsToCalculate(db);
    if (sheets.length === 0) return;
    for (const { id } of sheets) await calculatePiece(db, id);
  }
}
