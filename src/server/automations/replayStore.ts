import type { Cells } from '../../core/sheets/sheet.ts';
import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** A record with when it was made, as it is now. */
export interface PastRecord {
  id: number;
  cells: Cells;
  madeMs: number;
  fromForm: boolean;
}

export async function recordsWithBeginning(
  db: Database,
  sheetId: number,
  most: number,
): Promise<PastRecord[]> {
  const found = await rows<{ id: number; cells: string; madeMs: number; fromForm: number }>(
    db,
    `SELECT id, cells, ${ms('made_at')} AS madeMs, from_form AS fromForm FROM records WHERE sheet_id = ? ORDER BY id LIMIT ?`,
    [sheetId, most],
  );
  return found.map((row) => ({
    ...row,
    cells: JSON.parse(row.cells) as Cells,
    fromForm: row.fromForm === 1,
  }));
}

/** What changed in a sheet's records from an instant on, in order. */
export async function changesSince(
  db: Database,
  sheetId: number,
  fromMs: number,
  most: number,
): Promise<{ recordId: number; atMs: number; before: Cells; after: Cells }[]> {
  const found = await rows<{ recordId: number; atMs: number; before: string; after: string }>(
    db,
    `SELECT c.record_id AS recordId, ${ms('c.changed_at')} AS atMs, c.before_cells AS \`before\`, c.after_cells AS \`after\`
     FROM record_changes c JOIN records r ON r.id = c.record_id WHERE r.sheet_id = ? AND c.changed_at >= ?
     ORDER BY c.changed_at, c.id LIMIT ?`,
    [sheetId, new Date(fromMs), most],
  );
  return found.map((row) => ({
    ...row,
    before: JSON.parse(row.before) as Cells,
    after: JSON.parse(row.after) as Cells,
  }));
}

/** People in a group now who joined the organisation in a stretch, by the date they joined on. */
export function joinedBetween(
  db: Database,
  who: { sql: string; bindings: readonly unknown[] },
  from: string,
  to: string,
): Promise<{ personId: number; atMs: number }[]> {
  return rows(
    db,
    `SELECT p.id AS personId, ${ms('p.joined_on')} AS atMs FROM people p
     WHERE p.standing <> 'left' AND p.linked_to IS NULL AND (${who.sql}) AND p.joined_on >= ? AND p.joined_on <= ?
     ORDER BY p.joined_on, p.id LIMIT 5000`,
    [...who.bindings, from, to],
  );
}

/** How much an automation really said in a stretch. */
export async function reallySaid(
  db: Database,
  automationId: number,
  fromMs: number,
  toMs: number,
): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    `SELECT CAST(COALESCE(SUM(said), 0) AS SIGNED) AS n FROM automation_runs WHERE automation_id = ? AND ended_at >= ? AND ended_at < ?`,
    [automationId, new Date(fromMs), new Date(toMs)],
  );
  return row?.n ?? 0;
}
