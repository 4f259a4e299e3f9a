import type { Leave } from '../../core/people/leave.ts';
import type { Standing } from '../../core/audience/expression.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** When somebody is on leave; nothing where no date is noted. */
export async function leaveOf(db: Database, id: number): Promise<Leave | null> {
  const [row] = await rows<{ from: string | null; until: string | null }>(
    db,
    "SELECT DATE_FORMAT(leave_from, '%Y-%m-%d') AS `from`, DATE_FORMAT(leave_until, '%Y-%m-%d') AS until FROM people WHERE id = ?",
    [id],
  );
  return row && row.from !== null ? { from: row.from, until: row.until } : null;
}

export async function setLeave(db: Database, id: number, leave: Leave | null): Promise<void> {
  await change(db, 'UPDATE people SET leave_from = ?, leave_until = ? WHERE id = ?', [
    leave?.from ?? null,
    leave?.until ?? null,
    id,
  ]);
}

/** The zones in which somebody's leave is noted. */
export async function zonesOfLeaves(db: Database): Promise<string[]> {
  const found = await rows<{ zone: string }>(
    db,
    "SELECT DISTINCT zone FROM people WHERE leave_from IS NOT NULL AND standing <> 'left'",
  );
  return found.map((row) => row.zone);
}

/** Who in a zone stands otherwise than their leave has it on a date; held until the transaction ends. */
export function standingOtherwise(
  db: Database,
  zone: string,
  date: string,
): Promise<{ id: number; becomes: Extract<Standing, 'active' | 'on leave'> }[]> {
  return rows(
    db,
    `SELECT id, 'on leave' AS becomes FROM people
     WHERE zone = ? AND standing = 'active' AND leave_from <= ? AND (leave_until IS NULL OR leave_until >= ?)
     UNION ALL
     SELECT id, 'active' FROM people
     WHERE zone = ? AND standing = 'on leave' AND leave_from IS NOT NULL AND (leave_from > ? OR leave_until < ?)
     FOR UPDATE`,
    [zone, date, date, zone, date, date],
  );
}

/** Moves somebody between being here and being on leave; who has left stays so. A leave that is over is forgotten. */
export async function standAs(
  db: Database,
  id: number,
  becomes: 'active' | 'on leave',
  date: string,
): Promise<boolean> {
  const moved = await change(
    db,
    "UPDATE people SET standing = ? WHERE id = ? AND standing IN ('active', 'on leave') AND standing <> ?",
    [becomes, id, becomes],
  );
  await change(
    db,
    'UPDATE people SET leave_from = NULL, leave_until = NULL WHERE id = ? AND leave_until < ?',
    [id, date],
  );
  return moved === 1;
}
