import type { Sql } from '../audience/sql.ts';
import type { WaitingSql } from '../bundling/waiting.ts';
import { claimDue } from '../database/claims.ts';
import { change, rows, transact, type Database } from '../database/connection.ts';
import { restSql, type Resting } from '../people/rest.ts';
import { Problem } from '../problem.ts';
import { earliest, ms } from '../database/instant.ts';
import { recordCounts } from '../sends/deliveryCountStore.ts';
import { mayMove, moved } from '../sends/stateStore.ts';

/** Who claims, and for how long a claim holds without being renewed. */
export interface Claimant {
  engine: string;
  seconds: number;
}

export interface Bucket {
  id: number;
  occurrenceId: number;
  dueMs: number;
  attempts: number;
  expandedTo: number;
  /** The zone whose readers it is for; '' for everybody. */
  zone: string;
  /** Whether it is the last of its occurrence and takes along whoever changed zone and was missed. */
  sweeps: number;
}

/** SQL for the next instant at which a bucket is due, or the claim of one ends whose engine died. */
export const BUCKET_DUE = earliest(
  `SELECT due_at FROM buckets FORCE INDEX (buckets_by_due)
   WHERE state = 'planned' AND (lease_until IS NULL OR lease_until <= NOW(3)) ORDER BY due_at LIMIT 1`,
  `SELECT MIN(lease_until) FROM buckets FORCE INDEX (buckets_by_due)
   WHERE state = 'planned' AND due_at <= NOW(3) AND lease_until > NOW(3)`,
  "SELECT MIN(GREATEST(due_at, COALESCE(lease_until, due_at))) FROM buckets FORCE INDEX (buckets_by_due) WHERE state = 'expanding'",
);

/**
 * Claims buckets that are due, or whose engine died, the earliest due first. What it holds already it takes up again: it is at
 * work on nothing while it claims, and did not hear that a claim was committed. Rows another engine is claiming at this
 * moment are skipped, and the change is conditional on what was read: of any number of engines, one gets each.
 * Recalling is a conditional update of the same row, so a send is either taken back or goes out, never half of each.
 */
export function claimBuckets(db: Database, { engine, seconds }: Claimant, most: number): Promise<Bucket[]> {
  return claimDue<Bucket>(db, {
    states: ['planned', 'expanding'],
    most,
    due: (trx, state, limit) =>
      rows(
        trx,
        `SELECT id, occurrence_id AS occurrenceId, ${ms('due_at')} AS dueMs, attempts + 1 AS attempts, expanded_to AS expandedTo, zone, sweeps
         FROM buckets FORCE INDEX (buckets_by_due) WHERE state = ? AND due_at <= NOW(3)
           AND (lease_until IS NULL OR lease_until <= NOW(3) OR lease_owner = ?)
         ORDER BY due_at LIMIT ? FOR UPDATE SKIP LOCKED`,
        [state, engine, limit],
      ),
    mark: (trx, found) =>
      change(
        trx,
        `UPDATE buckets b JOIN occurrences o ON o.id = b.occurrence_id
         SET b.state = 'expanding', b.lease_owner = ?, b.lease_until = NOW(3) + INTERVAL ? SECOND,
           b.attempts = b.attempts + 1, o.state = IF(b.due_at >= o.due_at, ${moved('begin', 'o')}, o.state)
         WHERE b.id IN (${found.map(() => '?').join(', ')}) AND b.state IN ('planned', 'expanding')`,
        [engine, seconds, ...found.map((bucket) => bucket.id)],
      ),
  });
}

/** Of an audience that is most of all people, so many ids hold a batch; each time they do not, it is looked among so many more. */
const WIDTH_OF_LENGTH = 4;
const WIDER = 8;

/**
 * The next batch of an audience, by person id: where it ends, and whether it is the last; null past the end. Of the
 * audience, not of all people: twenty people among a hundred thousand are one batch, found through their group. It is looked
 * for among the next ids only: among all that are left, the database would sort these for each batch.
 *
 * @param width among so many ids, as the batch before it was found
 */
