import type { Cells } from '../../core/sheets/sheet.ts';
import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import type { Narrowing } from '../sheets/conditionStore.ts';

/** A record with when it was made, as it is now. */
export interface PastRecord {
  id: number;
  cells: Cells;
  madeMs: number;
  fromForm: boolean;
}

/** What a record held before a change and after it; `atMs` in milliseconds since 1970. */
export interface PastChange {
  recordId: number;
  atMs: number;
  before: Cells;
  after: Cells;
}

/**
 * Records of a sheet with when they were made, by their ids: those made or changed from an instant on, and of the others those
 * for which a condition over `records` may hold.
 *
 * @param others null for none of the others
 */
export async function recordsWithBeginning(
  db: Database,
  sheetId: number,
  sinceMs: number,
  others: Narrowing | null,
  most: number,
): Promise<PastRecord[]> {
  const since = new Date(sinceMs);
  const found = await rows<{ id: number; cells: string; madeMs: number; fromForm: number }>(
    db,
    `SELECT r.id, r.cells, ${ms('r.made_at')} AS madeMs, r.from_form AS fromForm FROM records r
     WHERE r.sheet_id = ? AND (r.made_at >= ? OR r.id IN (SELECT c.record_id FROM record_changes c WHERE c.changed_at >= ?)
       ${others ? `OR ${others.sql}` : ''}) ORDER BY r.id LIMIT ?`,
    [sheetId, since, since, ...(others?.values ?? []), most],
  );
  return found.map((row) => ({
    ...row,
    cells: JSON.parse(row.cells) as Cells,
    fromForm: row.fromForm === 1,
  }));
}

/** What changed in a sheet's records from an instant on, in order: of more than so many, the latest. */
export async function changesSince(
  db: Database,
  sheetId: number,
  fromMs: number,
  most: number,
): Promise<PastChange[]> {
  const found = await rows<{ recordId: number; atMs: number; before: string; after: string }>(
    db,
    `SELECT c.record_id AS recordId, ${ms('c.changed_at')} AS atMs, c.before_cells AS \`before\`, c.after_cells AS \`after\`
     FROM record_changes c JOIN records r ON r.id = c.record_id WHERE r.sheet_id = ? AND c.changed_at >= ?
     ORDER BY c.changed_at DESC, c.id DESC LIMIT ?`,
    [sheetId, new Date(fromMs), most],
  );
  // Mostly a record holds before a change what it held after the one before it: that is read once.
  const last = new Map<number, { text: string; cells: Cells }>();
  return found.reverse().map(({ recordId, atMs, before, after }) => {
    const known = last.get(recordId);
    const was = known?.text === before ? known.cells : (JSON.parse(before) as Cells);
    const is = JSON.parse(after) as Cells;
    last.set(recordId, { text: after, cells: is });
    return { recordId, atMs, before: was, after: is };
  });
}

/** People in a group now who joined the organisation in a period, by the date they joined on. */
export function joinedBetween(
  db: Database,
  who: { sql: string; bindings: readonly unknown[] },
  from: string,
  to: string,
  most: number,
): Promise<{ personId: number; atMs: number }[]> {
  return rows(
    db,
    `SELECT p.id AS personId, ${ms('p.joined_on')} AS atMs FROM people p
     WHERE p.standing <> 'left' AND p.linked_to IS NULL AND (${who.sql}) AND p.joined_on >= ? AND p.joined_on <= ?
     ORDER BY p.joined_on, p.id LIMIT ?`,
    [...who.bindings, from, to, most],
  );
}

/** How much an automation really said in a period. */
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
