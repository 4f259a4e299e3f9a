import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { mayMove, moved } from './stateStore.ts';

/** What of a recurring send is written and has not come due, skipped or not. */
export function comingWritten(
  db: Database,
  sendId: number,
  most: number,
): Promise<
  { id: number; recursAt: string; dueMs: number; endsMs: number; movedTo: string | null; skipped: number }[]
> {
  return rows(
    db,
    `SELECT id, recurs_at AS recursAt, ${ms('due_at')} AS dueMs, ${ms('ends_at')} AS endsMs, moved_to AS movedTo,
       state = 'recalled' AS skipped
     FROM occurrences WHERE send_id = ? AND recurs_at <> '' AND due_at > NOW(3)
       AND state IN ('scheduled', 'recalled') ORDER BY due_at, id LIMIT ?`,
    [sendId, most],
  );
}

/** The occurrence that stands for what a rule gives at a wall-clock time, or null. */
export async function writtenAs(db: Database, sendId: number, recursAt: string): Promise<number | null> {
  const [row] = await rows<{ id: number }>(
    db,
    'SELECT id FROM occurrences WHERE send_id = ? AND recurs_at = ?',
    [sendId, recursAt],
  );
  return row?.id ?? null;
}

/** The wall-clock times of some recurring sends that are written after an instant, as `send:time`. */
export async function writtenAfter(
  db: Database,
  sendIds: readonly number[],
  afterMs: number,
): Promise<Set<string>> {
  if (sendIds.length === 0) return new Set();
  const found = await rows<{ sendId: number; recursAt: string }>(
    db,
    `SELECT send_id AS sendId, recurs_at AS recursAt FROM occurrences
     WHERE send_id IN (${sendIds.map(() => '?').join(', ')}) AND recurs_at <> '' AND ends_at >= ?`,
    [...sendIds, new Date(afterMs)],
  );
  return new Set(found.map((row) => `${row.sendId}:${row.recursAt}`));
}

/** Plans again what was skipped whole and has not come due; false where something of it has, or it is planned. */
export async function putBackSkipped(db: Database, occurrenceId: number): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE occurrences o SET o.state = ${moved('plan again', 'o')}, o.failure = NULL, o.taken_back_at = NULL
     WHERE o.id = ? AND ${mayMove('plan again', 'o')} AND o.due_at > NOW(3)`,
    [occurrenceId],
  );
  if (changed === 0) return false;
  await change(db, "UPDATE buckets SET state = 'planned' WHERE occurrence_id = ? AND state = 'recalled'", [
    occurrenceId,
  ]);
  return true;
}
