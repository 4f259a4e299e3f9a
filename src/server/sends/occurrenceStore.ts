import type { Importance } from '../../core/content/announcement.ts';
import { LATE_MS } from '../../core/delivery/lateness.ts';
import type { OccurrenceState } from '../../core/delivery/states.ts';
import type { Need } from '../../core/desk/desk.ts';
import type { DeliveryCount, SendPage, Trouble } from '../../core/sends/send.ts';
import type { Ask } from '../../core/asks/ask.ts';
import { planOfChase, type Plan } from '../../core/plan/plan.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { insertMany } from '../database/insertMany.ts';
import { ms } from '../database/instant.ts';
import { onceForAll, rowsForAll } from '../database/onceForAll.ts';
import { countedOutside, retryPlaces } from '../gateways/placeStore.ts';
import { keptCounts } from '../retention/keptStore.ts';
import { recountDeliveries, countedDeliveries, recordedCounts } from './deliveryCountStore.ts';
import { mayMove, moved } from './stateStore.ts';
import { type SendRow, planOrNone } from './store.ts';
import { bucketRows, type NewOccurrence } from './bucketStore.ts';

/** Plans an occurrence with its buckets, once: gives its id, or null where it was planned already. */
export async function insertOccurrence(db: Database, made: NewOccurrence): Promise<number | null> {
  const result = (await db.raw(
    `INSERT INTO occurrences (send_id, version_id, recurs_at, due_at, ends_at, deadline_at, chases, chase_key)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE occurrences.id = occurrences.id`,
    [
      made.sendId,
      made.versionId,
      made.chase ? null : made.recursAt,
      new Date(made.firstMs),
      new Date(made.lastMs),
      made.deadlineMs === null ? null : new Date(made.deadlineMs),
      made.chase?.of ?? null,
      made.chase?.key ?? null,
    ],
  )) as [{ insertId: number }, unknown];
  const { insertId } = result[0];
  if (insertId === 0) return null;
  await db('buckets').insert(bucketRows(insertId, made.buckets));
  return insertId;
}

/** Plans the first occurrence of sends that were written just now, with their buckets; gives their ids, in their order. */
export async function insertFirst(db: Database, made: readonly NewOccurrence[]): Promise<number[]> {
  const ids = await insertMany(
    db,
    'occurrences',
    made.map((each) => ({
      send_id: each.sendId,
      version_id: each.versionId,
      recurs_at: each.recursAt,
      due_at: new Date(each.firstMs),
      ends_at: new Date(each.lastMs),
      deadline_at: each.deadlineMs === null ? null : new Date(each.deadlineMs),
    })),
  );
  const buckets = made.flatMap(({ buckets: of }, at) => bucketRows(ids[at] ?? 0, of));
  for (let at = 0; at < buckets.length; at += 1000) await db('buckets').insert(buckets.slice(at, at + 1000));
  return ids;
}

/** Whether anything of an occurrence has been delivered or posted. */
export async function anythingWent(db: Database, occurrenceId: number): Promise<boolean> {
  const found = await rows(
    db,
    `(SELECT 1 FROM deliveries WHERE occurrence_id = ? AND state <> 'called off' LIMIT 1) UNION ALL
     (SELECT 1 FROM posts WHERE occurrence_id = ? LIMIT 1) UNION ALL
     (SELECT 1 FROM hook_deliveries WHERE occurrence_id = ? AND state <> 'called off' LIMIT 1) UNION ALL
     (SELECT 1 FROM kept_counts WHERE occurrence_id = ?)`,
    [occurrenceId, occurrenceId, occurrenceId, occurrenceId],
  );
  return found.length > 0;
}

/** Gives what has gone another text, with a note for its readers. */
export async function correctOccurrence(
  db: Database,
  occurrenceId: number,
  versionId: number,
  note: string,
): Promise<void> {
  await change(
    db,
    'UPDATE occurrences SET version_id = ?, corrected_at = NOW(3), correction = ? WHERE id = ?',
    [versionId, note, occurrenceId],
  );
}

export interface Occurrence {
  id: number;
  announcementId: number;
  versionId: number;
  createdBy: number;
  createdByName: string;
  title: string;
  importance: Importance;
  sendId: number;
  kind: 'send' | 'test' | 'correction' | 'chase';
  /** Of a chase: the occurrence whose roll it follows up; null for anything else. */
  chases: number | null;
  /** The occurrence whose roll its readers are on: of a chase the one it follows up, of any other itself. */
  rollOf: number;
  /** Whether an automation said it to one person. */
  toOne: number;
  /** Whether its plan cannot be read; `plan` and `asked` are then empty, and nothing of it goes out. */
  unreadable: boolean;
  /** What is asked: of a chase, by the occurrence it follows up. */
  asked: Ask;
  sendState: SendRow['state'];
  /** The wall-clock time its rule gave, or '' for what goes out once. */
  recursAt: string;
  /** The wall-clock time it was set to instead, or null. */
  movedTo: string | null;
  plan: Plan;
  state: OccurrenceState;
  /** The first and the last instant at which it is due, which differ where it goes by each reader's clock. */
  dueMs: number;
  endsMs: number;
  correctedMs: number | null;
  correction: string | null;
  seriesId: number | null;
  number: number | null;
  sentMs: number | null;
  deadlineMs: number | null;
  failure: string | null;
  /** Since when its readers are told that it does not hold, and what they are told instead; null where it holds. */
  withdrawn: { atMs: number; note: string } | null;
}

