import type { DeliveryState } from '../../core/delivery/states.ts';
import { LATE_MS } from '../../core/delivery/lateness.ts';
import { deliveryCountsSchema, type DeliveryCounts } from '../../core/retention/counts.ts';
import { change, rows, transact, type Database } from '../database/connection.ts';

type Counts = DeliveryCounts['counts'];
const countsSchema = deliveryCountsSchema.shape.counts;
const ON_THEIR_WAY: ReadonlySet<DeliveryState> = new Set(['waiting', 'sending', 'resting']);

/**
 * A statement that counts the deliveries of some occurrences: first a binding of how many milliseconds are late, then the occurrences.
 *
 * @param marks the places of the occurrences' bindings
 */
export const countedDeliveries = (marks: string): string =>
  `SELECT occurrence_id AS occurrenceId, method, state, COUNT(*) AS n, CAST(COALESCE(SUM(late_ms > ?), 0) AS SIGNED) AS late,
     MAX(late_ms) AS worstLateMs
   FROM deliveries WHERE occurrence_id IN (${marks}) GROUP BY occurrence_id, method, state`;

/** What the deliveries of an occurrence come to, counted now. */
export const countDeliveries = async (db: Database, occurrenceId: number): Promise<Counts> =>
  countsSchema.parse(await rows(db, countedDeliveries('?'), [LATE_MS, occurrenceId]));

/**
 * Writes down what the deliveries of an occurrence came to that has been sent, unless some are on their way again, as to those
 * who joined later. Who changes one afterwards says so with `recountDeliveries` in the same transaction: the two wait for each other at the row of the occurrence, or where they are on two
 * nodes of the database one of them is refused and done again.
 */
export async function recordCounts(db: Database, occurrenceId: number): Promise<void> {
  await transact(db, async (trx) => {
    const [found] = await rows<{ state: string }>(
      trx,
      'SELECT state FROM occurrences WHERE id = ? FOR UPDATE',
      [occurrenceId],
    );
    if (found?.state !== 'sent') return;
    const counts = await countDeliveries(trx, occurrenceId);
    if (counts.some(({ state }) => ON_THEIR_WAY.has(state))) return;
    await change(
      trx,
      'UPDATE occurrences SET settled_counts = ?, settled_changes = settled_changes + 1 WHERE id = ?',
      [JSON.stringify(counts), occurrenceId],
    );
  });
}

/** Has the deliveries of occurrences counted again, of which some are changed in this transaction. */
export async function recountDeliveries(trx: Database, occurrenceIds: readonly number[]): Promise<void> {
  if (occurrenceIds.length === 0) return;
  await change(
    trx,
    `UPDATE occurrences SET settled_counts = NULL, settled_changes = settled_changes + 1
     WHERE id IN (${occurrenceIds.map(() => '?').join(', ')})`,
    occurrenceIds,
  );
}

/** What was written down of those of some occurrences that are settled. */
export async function recordedCounts(
  db: Database,
  occurrenceIds: readonly number[],
): Promise<Map<number, Counts>> {
  const found = await rows<{ id: number; counts: string }>(
    db,
    `SELECT id, settled_counts AS counts FROM occurrences
     WHERE id IN (${occurrenceIds.map(() => '?').join(', ')}) AND state = 'sent' AND settled_counts IS NOT NULL`,
    occurrenceIds,
  );
  return new Map(found.map(({ id, counts }) => [id, countsSchema.parse(JSON.parse(counts))]));
}

const LATELY_DAYS = 60;
const AT_A_TIME = 20;

/**
 * Settles some that were sent lately and are not: since they were counted anew, or sent by a version before this. Any of them, so
 * that those whose mail waits for days hold up no others. Gives how many were looked at.
 */
export async function recordCountsLately(db: Database): Promise<number> {
  const found = await rows<{ id: number }>(
    db,
    `SELECT id FROM occurrences FORCE INDEX (occurrences_by_state)
     WHERE state = 'sent' AND due_at > NOW(3) - INTERVAL ? DAY AND settled_counts IS NULL ORDER BY RAND() LIMIT ?`,
    [LATELY_DAYS, AT_A_TIME],
  );
  for (const { id } of found) await recordCounts(db, id);
  return found.length;
}
