import type { Due } from '../../core/load/clash.ts';
import type { PlannedBucket } from '../../core/plan/buckets.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { mayMove, moved } from './stateStore.ts';
import { SEND_OR_ITS_CHASES } from './store.ts';

/** The rows of an occurrence's buckets. The last one that goes sweeps: it takes along whoever changed zone. */
export function bucketRows(
  occurrenceId: number,
  buckets: readonly PlannedBucket[],
): Record<string, unknown>[] {
  const going = buckets.filter((bucket) => bucket.pastHour !== 'not');
  const last = going.reduce<PlannedBucket | undefined>(
    (latest, bucket) => (!latest || bucket.dueMs >= latest.dueMs ? bucket : latest),
    undefined,
  );
  return buckets.map((bucket) => ({
    occurrence_id: occurrenceId,
    zone: bucket.zone,
    due_at: new Date(bucket.dueMs),
    fate: bucket.pastHour,
    state: bucket.pastHour === 'not' ? 'skipped' : 'planned',
    sweeps: bucket === last,
  }));
}

/** Sets an occurrence that has not begun to other instants; false where it has, or is not planned. */
export async function replaceBuckets(
  db: Database,
  occurrenceId: number,
  made: Pick<NewOccurrence, 'buckets' | 'firstMs' | 'lastMs' | 'deadlineMs'> & {
    versionId?: number;
    movedTo: string | null;
  },
): Promise<boolean> {
  const begun = await rows(
    db,
    "SELECT 1 FROM buckets WHERE occurrence_id = ? AND state NOT IN ('planned', 'held', 'skipped') LIMIT 1 FOR UPDATE",
    [occurrenceId],
  );
  const held = await rows(
    db,
    "SELECT 1 FROM buckets WHERE occurrence_id = ? AND state = 'held' LIMIT 1 FOR UPDATE",
    [occurrenceId],
  );
  if (begun.length > 0) return false;
  const changed = await change(
    db,
    `UPDATE occurrences SET due_at = ?, ends_at = ?, deadline_at = ?, moved_to = ?, version_id = COALESCE(?, version_id)
     WHERE id = ? AND state = 'scheduled'`,
    [
      new Date(made.firstMs),
      new Date(made.lastMs),
      made.deadlineMs === null ? null : new Date(made.deadlineMs),
      made.movedTo,
      made.versionId ?? null,
      occurrenceId,
    ],
  );
  if (changed === 0) return false;
  // An engine may have claimed a bucket between the look and this: then nothing is deleted, and the caller undoes.
  const deleted = await change(
    db,
    "DELETE FROM buckets WHERE occurrence_id = ? AND state IN ('planned', 'held', 'skipped')",
    [occurrenceId],
  );
  if (deleted === 0) return false;
  const left = await rows(db, 'SELECT 1 FROM buckets WHERE occurrence_id = ? LIMIT 1', [occurrenceId]);
  if (left.length > 0) return false;
  await db('buckets').insert(
    bucketRows(occurrenceId, made.buckets).map((row) =>
      held.length > 0 && row.state === 'planned' ? { ...row, state: 'held' } : row,
    ),
  );
  return true;
}

/** What of an occurrence no engine has begun, held until the transaction ends. */
export const plannedBuckets = (db: Database, occurrenceId: number): Promise<{ zone: string }[]> =>
  rows(
    db,
    "SELECT zone FROM buckets WHERE occurrence_id = ? AND state = 'planned' ORDER BY zone FOR UPDATE",
    [occurrenceId],
  );

/** Sets planned buckets of an occurrence to other instants, the last of which sweeps, and its end with them. */
export async function moveBuckets(
  db: Database,
  occurrenceId: number,
  buckets: readonly PlannedBucket[],
): Promise<void> {
  for (const row of bucketRows(occurrenceId, buckets))
    await change(
      db,
      "UPDATE buckets SET due_at = ?, fate = ?, state = ?, sweeps = ? WHERE occurrence_id = ? AND zone = ? AND state = 'planned'",
      [row.due_at, row.fate, row.state, row.sweeps, occurrenceId, row.zone],
    );
  await change(
    db,
    'UPDATE occurrences o SET o.ends_at = (SELECT MAX(b.due_at) FROM buckets b WHERE b.occurrence_id = o.id) WHERE o.id = ?',
    [occurrenceId],
  );
}

