import type { Importance } from '../../core/content/announcement.ts';
import type { OccurrenceState } from '../../core/delivery/states.ts';
import type { Due } from '../../core/load/clash.ts';
import type { PlannedBucket } from '../../core/plan/buckets.ts';
import type { Need } from '../../core/desk/desk.ts';
import type { DeliveryCount, Trouble } from '../../core/sends/send.ts';
import type { Ask } from '../../core/asks/ask.ts';
import { EMPTY_PLAN, planOfChase, type Plan } from '../../core/plan/plan.ts';
import { readPlan, storedPlan } from '../../core/stored.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { notAside } from '../engine/setAside.ts';

export async function sendByKey(
  db: Database,
  createdBy: number,
  key: string,
): Promise<{ occurrenceId: number; announcementId: number } | undefined> {
  const [row] = await rows<{ occurrenceId: number; announcementId: number }>(
    db,
    `SELECT o.id AS occurrenceId, s.announcement_id AS announcementId
     FROM sends s JOIN occurrences o ON o.send_id = s.id
     WHERE s.created_by = ? AND s.idempotency_key = ? AND o.chases IS NULL`,
    [createdBy, key],
  );
  return row;
}

export interface NewSend {
  announcementId: number;
  versionId: number;
  createdBy: number;
  plan: Plan;
  key: string;
  kind?: 'send' | 'test' | 'correction';
}

/** Writes a send; its occurrences are planned by `insertOccurrence`. Gives its id. */
export async function insertSend(db: Database, send: NewSend): Promise<number> {
  const [id] = await db('sends').insert({
    announcement_id: send.announcementId,
    version_id: send.versionId,
    created_by: send.createdBy,
    plan: storedPlan(send.plan),
    idempotency_key: send.key,
    kind: send.kind ?? 'send',
  });
  return id ?? 0;
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
  /** Of a chase: the occurrence whose roll it follows up. */
  chases?: number;
}

/** Plans an occurrence with its buckets, once: gives its id, or null where it was planned already. */
export async function insertOccurrence(db: Database, made: NewOccurrence): Promise<number | null> {
  const result = (await db.raw(
    `INSERT INTO occurrences (send_id, version_id, recurs_at, due_at, ends_at, deadline_at, chases) VALUES (?, ?, ?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE occurrences.id = occurrences.id`,
    [
      made.sendId,
      made.versionId,
      made.recursAt,
      new Date(made.firstMs),
      new Date(made.lastMs),
      made.deadlineMs === null ? null : new Date(made.deadlineMs),
      made.chases ?? null,
    ],
  )) as [{ insertId: number }, unknown];
  const { insertId } = result[0];
  if (insertId === 0) return null;
  await db('buckets').insert(bucketRows(insertId, made.buckets));
  return insertId;
}