export async function nextBatch(
  db: Database,
  after: number,
  length: number,
  who: Sql,
  width = length * WIDTH_OF_LENGTH,
): Promise<{ to: number; last: boolean; width: number } | null> {
  for (let among = width; ; among *= WIDER) {
    const [row] = await rows<{ to: number | null; n: number; lastId: number }>(
      db,
      `SELECT MAX(id) AS \`to\`, COUNT(*) AS n, (SELECT CAST(COALESCE(MAX(id), 0) AS SIGNED) FROM people) AS lastId
       FROM (SELECT p.id FROM people p WHERE p.id > ? AND p.id <= ? AND ${who.sql} ORDER BY p.id LIMIT ?) batch`,
      [after, after + among, ...who.bindings, length],
    );
    const { to = null, n = 0, lastId = 0 } = row ?? {};
    const full = n >= length;
    if (full || after + among >= lastId) return to === null ? null : { to, last: !full, width: among };
  }
}

export interface DeliveryBatch {
  occurrenceId: number;
  dueMs: number;
  after: number;
  to: number;
}

/** Delivers to the inbox of everybody in the audience within a batch of people. Writing it again changes nothing. */
export function deliverToInbox(
  db: Database,
  { occurrenceId, dueMs, after, to }: DeliveryBatch,
  who: Sql,
  resting: readonly Resting[],
): Promise<number> {
  const due = new Date(dueMs);
  if (resting.length === 0)
    return change(
      db,
      `INSERT INTO deliveries (occurrence_id, person_id, method, state, due_at, went_at)
       SELECT ?, p.id, 'inbox', 'delivered', ?, NOW(3) FROM people p WHERE p.id > ? AND p.id <= ? AND ${who.sql}
       ON DUPLICATE KEY UPDATE deliveries.person_id = deliveries.person_id`,
      [occurrenceId, due, after, to, ...who.bindings],
    );
  const until = restSql(resting);
  return change(
    db,
    `INSERT INTO deliveries (occurrence_id, person_id, method, state, due_at, went_at, try_at)
     SELECT ?, w.id, 'inbox', IF(w.rests IS NULL, 'delivered', 'resting'), COALESCE(w.rests, ?),
       IF(w.rests IS NULL, NOW(3), NULL), w.rests
     FROM (SELECT p.id, ${until.sql} AS rests FROM people p WHERE p.id > ? AND p.id <= ? AND ${who.sql}) w
     ON DUPLICATE KEY UPDATE deliveries.person_id = deliveries.person_id`,
    [occurrenceId, due, ...until.bindings, after, to, ...who.bindings],
  );
}

/** Delivers what rested in the inbox until now, some at a time; gives the occurrences it delivered of. */
export async function endRest(
  db: Database,
  most: number,
): Promise<{ delivered: number; occurrenceIds: number[] }> {
  const found = await rows<{ occurrenceId: number }>(
    db,
    `SELECT DISTINCT occurrence_id AS occurrenceId FROM deliveries FORCE INDEX (deliveries_to_try)
     WHERE state = 'resting' AND try_at <= NOW(3) LIMIT 50`,
  );
  if (found.length === 0) return { delivered: 0, occurrenceIds: [] };
  const occurrenceIds = found.map((row) => row.occurrenceId);
  const delivered = await change(
    db,
    `UPDATE deliveries SET state = 'delivered', went_at = NOW(3), try_at = NULL
     WHERE state = 'resting' AND try_at <= NOW(3) AND occurrence_id IN (${occurrenceIds.map(() => '?').join(', ')}) LIMIT ?`,
    [...occurrenceIds, most],
  );
  return { delivered, occurrenceIds };
}

/** SQL for the next instant at which somebody's quiet hours end that something waits for. */
export const REST_END = "SELECT MIN(try_at) FROM deliveries WHERE state = 'resting'";

/** Copies in the linked contacts, by mail, of those of a batch who have got it. */
export function lineUpContacts(db: Database, { occurrenceId, after, to }: DeliveryBatch): Promise<number> {
  return change(
    db,
    `INSERT INTO deliveries (occurrence_id, person_id, method, state, due_at, try_at)
     SELECT ?, c.id, 'mail', 'waiting', i.due_at, i.due_at FROM deliveries i JOIN people c ON c.linked_to = i.person_id
     WHERE i.occurrence_id = ? AND i.method = 'inbox' AND i.person_id > ? AND i.person_id <= ?
       AND c.mail IS NOT NULL AND c.standing <> 'left' AND c.mail_stopped_at IS NULL
     ON DUPLICATE KEY UPDATE deliveries.person_id = deliveries.person_id`,
    [occurrenceId, occurrenceId, after, to],
  );
}