const OCCURRENCE = `SELECT o.id, s.announcement_id AS announcementId, o.version_id AS versionId, s.created_by AS createdBy,
    p.name AS createdByName, v.title, v.importance, s.id AS sendId, s.kind, o.chases, s.state AS sendState, COALESCE(o.recurs_at, '') AS recursAt,
    o.moved_to AS movedTo, s.to_one AS toOne, s.plan, o.state, ${ms('o.due_at')} AS dueMs, ${ms('o.ends_at')} AS endsMs, ${ms('o.corrected_at')} AS correctedMs,
    o.correction, v.series_id AS seriesId, v.number, ${ms('o.sent_at')} AS sentMs, ${ms('o.deadline_at')} AS deadlineMs, o.failure,
    ${ms('o.withdrawn_at')} AS withdrawnMs, o.withdrawn_note AS withdrawnNote
  FROM occurrences o JOIN sends s ON s.id = o.send_id JOIN announcement_versions v ON v.id = o.version_id
    JOIN people p ON p.id = s.created_by`;

type Row = Omit<Occurrence, 'plan' | 'asked' | 'rollOf' | 'unreadable' | 'withdrawn'> & {
  plan: string;
  withdrawnMs: number | null;
  withdrawnNote: string | null;
};
function read({ withdrawnMs, withdrawnNote, ...row }: Row): Occurrence {
  const { plan, unreadable } = planOrNone(row.plan);
  return {
    ...row,
    unreadable,
    withdrawn: withdrawnMs === null ? null : { atMs: withdrawnMs, note: withdrawnNote ?? '' },
    failure: unreadable ? 'Its plan cannot be read by this version of Clear Bell.' : row.failure,
    asked: plan.ask,
    rollOf: row.chases ?? row.id,
    plan: row.chases === null ? plan : planOfChase(plan, row.chases, row.dueMs),
  };
}

/** One occurrence; the same for all who ask for it at this moment, as everybody does who follows the link of an urgent mail. */
export const occurrenceById = (db: Database, id: number): Promise<Occurrence | undefined> =>
  onceForAll(db, ['occurrence', id], async () => {
    const [row] = await rows<Row>(db, `${OCCURRENCE} WHERE o.id = ?`, [id]);
    return row && read(row);
  });

/** An occurrence, or of a chase the one it follows up: where what is asked of its readers stands. */
export async function askedOccurrence(db: Database, id: number): Promise<Occurrence | undefined> {
  const found = await occurrenceById(db, id);
  return found && found.rollOf !== id ? occurrenceById(db, found.rollOf) : found;
}

export async function occurrencesByIds(
  db: Database,
  ids: readonly number[],
): Promise<Map<number, Occurrence>> {
  if (ids.length === 0) return new Map();
  const found = await rows<Row>(db, `${OCCURRENCE} WHERE o.id IN (${ids.map(() => '?').join(', ')})`, ids);
  return new Map(found.map((row) => [row.id, read(row)]));
}

/**
 * What is due from one instant to before another, in order; one author's, or all. By readers' clocks an occurrence takes
 * two days at most, so those that began earlier need not be looked at.
 */
export async function occurrencesBetween(
  db: Database,
  fromMs: number,
  toMs: number,
  authorId: number | null,
): Promise<Occurrence[]> {
  const found = await rows<Row>(
    db,
    `${OCCURRENCE} WHERE o.due_at < ? AND o.due_at >= ? - INTERVAL 3 DAY AND o.ends_at >= ? AND (? IS NULL OR s.created_by = ?) AND s.kind <> 'test' AND NOT s.to_one
     ORDER BY o.due_at, o.id LIMIT 1000`,
    [new Date(toMs), new Date(fromMs), new Date(fromMs), authorId, authorId],
  );
  return found.map(read);
}

/** The newest occurrence of an announcement that was not taken back. */
export async function latestOccurrence(
  db: Database,
  announcementId: number,
): Promise<Occurrence | undefined> {
  const [row] = await rows<Row>(
    db,
    `${OCCURRENCE} WHERE s.announcement_id = ? AND o.state <> 'recalled' AND s.kind = 'send' ORDER BY o.id DESC LIMIT 1`,
    [announcementId],
  );
  return row && read(row);
}

