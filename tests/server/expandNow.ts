import { expand, readWorld } from '../../src/server/engine/expand.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { occurrenceById } from '../../src/server/sends/occurrenceStore.ts';

/** Runs the engine's own expansion on every planned bucket of an occurrence, in order, as if each had just come due. */
export async function expandNow(db: Database, occurrenceId: number): Promise<void> {
  const claimant = { engine: 'test', seconds: 60 };
  const world = await readWorld(db);
  const buckets = await rows<{ id: number; dueMs: number; zone: string; sweeps: number }>(
    db,
    `SELECT id, TIMESTAMPDIFF(MICROSECOND, '1970-01-01', due_at) DIV 1000 AS dueMs, zone, sweeps FROM buckets
     WHERE occurrence_id = ? AND state = 'planned' ORDER BY due_at, sweeps`,
    [occurrenceId],
  );
  for (const bucket of buckets) {
    const occurrence = await occurrenceById(db, occurrenceId);
    if (!occurrence) throw new Error('No such occurrence');
    await db.raw(
      "UPDATE buckets SET state = 'expanding', lease_owner = 'test', lease_until = NOW(3) + INTERVAL 60 SECOND WHERE id = ?",
      [bucket.id],
    );
    await expand(db, { ...bucket, occurrenceId, attempts: 1, expandedTo: 0 }, occurrence, claimant, world);
  }
}
