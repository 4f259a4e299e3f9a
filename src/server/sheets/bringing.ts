import { cellsSchema, MOST_BROUGHT, type Cells } from '../../core/sheets/sheet.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import { mapPausing } from '../pausing.ts';
import { requireOrdinary } from '../http/body.ts';
import { Problem } from '../problem.ts';
import { requireChanging } from './rights.ts';
import { addRecords } from './service.ts';

/** Most bytes of a list that is brought in at once. */
export const MOST_BYTES = 64_000_000;

const tooMany = new Problem(
  422,
  `A list of at most ${MOST_BROUGHT.toLocaleString('en-GB')} rows is brought in at once. Part it.`,
);

/** The rows of a list as it is sent: one JSON object a line (newline-delimited JSON), cells by the ids of their columns. */
async function rowsIn(bytes: Buffer): Promise<Cells[]> {
  const lines = bytes.toString('utf8').split('\n').filter(Boolean);
  if (lines.length === 0) throw new Problem(422, 'The list is empty.');
  if (lines.length > MOST_BROUGHT) throw tooMany;
  return mapPausing(lines, (line, at) => {
    try {
      const value: unknown = JSON.parse(line);
      requireOrdinary(value);
      return cellsSchema.parse(value);
    } catch {
      const detail = `Row ${at + 1} cannot be read: it is no object of cells. Nothing was brought in.`;
      throw new Problem(422, detail, { errors: [{ field: `rows.${at}`, detail }] });
    }
  });
}

/**
 * Brings in a whole list, or nothing of it: in one transaction, and as one event, so that an automation that speaks once for all
 * speaks once.
 *
 * @returns how many records were made
 * @throws 403, 404; 422 with what is wrong, row by row: `rows.3.c2`
 */
export async function bringRecords(
  db: Database,
  actor: Actor,
  sheetId: number,
  bytes: Buffer,
): Promise<number> {
  // Nothing is read for whoever may not.
  await requireChanging(db, actor, sheetId);
  return addRecords(db, actor, sheetId, await rowsIn(bytes));
}