/** Deliveries of some occurrences counted by method and state; late is more than a second after due. */
export async function deliveryCounts(
  db: Database,
  occurrenceIds: readonly number[],
): Promise<Map<number, DeliveryCount[]>> {
  if (occurrenceIds.length === 0) return new Map();
  const [kept, settled] = await Promise.all([
    keptCounts(db, occurrenceIds),
    recordedCounts(db, occurrenceIds),
  ]);
  const marks = (ids: readonly number[]): string => ids.map(() => '?').join(', ');
  type Found = DeliveryCount & { occurrenceId: number };
  const open = occurrenceIds.filter((id) => !settled.has(id) && !kept.get(id)?.deliveries);
  const [deliveries, outside] = await Promise.all([
    open.length === 0 ? [] : rowsForAll<Found>(db, countedDeliveries(marks(open)), [LATE_MS, ...open]),
    rowsForAll<Found>(db, countedOutside(marks(occurrenceIds)), [LATE_MS, ...occurrenceIds]),
  ]);
  const counts = new Map<number, DeliveryCount[]>(settled);
  for (const { occurrenceId, ...row } of [...deliveries, ...outside])
    counts.set(occurrenceId, [...(counts.get(occurrenceId) ?? []), row]);
  for (const [occurrenceId, { deliveries }] of kept)
    if (deliveries) counts.set(occurrenceId, deliveries.counts);
  return counts;
}

/** Mail of an occurrence that waits for its bundle, and when the first and the last of it go, in milliseconds since 1970. */
export async function gatheredMail(db: Database, occurrenceId: number): Promise<SendPage['gathered']> {
  const [row] = await rows<{ people: number; firstMs: number | null; lastMs: number | null }>(
    db,
    `SELECT COUNT(*) AS people, ${ms('MIN(bundle_at)')} AS firstMs, ${ms('MAX(bundle_at)')} AS lastMs FROM deliveries
     WHERE occurrence_id = ? AND method = 'mail' AND state = 'waiting' AND bundle_at > NOW(3)`,
    [occurrenceId],
  );
  return row && row.firstMs !== null && row.lastMs !== null
    ? { people: row.people, firstMs: row.firstMs, lastMs: row.lastMs }
    : null;
}

/** Mail of an occurrence that failed or keeps being tried, failures first. */
export function troubles(db: Database, occurrenceId: number, most: number): Promise<Trouble[]> {
  return rows(
    db,
    `SELECT d.person_id AS personId, p.name, p.mail, d.state, d.attempts, d.reason, ${ms('d.try_at')} AS tryMs
     FROM deliveries d JOIN people p ON p.id = d.person_id
     WHERE d.occurrence_id = ? AND d.method = 'mail' AND d.state <> 'delivered' AND d.reason IS NOT NULL
     ORDER BY d.state = 'failed' DESC, p.name LIMIT ?`,
    [occurrenceId, most],
  );
}

/** Sends whose mail failed or is being tried again, of the last days, one author's or all; for "Needs you". */
export function needs(db: Database, days: number, authorId: number | null): Promise<readonly Need[]> {
  // Counted first, and joined to what they are of when few are left.
  return rowsForAll(
    db,
    `SELECT x.occurrence_id AS occurrenceId, v.title, s.created_by AS createdBy, x.state, x.n, x.reason, ${ms('x.try_at')} AS tryMs
     FROM (SELECT d.occurrence_id, IF(d.state = 'failed', 'failed', 'waiting') AS state, COUNT(*) AS n, MAX(d.reason) AS reason,
         MIN(d.try_at) AS try_at
       FROM deliveries d WHERE d.state IN ('failed', 'waiting', 'sending')
       GROUP BY 1, 2 HAVING MAX(d.reason) IS NOT NULL) x
       JOIN occurrences o ON o.id = x.occurrence_id JOIN sends s ON s.id = o.send_id
       JOIN announcement_versions v ON v.id = o.version_id
     WHERE o.due_at > NOW(3) - INTERVAL ? DAY AND (? IS NULL OR s.created_by = ?)
     ORDER BY o.due_at DESC LIMIT 20`,
    [days, authorId, authorId],
  );
}

/** Puts the failed mail of an occurrence, and what was given up at outside places, back in line; tells how many. */
export async function retryFailed(db: Database, occurrenceId: number): Promise<number> {
  const mails = await change(
    db,
    `UPDATE deliveries SET state = 'waiting', try_at = NOW(3), attempts = 0
     WHERE occurrence_id = ? AND method = 'mail' AND state = 'failed'`,
    [occurrenceId],
  );
  const again = mails + (await retryPlaces(db, occurrenceId));
  if (again === 0) return 0;
  await recountDeliveries(db, [occurrenceId]);
  await change(
    db,
    `UPDATE occurrences o SET o.sent_at = IF(${mayMove('try mail again', 'o')}, NULL, o.sent_at),
       o.state = ${moved('try mail again', 'o')}, o.taken_back_at = NULL WHERE o.id = ?`,
    [occurrenceId],
  );
  return again;
}