/** The rows of an occurrence's buckets. The last one that goes sweeps: it takes along whoever changed zone. */
function bucketRows(occurrenceId: number, buckets: readonly PlannedBucket[]): Record<string, unknown>[] {
  const going = buckets.filter((bucket) => bucket.fate !== 'not');
  const last = going.reduce<PlannedBucket | undefined>(
    (latest, bucket) => (!latest || bucket.dueMs >= latest.dueMs ? bucket : latest),
    undefined,
  );
  return buckets.map((bucket) => ({
    occurrence_id: occurrenceId,
    zone: bucket.zone,
    due_at: new Date(bucket.dueMs),
    fate: bucket.fate,
    state: bucket.fate === 'not' ? 'skipped' : 'planned',
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

/**
 * Takes back what of an occurrence has not gone: its buckets, and the mail, copies and inbox deliveries that wait. Nothing
 * where all of it has gone.
 */
export async function recallOccurrence(
  db: Database,
  occurrenceId: number,
): Promise<'all of it' | 'the rest of it' | 'nothing'> {
  const buckets = await change(
    db,
    "UPDATE buckets SET state = 'recalled' WHERE occurrence_id = ? AND state IN ('planned', 'held')",
    [occurrenceId],
  );
  const waiting = await change(
    db,
    `UPDATE deliveries SET state = 'called off', try_at = NULL, reason = NULL
     WHERE occurrence_id = ? AND state IN ('waiting', 'resting')`,
    [occurrenceId],
  );
  const expanding = await rows(
    db,
    "SELECT 1 FROM buckets WHERE occurrence_id = ? AND state = 'expanding' LIMIT 1",
    [occurrenceId],
  );
  const gone = await anythingWent(db, occurrenceId);
  // What an engine is writing at this moment, and nothing of which is there yet, is too late to be taken back.
  if (buckets === 0 && waiting === 0 && !(expanding.length > 0 && gone)) return 'nothing';
  // What is on the wire or being written at this moment is held against this when it comes to its turn.
  await change(db, 'UPDATE occurrences SET taken_back_at = NOW(3) WHERE id = ?', [occurrenceId]);
  if (gone || expanding.length > 0) return 'the rest of it';
  await change(
    db,
    "UPDATE occurrences SET state = 'recalled', taken_back_at = NULL WHERE id = ? AND state IN ('scheduled', 'going out')",
    [occurrenceId],
  );
  return 'all of it';
}

/** Whether anything of an occurrence has been delivered or posted. */
export async function anythingWent(db: Database, occurrenceId: number): Promise<boolean> {
  const found = await rows(
    db,
    `(SELECT 1 FROM deliveries WHERE occurrence_id = ? AND state <> 'called off' LIMIT 1) UNION ALL
     (SELECT 1 FROM posts WHERE occurrence_id = ? LIMIT 1)`,
    [occurrenceId, occurrenceId],
  );
  return found.length > 0;
}

export interface SendRow {
  id: number;
  announcementId: number;
  versionId: number;
  createdBy: number;
  state: 'active' | 'paused' | 'ended';
  plan: Plan;
  /** Whether its plan cannot be read; `plan` is then empty. */
  unreadable: boolean;
}

/** Forgets the chases of an occurrence that have not begun. */
export async function deleteChases(db: Database, occurrenceId: number): Promise<void> {
  const untouched = "o.chases = ? AND o.state = 'scheduled'";
  await change(
    db,
    `DELETE b FROM buckets b JOIN occurrences o ON o.id = b.occurrence_id
     WHERE ${untouched} AND b.state IN ('planned', 'held')`,
    [occurrenceId],
  );
  await change(
    db,
    `DELETE o FROM occurrences o WHERE ${untouched} AND NOT EXISTS (SELECT 1 FROM buckets b WHERE b.occurrence_id = o.id)`,
    [occurrenceId],
  );
}

/** Takes back the chases of an occurrence that have not begun, with the reason. */
export async function recallChases(db: Database, occurrenceId: number, why: string): Promise<void> {
  await change(
    db,
    `UPDATE buckets b JOIN occurrences o ON o.id = b.occurrence_id SET b.state = 'recalled'
     WHERE o.chases = ? AND b.state IN ('planned', 'held')`,
    [occurrenceId],
  );
  await change(
    db,
    `UPDATE occurrences o SET o.state = 'recalled', o.failure = ? WHERE o.chases = ? AND o.state = 'scheduled'
       AND NOT EXISTS (SELECT 1 FROM buckets b WHERE b.occurrence_id = o.id AND b.state NOT IN ('recalled', 'skipped'))`,
    [why, occurrenceId],
  );
}

/** Plans one chase of an occurrence, once for each key; gives its id, or null where it was planned already. */
export function insertChase(
  db: Database,
  chase: {
    sendId: number;
    versionId: number;
    chases: number;
    key: string;
    dueMs: number;
    deadlineMs: number | null;
  },
): Promise<number | null> {
  return insertOccurrence(db, {
    sendId: chase.sendId,
    versionId: chase.versionId,
    recursAt: `c${chase.chases.toString(36)}.${chase.key}`,
    buckets: [{ zone: '', dueMs: chase.dueMs, hour: 'ordinary', fate: 'as planned' }],
    firstMs: chase.dueMs,
    lastMs: chase.dueMs,
    deadlineMs: chase.deadlineMs,
    chases: chase.chases,
  });
}

/** The chases of an occurrence, the earliest first, with how many each reached. */
export function chasesOf(
  db: Database,
  occurrenceId: number,
): Promise<
  { occurrenceId: number; dueMs: number; state: OccurrenceState; reached: number; failure: string | null }[]
> {
  return rows(
    db,
    `SELECT o.id AS occurrenceId, ${ms('o.due_at')} AS dueMs, o.state, o.failure,
       (SELECT COUNT(*) FROM deliveries d WHERE d.occurrence_id = o.id AND d.method = 'inbox' AND d.state = 'delivered') AS reached
     FROM occurrences o WHERE o.chases = ? ORDER BY o.due_at, o.id`,
    [occurrenceId],
  );
}

/** The text of a send's chases; null where it has none yet. */
export async function chaseVersion(db: Database, sendId: number): Promise<number | null> {
  const [row] = await rows<{ versionId: number | null }>(
    db,
    'SELECT chase_version_id AS versionId FROM sends WHERE id = ? FOR UPDATE',
    [sendId],
  );
  return row?.versionId ?? null;
}

export async function setChaseVersion(db: Database, sendId: number, versionId: number): Promise<void> {
  await change(db, 'UPDATE sends SET chase_version_id = ? WHERE id = ?', [versionId, sendId]);
}

const SEND = `SELECT s.id, s.announcement_id AS announcementId, s.version_id AS versionId, s.created_by AS createdBy,
    s.state, s.plan FROM sends s`;

/** A plan as it is stored; an empty one, marked, where it cannot be read: one bad row must not hold up the others. */
function planOrNone(json: string): { plan: Plan; unreadable: boolean } {
  try {
    return { plan: readPlan(json), unreadable: false };
  } catch {
    return { plan: EMPTY_PLAN, unreadable: true };
  }
}

type StoredSend = Omit<SendRow, 'plan' | 'unreadable'> & { plan: string };
const readSend = (row: StoredSend): SendRow => ({ ...row, ...planOrNone(row.plan) });

/** Recurring sends that go on beyond what is planned of them, with an occurrence by which they can be opened. */
export async function recurringBeyond(
  db: Database,
  beforeMs: number,
  authorId: number | null,
): Promise<{ occurrenceId: number; plannedUntilMs: number }[]> {
  return rows(
    db,
    `SELECT MAX(o.id) AS occurrenceId, ${ms('s.planned_until')} AS plannedUntilMs
     FROM sends s JOIN occurrences o ON o.send_id = s.id
     WHERE s.recurring = TRUE AND s.state = 'active' AND o.chases IS NULL AND s.planned_until < ? AND (? IS NULL OR s.created_by = ?)
     GROUP BY s.id, s.planned_until LIMIT 200`,
    [new Date(beforeMs), authorId, authorId],
  );
}

/** A send, held until the transaction ends, so that of several who would change it one goes after the other. */
export async function lockSend(db: Database, id: number): Promise<SendRow | undefined> {
  const [row] = await rows<StoredSend>(db, `${SEND} WHERE s.id = ? FOR UPDATE`, [id]);
  return row && readSend(row);
}

/** Recurring sends that are planned less far ahead than so many days. */
export async function toBePlanned(db: Database, days: number, most: number): Promise<SendRow[]> {
  const found = await rows<StoredSend>(
    db,
    `${SEND} WHERE s.recurring = TRUE AND s.state IN ('active', 'paused')
       AND (s.planned_until IS NULL OR s.planned_until < NOW(3) + INTERVAL ? DAY) AND ${notAside('planning', 's.id')} LIMIT ?`,
    [days, most],
  );
  return found.map(readSend);
}

export async function notePlanned(db: Database, sendId: number, untilMs: number): Promise<void> {
  await change(db, 'UPDATE sends SET planned_until = ? WHERE id = ?', [new Date(untilMs), sendId]);
}

/** The latest occurrence of a send, or null. */
export async function latestOf(db: Database, sendId: number): Promise<number | null> {
  const [row] = await rows<{ id: number | null }>(
    db,
    'SELECT MAX(id) AS id FROM occurrences WHERE send_id = ? AND chases IS NULL',
    [sendId],
  );
  return row?.id ?? null;
}

/** The text a send goes out with from now on. */
export async function currentVersion(db: Database, sendId: number): Promise<number> {
  const [row] = await rows<{ versionId: number }>(
    db,
    'SELECT version_id AS versionId FROM sends WHERE id = ?',
    [sendId],
  );
  return row?.versionId ?? 0;
}

/** Gives a recurring send another plan and text. Its occurrences are planned anew by the caller. */
export async function changeSend(db: Database, id: number, versionId: number, plan: Plan): Promise<void> {
  await change(
    db,
    'UPDATE sends SET version_id = ?, plan = ?, planned_until = NULL, chase_version_id = NULL WHERE id = ?',
    [versionId, storedPlan(plan), id],
  );
}

/** Forgets the occurrences of a recurring send that have not begun and stand where its rule put them. */
export async function deletePlanned(db: Database, sendId: number): Promise<number> {
  const untouched = `o.send_id = ? AND o.state = 'scheduled' AND o.recurs_at <> '' AND o.moved_to IS NULL AND o.chases IS NULL
    AND NOT EXISTS (SELECT 1 FROM buckets x WHERE x.occurrence_id = o.id AND x.state IN ('expanding', 'expanded', 'failed'))`;
  const found = await rows<{ id: number }>(
    db,
    `SELECT o.id FROM occurrences o WHERE ${untouched} FOR UPDATE`,
    [sendId],
  );
  if (found.length === 0) return 0;
  for (const { id } of found) await deleteChases(db, id);
  const ids = found.map((row) => row.id);
  const marks = ids.map(() => '?').join(', ');
  await change(
    db,
    `DELETE FROM buckets WHERE occurrence_id IN (${marks}) AND state IN ('planned', 'held', 'skipped')`,
    ids,
  );
  return change(
    db,
    `DELETE FROM occurrences WHERE id IN (${marks}) AND NOT EXISTS (SELECT 1 FROM buckets b WHERE b.occurrence_id = occurrences.id)`,
    ids,
  );
}

/** Gives what of a recurring send was moved by hand, and has not begun, another text; gives which. */
export async function giveMovedText(
  db: Database,
  sendId: number,
  versionId: number,
): Promise<{ id: number; endsMs: number; deadlineMs: number | null }[]> {
  const found = await rows<{ id: number; endsMs: number; deadlineMs: number | null }>(
    db,
    `SELECT id, ${ms('ends_at')} AS endsMs, ${ms('deadline_at')} AS deadlineMs FROM occurrences
     WHERE send_id = ? AND state = 'scheduled' AND moved_to IS NOT NULL AND chases IS NULL FOR UPDATE`,
    [sendId],
  );
  if (found.length > 0)
    await change(
      db,
      `UPDATE occurrences SET version_id = ? WHERE id IN (${found.map(() => '?').join(', ')}) AND state = 'scheduled'`,
      [versionId, ...found.map((row) => row.id)],
    );
  return found;
}

/** Moves a send from one state to another; false where it was not in it. */
export async function setSendState(
  db: Database,
  id: number,
  from: readonly SendRow['state'][],
  to: SendRow['state'],
): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE sends SET state = ? WHERE id = ? AND state IN (${from.map(() => '?').join(', ')})`,
    [to, id, ...from],
  );
  return changed === 1;
}

/** Holds what of a send has not begun, while it is paused. */
export const holdPlanned = (db: Database, sendId: number): Promise<number> =>
  change(
    db,
    `UPDATE buckets b JOIN occurrences o ON o.id = b.occurrence_id SET b.state = 'held'
     WHERE o.send_id = ? AND b.state = 'planned'`,
    [sendId],
  );

/** Lets what was held go again; what came due meanwhile is not sent after the fact. */
export async function releaseHeld(db: Database, sendId: number): Promise<void> {
  await change(
    db,
    `UPDATE buckets b JOIN occurrences o ON o.id = b.occurrence_id
     SET b.state = IF(b.due_at > NOW(3), 'planned', 'recalled') WHERE o.send_id = ? AND b.state = 'held'`,
    [sendId],
  );
  await change(
    db,
    `UPDATE occurrences o SET o.state = 'recalled', o.failure = 'It was paused when it was due.'
     WHERE o.send_id = ? AND o.state = 'scheduled'
       AND NOT EXISTS (SELECT 1 FROM buckets b WHERE b.occurrence_id = o.id AND b.state NOT IN ('recalled', 'skipped'))`,
    [sendId],
  );
}

/** Takes back everything of a send that has not begun, without an end to what has. */
export async function recallPlanned(db: Database, sendId: number, why: string): Promise<void> {
  await change(
    db,
    `UPDATE buckets b JOIN occurrences o ON o.id = b.occurrence_id SET b.state = 'recalled'
     WHERE o.send_id = ? AND b.state IN ('planned', 'held')`,
    [sendId],
  );
  await change(
    db,
    `UPDATE occurrences o SET o.state = 'recalled', o.failure = ? WHERE o.send_id = ? AND o.state = 'scheduled'
       AND NOT EXISTS (SELECT 1 FROM buckets b WHERE b.occurrence_id = o.id AND b.state NOT IN ('recalled', 'skipped'))`,
    [why, sendId],
  );
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

/** The buckets of an occurrence, the earliest first. */
export function bucketsOf(
  db: Database,
  occurrenceId: number,
): Promise<{ zone: string; dueMs: number; state: string; fate: PlannedBucket['fate'] }[]> {
  return rows(
    db,
    `SELECT zone, ${ms('due_at')} AS dueMs, state, fate FROM buckets WHERE occurrence_id = ? ORDER BY due_at, zone`,
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
     FROM occurrences WHERE send_id = ? AND chases IS NULL AND ends_at > NOW(3) ORDER BY due_at LIMIT 400`,
    [sendId],
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
}

const OCCURRENCE = `SELECT o.id, s.announcement_id AS announcementId, o.version_id AS versionId, s.created_by AS createdBy,
    p.name AS createdByName, v.title, v.importance, s.id AS sendId, IF(o.chases IS NULL, s.kind, 'chase') AS kind, o.chases, s.state AS sendState,
    IF(o.chases IS NULL, o.recurs_at, '') AS recursAt,
    o.moved_to AS movedTo, s.plan, o.state, ${ms('o.due_at')} AS dueMs, ${ms('o.ends_at')} AS endsMs, ${ms('o.corrected_at')} AS correctedMs,
    o.correction, v.series_id AS seriesId, v.number, ${ms('o.sent_at')} AS sentMs, ${ms('o.deadline_at')} AS deadlineMs, o.failure
  FROM occurrences o JOIN sends s ON s.id = o.send_id JOIN announcement_versions v ON v.id = o.version_id
    JOIN people p ON p.id = s.created_by`;

type Row = Omit<Occurrence, 'plan' | 'asked' | 'unreadable'> & { plan: string };
function read(row: Row): Occurrence {
  const { plan, unreadable } = planOrNone(row.plan);
  return {
    ...row,
    unreadable,
    failure: unreadable ? 'Its plan cannot be read by this version of Clear Bell.' : row.failure,
    asked: plan.ask,
    plan: row.chases === null ? plan : planOfChase(plan, row.chases, row.dueMs),
  };
}

export async function occurrenceById(db: Database, id: number): Promise<Occurrence | undefined> {
  const [row] = await rows<Row>(db, `${OCCURRENCE} WHERE o.id = ?`, [id]);
  return row && read(row);
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
    `${OCCURRENCE} WHERE o.due_at < ? AND o.due_at >= ? - INTERVAL 3 DAY AND o.ends_at >= ? AND (? IS NULL OR s.created_by = ?) AND s.kind <> 'test'
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
    `${OCCURRENCE} WHERE s.announcement_id = ? AND o.state <> 'recalled' AND o.chases IS NULL AND s.kind = 'send' ORDER BY o.id DESC LIMIT 1`,
    [announcementId],
  );
  return row && read(row);
}

/** Deliveries of some occurrences counted by method and state; late is more than a second after due. */
export async function deliveryCounts(
  db: Database,
  occurrenceIds: readonly number[],
  lateMs: number,
): Promise<Map<number, DeliveryCount[]>> {
  if (occurrenceIds.length === 0) return new Map();
  const found = await rows<Omit<DeliveryCount, 'late'> & { occurrenceId: number; late: string | null }>(
    db,
    `SELECT occurrence_id AS occurrenceId, method, state, COUNT(*) AS n, SUM(late_ms > ?) AS late, MAX(late_ms) AS worstLateMs
     FROM deliveries WHERE occurrence_id IN (${occurrenceIds.map(() => '?').join(', ')}) GROUP BY occurrence_id, method, state`,
    [lateMs, ...occurrenceIds],
  );
  const counts = new Map<number, DeliveryCount[]>();
  for (const { occurrenceId, ...row } of found)
    counts.set(occurrenceId, [...(counts.get(occurrenceId) ?? []), { ...row, late: Number(row.late ?? 0) }]);
  return counts;
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
export function needs(db: Database, days: number, authorId: number | null): Promise<Need[]> {
  return rows(
    db,
    `SELECT d.occurrence_id AS occurrenceId, v.title, s.created_by AS createdBy,
       IF(d.state = 'failed', 'failed', 'waiting') AS state, COUNT(*) AS n, MAX(d.reason) AS reason,
       MIN(${ms('d.try_at')}) AS tryMs
     FROM deliveries d JOIN occurrences o ON o.id = d.occurrence_id JOIN sends s ON s.id = o.send_id
       JOIN announcement_versions v ON v.id = o.version_id
     WHERE d.state IN ('failed', 'waiting', 'sending') AND o.due_at > NOW(3) - INTERVAL ? DAY AND (? IS NULL OR s.created_by = ?)
     GROUP BY d.occurrence_id, v.title, s.created_by, 4 HAVING MAX(d.reason) IS NOT NULL ORDER BY o.due_at DESC LIMIT 20`,
    [days, authorId, authorId],
  );
}

/** Puts the failed mail of an occurrence back in line; tells how many. */
export async function retryFailed(db: Database, occurrenceId: number): Promise<number> {
  const again = await change(
    db,
    `UPDATE deliveries SET state = 'waiting', try_at = NOW(3), attempts = 0
     WHERE occurrence_id = ? AND method = 'mail' AND state = 'failed'`,
    [occurrenceId],
  );
  if (again > 0)
    await change(
      db,
      "UPDATE occurrences SET state = 'going out', sent_at = NULL, taken_back_at = NULL WHERE id = ?",
      [occurrenceId],
    );
  return again;
}