/** Holds what of a send and its chases has not begun, while it is paused. */
export const holdPlanned = (db: Database, sendId: number): Promise<number> =>
  change(
    db,
    `UPDATE buckets b JOIN occurrences o ON o.id = b.occurrence_id JOIN sends s ON s.id = o.send_id SET b.state = 'held'
     WHERE ${SEND_OR_ITS_CHASES} AND b.state = 'planned'`,
    [sendId, sendId],
  );

/** Lets what was held go again; what came due meanwhile is not sent after the fact. */
export async function releaseHeld(db: Database, sendId: number): Promise<void> {
  await change(
    db,
    `UPDATE buckets b JOIN occurrences o ON o.id = b.occurrence_id JOIN sends s ON s.id = o.send_id
     SET b.state = IF(b.due_at > NOW(3), 'planned', 'recalled') WHERE ${SEND_OR_ITS_CHASES} AND b.state = 'held'`,
    [sendId, sendId],
  );
  await change(
    db,
    `UPDATE occurrences o JOIN sends s ON s.id = o.send_id SET o.state = ${moved('call off', 'o')}, o.failure = 'It was paused when it was due.'
     WHERE ${SEND_OR_ITS_CHASES} AND ${mayMove('call off', 'o')}
       AND NOT EXISTS (SELECT 1 FROM buckets b WHERE b.occurrence_id = o.id AND b.state NOT IN ('recalled', 'skipped'))`,
    [sendId, sendId],
  );
}

/** The buckets of an occurrence, the earliest first. */
export function bucketsOf(
  db: Database,
  occurrenceId: number,
): Promise<{ zone: string; dueMs: number; state: string; pastHour: PlannedBucket['pastHour'] }[]> {
  return rows(
    db,
    `SELECT zone, ${ms('due_at')} AS dueMs, state, fate AS pastHour FROM buckets WHERE occurrence_id = ? ORDER BY due_at, zone`,
    [occurrenceId],
  );
}

/** When each of some occurrences comes due, zone by zone; without those who do not get it. */
export async function duesOf(db: Database, occurrenceIds: readonly number[]): Promise<Map<number, Due[]>> {
  if (occurrenceIds.length === 0) return new Map();
  const found = await rows<Due & { occurrenceId: number }>(
    db,
    `SELECT occurrence_id AS occurrenceId, zone, ${ms('due_at')} AS dueMs FROM buckets
     WHERE occurrence_id IN (${occurrenceIds.map(() => '?').join(', ')}) AND state NOT IN ('skipped', 'recalled')`,
    occurrenceIds,
  );
  const dues = new Map<number, Due[]>();
  for (const { occurrenceId, zone, dueMs } of found)
    dues.set(occurrenceId, [...(dues.get(occurrenceId) ?? []), { zone, dueMs }]);
  return dues;
}

/** The occurrences of a send that have not begun, the nearest first. */
export async function plannedOf(
  db: Database,
  sendId: number,
): Promise<{ id: number; recursAt: string; dueMs: number; endsMs: number; state: string }[]> {
  return rows(
    db,
    `SELECT id, recurs_at AS recursAt, ${ms('due_at')} AS dueMs, ${ms('ends_at')} AS endsMs, state
     FROM occurrences WHERE send_id = ? AND ends_at > NOW(3) ORDER BY due_at LIMIT 400`,
    [sendId],
  );
}

export interface NewOccurrence {
  sendId: number;
  versionId: number;
  /** The wall-clock time its rule gives, or '' for what goes out once. */
  recursAt: string;
  buckets: readonly PlannedBucket[];
  /** The first and the last instant at which it reaches somebody. */
  firstMs: number;
  lastMs: number;
  deadlineMs: number | null;
  /** Of a chase: the occurrence whose roll it follows up, and which of its chases it is; it recurs at no time of its own. */
  chase?: { of: number; key: string };
}