/** Marks an occurrence as going out, once something of it has reached somebody. */
export const markGoingOut = (db: Database, occurrenceId: number): Promise<number> =>
  change(db, `UPDATE occurrences o SET o.state = ${moved('begin', 'o')} WHERE o.id = ?`, [occurrenceId]);

/** The zones of an occurrence whose readers do not get it, because the hour had passed there. */
export async function skippedZones(db: Database, occurrenceId: number): Promise<string[]> {
  const found = await rows<{ zone: string }>(
    db,
    "SELECT zone FROM buckets WHERE occurrence_id = ? AND state = 'skipped'",
    [occurrenceId],
  );
  return found.map((row) => row.zone);
}

/**
 * Lines up mail for those of a batch who have just got it in the inbox and can get mail.
 *
 * @param waits when it goes to those for whom it is gathered with other mail; null where it is for nobody
 */
export function lineUpMail(
  db: Database,
  { occurrenceId, after, to }: DeliveryBatch,
  stoppable: boolean,
  waits: WaitingSql | null,
): Promise<number> {
  return change(
    db,
    `INSERT INTO deliveries (occurrence_id, person_id, method, state, due_at, try_at, bundle_at)
     SELECT ?, w.id, 'mail', 'waiting', COALESCE(w.bundle, w.due_at), COALESCE(w.bundle, w.due_at), w.bundle
     FROM (SELECT p.id, i.due_at, ${waits?.sql ?? 'NULL'} AS bundle FROM deliveries i JOIN people p ON p.id = i.person_id
       WHERE i.occurrence_id = ? AND i.method = 'inbox' AND i.person_id > ? AND i.person_id <= ?
         AND p.mail IS NOT NULL ${stoppable ? 'AND p.mail_stopped_at IS NULL' : ''}) w
     ON DUPLICATE KEY UPDATE deliveries.person_id = deliveries.person_id`,
    [occurrenceId, ...(waits?.bindings ?? []), occurrenceId, after, to],
  );
}

/** Puts those of a batch who have got it on the roll. */
export function putOnRoll(db: Database, { occurrenceId, after, to }: DeliveryBatch): Promise<number> {
  return change(
    db,
    `INSERT INTO roll (occurrence_id, person_id)
     SELECT i.occurrence_id, i.person_id FROM deliveries i
     WHERE i.occurrence_id = ? AND i.method = 'inbox' AND i.person_id > ? AND i.person_id <= ?
     ON DUPLICATE KEY UPDATE roll.person_id = roll.person_id`,
    [occurrenceId, after, to],
  );
}

