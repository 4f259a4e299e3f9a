import {
  answerCountsSchema,
  deliveryCountsSchema,
  type AnswerCounts,
  type DeliveryCounts,
  type Forgotten,
} from '../../core/retention/counts.ts';
import { LATE_MS } from '../../core/delivery/lateness.ts';
import { LEAST_SHOWN } from '../../core/asks/poll/breakdown.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { countedOutside } from '../gateways/placeStore.ts';
import { ms } from '../database/instant.ts';
import { rowsForAll } from '../database/onceForAll.ts';
import { countDeliveries } from '../sends/deliveryCountStore.ts';

/** What is left of a going-out of which something was forgotten. */
export interface KeptCounts extends Forgotten {
  deliveries: DeliveryCounts | null;
  answers: AnswerCounts | null;
}

/** What is left of those of some going-outs of which something was forgotten. */
export async function keptCounts(db: Database, ids: readonly number[]): Promise<Map<number, KeptCounts>> {
  if (ids.length === 0) return new Map();
  const found = await rowsForAll<
    Forgotten & { id: number; deliveries: string | null; answers: string | null }
  >(
    db,
    `SELECT occurrence_id AS id, deliveries, ${ms('deliveries_at')} AS deliveriesMs, answers, ${ms('answers_at')} AS answersMs
     FROM kept_counts WHERE occurrence_id IN (${ids.map(() => '?').join(', ')})`,
    ids,
  );
  return new Map(
    found.map(({ id, deliveries, answers, ...rest }) => [
      id,
      {
        ...rest,
        deliveries: deliveries === null ? null : deliveryCountsSchema.parse(JSON.parse(deliveries)),
        answers: answers === null ? null : answerCountsSchema.parse(JSON.parse(answers)),
      },
    ]),
  );
}

/** What was forgotten of a going-out. */
export async function forgottenOf(db: Database, occurrenceId: number): Promise<Forgotten> {
  const kept = (await keptCounts(db, [occurrenceId])).get(occurrenceId);
  return { deliveriesMs: kept?.deliveriesMs ?? null, answersMs: kept?.answersMs ?? null };
}

/** Sums of what was counted by station: how many were asked, and how many answered. */
export const sumOf = (counts: AnswerCounts): { asked: number; answered: number } => ({
  asked: counts.reduce((sum, row) => sum + row.asked, 0),
  answered: counts.reduce((sum, row) => sum + row.answered, 0),
});

/** How many inboxes it was delivered to. */
export const reachedOf = ({ counts }: DeliveryCounts): number =>
  counts.reduce((n, row) => n + (row.method === 'inbox' && row.state === 'delivered' ? row.n : 0), 0);

/** Writes down what the deliveries of a going-out came to. From then on only that is counted, in this transaction's sight first. */
export async function keepDeliveryCounts(db: Database, occurrenceId: number): Promise<void> {
  await rows(db, 'SELECT id FROM occurrences WHERE id = ? FOR UPDATE', [occurrenceId]);
  const counts = await countDeliveries(db, occurrenceId);
  const outside = await rows<(typeof counts)[number] & { occurrenceId?: number }>(db, countedOutside('?'), [
    LATE_MS,
    occurrenceId,
  ]);
  const [seen] = await rows<{ read: number }>(
    db,
    'SELECT COUNT(read_at) AS `read` FROM deliveries WHERE occurrence_id = ?',
    [occurrenceId],
  );
  const kept = deliveryCountsSchema.parse({
    read: seen?.read ?? 0,
    counts: [...counts, ...outside],
  });
  await change(
    db,
    `INSERT INTO kept_counts (occurrence_id, deliveries, deliveries_at) VALUES (?, ?, NOW(3))
     ON DUPLICATE KEY UPDATE deliveries = COALESCE(deliveries, VALUES(deliveries)),
       deliveries_at = COALESCE(deliveries_at, VALUES(deliveries_at))`,
    [occurrenceId, JSON.stringify(kept)],
  );
}

/**
 * Writes down what a roll came to, and takes the voters from its ballots, so that its result stays and nobody's vote does.
 * Of a station where few were asked neither is kept: what they answered could be told by it.
 */
export async function keepAnswerCounts(db: Database, occurrenceId: number): Promise<void> {
  await rows(db, 'SELECT occurrence_id FROM asks WHERE occurrence_id = ? FOR UPDATE', [occurrenceId]);
  const found = await rows<{ station: string | null; asked: number; answered: number }>(
    db,
    `SELECT s.name AS station, x.asked, x.answered FROM (
       SELECT p.station_id, COUNT(*) AS asked, COUNT(r.answered_at) AS answered
       FROM roll r JOIN people p ON p.id = r.person_id WHERE r.occurrence_id = ? GROUP BY p.station_id) x
     LEFT JOIN stations s ON s.id = x.station_id ORDER BY s.name`,
    [occurrenceId],
  );
  const told = found.filter((row) => row.station !== null && row.asked >= LEAST_SHOWN);
  const rest = found.filter((row) => !told.includes(row));
  const kept: AnswerCounts = rest.length === 0 ? told : [...told, { station: null, ...sumOf(rest) }];
  await change(
    db,
    `INSERT INTO kept_counts (occurrence_id, answers, answers_at) VALUES (?, ?, NOW(3))
     ON DUPLICATE KEY UPDATE answers = COALESCE(answers, VALUES(answers)), answers_at = COALESCE(answers_at, VALUES(answers_at))`,
    [occurrenceId, JSON.stringify(kept)],
  );
  await change(
    db,
    `UPDATE ballots b JOIN people p ON p.id = b.person_id LEFT JOIN stations s ON s.id = p.station_id
     SET b.station_id = IF(s.name IN (${[...told.map(() => '?'), 'NULL'].join(', ')}), p.station_id, NULL), b.person_id = NULL
     WHERE b.occurrence_id = ?`,
    [...told.map((row) => row.station), occurrenceId],
  );
  // It asks nobody any more, and nothing follows from that.
  await change(
    db,
    `UPDATE asks SET closed_at = COALESCE(closed_at, NOW(3)), closed_why = COALESCE(closed_why, 'time'),
       settled_at = COALESCE(settled_at, NOW(3)), list_at = NULL WHERE occurrence_id = ?`,
    [occurrenceId],
  );
  // The key of a ballot was made from its voter.
  await change(db, 'UPDATE ballots SET ballot_key = RANDOM_BYTES(16) WHERE occurrence_id = ?', [
    occurrenceId,
  ]);
}
