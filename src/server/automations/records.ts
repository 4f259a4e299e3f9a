import type { Cells } from '../../core/sheets/sheet.ts';
import type { Database } from '../database/connection.ts';
import { recordsAfter } from '../sheets/store.ts';

const PART = 5_000;
/** More records than this are not held in memory at once. */
export const MOST_RECORDS = 500_000;

/** All records of a sheet, read in parts. @throws where there are more than fit */
export async function allRecords(db: Database, sheetId: number): Promise<{ id: number; cells: Cells }[]> {
  const found: { id: number; cells: Cells }[] = [];
  for (;;) {
    const part = await recordsAfter(db, sheetId, found.at(-1)?.id ?? 0, PART);
    found.push(...part);
    if (part.length < PART) return found;
    if (found.length > MOST_RECORDS)
      throw new Error(`The record sheet has more than ${MOST_RECORDS.toLocaleString('en-GB')} records`);
  }
}