/** Notes how far a bucket is and renews the claim; false where the claim was lost, and the batch must be undone. */
export async function advanceBucket(
  db: Database,
  id: number,
  { engine, seconds }: Claimant,
  to: number,
): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE buckets SET expanded_to = ?, lease_until = NOW(3) + INTERVAL ? SECOND
     WHERE id = ? AND state = 'expanding' AND lease_owner = ?`,
    [to, seconds, id, engine],
  );
  return changed === 1;
}

export async function finishBucket(db: Database, id: number, engine: string): Promise<boolean> {
  const changed = await change(
    db,
    "UPDATE buckets SET state = 'expanded' WHERE id = ? AND state = 'expanding' AND lease_owner = ?",
    [id, engine],
  );
  return changed === 1;
}

/** Gives a bucket back to be tried again after some seconds. */
export async function returnBucket(db: Database, id: number, engine: string, seconds: number): Promise<void> {
  await change(
    db,
    `UPDATE buckets SET state = 'planned', lease_owner = NULL, lease_until = NOW(3) + INTERVAL ? SECOND
     WHERE id = ? AND state = 'expanding' AND lease_owner = ?`,
    [seconds, id, engine],
  );
}

/** Puts a bucket that was given up back in line. */
export async function planBucketAgain(db: Database, id: number): Promise<void> {
  const changed = await change(
    db,
    `UPDATE buckets b JOIN occurrences o ON o.id = b.occurrence_id
     SET b.state = 'planned', b.attempts = 0, b.lease_until = NULL, o.failure = NULL, o.sent_at = NULL,
       o.settled_counts = NULL, o.settled_changes = o.settled_changes + 1,
       o.state = IF(b.expanded_to > 0 OR o.state = 'sent', ${moved('go on', 'o')}, ${moved('begin again', 'o')})
     WHERE b.id = ? AND b.state = 'failed'`,
    [id],
  );
  if (changed === 0) throw new Problem(409, 'It is not given up any more. Look at how it stands now.');
}

/** Gives up on a bucket, and says why on its occurrence. */
export async function failBucket(
  db: Database,
  bucket: Bucket,
  engine: string,
  reason: string,
): Promise<void> {
  await transact(db, async (trx) => {
    const failed = await change(
      trx,
      "UPDATE buckets SET state = 'failed' WHERE id = ? AND state = 'expanding' AND lease_owner = ?",
      [bucket.id, engine],
    );
    if (failed === 1)
      await change(
        trx,
        `UPDATE occurrences o SET o.state = ${moved('fail', 'o')}, o.failure = ?, o.sent_at = NOW(3)
         WHERE o.id = ? AND ${mayMove('fail', 'o')}`,
        [reason.slice(0, 500), bucket.occurrenceId],
      );
  });
}

/** Ends a bucket of which nothing went, and its occurrence, as taken back: nothing has failed. */
export async function endUnsent(
  db: Database,
  bucket: Bucket,
  engine: string,
  why: string | null,
): Promise<void> {
  await transact(db, async (trx) => {
    const ended = await change(
      trx,
      "UPDATE buckets SET state = 'recalled' WHERE id = ? AND state = 'expanding' AND lease_owner = ?",
      [bucket.id, engine],
    );
    if (ended === 1)
      await change(
        trx,
        `UPDATE occurrences o SET o.state = ${moved('recall', 'o')}, o.failure = ? WHERE o.id = ? AND ${mayMove('recall', 'o')}`,
        [why, bucket.occurrenceId],
      );
  });
}

/** Whether an occurrence was taken back meanwhile; held so that it is not while the transaction writes more of it. */
export async function isTakenBack(db: Database, occurrenceId: number): Promise<boolean> {
  const found = await rows(
    db,
    'SELECT 1 FROM occurrences WHERE id = ? AND taken_back_at IS NOT NULL LOCK IN SHARE MODE',
    [occurrenceId],
  );
  return found.length > 0;
}

/** Marks occurrences as sent once every bucket is expanded and no mail of theirs is waiting; gives those it marked. */
export async function markSent(db: Database, occurrenceIds: readonly number[]): Promise<number[]> {
  const marked: number[] = [];
  for (const id of occurrenceIds) {
    const changed = await change(
      db,
      `UPDATE occurrences SET state = ${moved('finish', 'occurrences')}, sent_at = NOW(3)
       WHERE id = ? AND ${mayMove('finish', 'occurrences')}
         AND NOT EXISTS (SELECT 1 FROM buckets WHERE occurrence_id = occurrences.id AND state IN ('planned', 'held', 'expanding'))
         AND NOT EXISTS (SELECT 1 FROM deliveries WHERE occurrence_id = occurrences.id AND state IN ('waiting', 'sending', 'resting'))
         AND NOT EXISTS (SELECT 1 FROM hook_deliveries d JOIN hooks_out h ON h.id = d.hook_id AND h.state = 'on'
           WHERE d.occurrence_id = occurrences.id AND d.state IN ('waiting', 'sending'))`,
      [id],
    );
    if (changed === 0) continue;
    marked.push(id);
    await recordCounts(db, id);
  }
  return marked;
}

/** Occurrences still going out, for finishing what an engine that died had left unmarked. */
export async function goingOut(db: Database): Promise<number[]> {
  const found = await rows<{ id: number }>(
    db,
    "SELECT id FROM occurrences WHERE state = 'going out' LIMIT 100",
  );
  return found.map((row) => row.id);
}
