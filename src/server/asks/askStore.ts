import { closesWhenAll, type Ask, type Asking } from '../../core/asks/ask.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { earliest, ms } from '../database/instant.ts';
import { rowsForAll } from '../database/onceForAll.ts';
import { notAside } from '../aside/store.ts';

export type ClosedWhy = 'hand' | 'time' | 'all';

/** How far an ask is. Instants are milliseconds since 1970. */
export interface AskState {
  occurrenceId: number;
  kind: Asking['kind'];
  closesMs: number | null;
  closedMs: number | null;
  closedWhy: ClosedWhy | null;
  closedBy: string | null;
  /** What the database's clock says as this is read. */
  nowMs: number;
}

const ASK = `SELECT a.occurrence_id AS occurrenceId, a.kind, ${ms('a.closes_at')} AS closesMs, ${ms('a.closed_at')} AS closedMs,
    a.closed_why AS closedWhy, p.name AS closedBy, ${ms('NOW(3)')} AS nowMs
  FROM asks a LEFT JOIN people p ON p.id = a.closed_by`;

/** What some occurrences ask, of those that have begun to go out and ask for something. */
export async function askStates(db: Database, ids: readonly number[]): Promise<Map<number, AskState>> {
  if (ids.length === 0) return new Map();
  const found = await rowsForAll<AskState>(
    db,
    `${ASK} WHERE a.occurrence_id IN (${ids.map(() => '?').join(', ')})`,
    ids,
  );
  return new Map(found.map((row) => [row.occurrenceId, row]));
}

/** An ask held so that it cannot close before the transaction ends; others may answer it meanwhile. */
export async function holdOpen(db: Database, occurrenceId: number): Promise<AskState | undefined> {
  const [row] = await rows<AskState>(db, `${ASK} WHERE a.occurrence_id = ? LOCK IN SHARE MODE`, [
    occurrenceId,
  ]);
  return row;
}

/** Whether an ask takes answers at this moment. */
export async function isOpen(db: Database, occurrenceId: number): Promise<boolean> {
  const found = await rows(
    db,
    'SELECT 1 FROM asks WHERE occurrence_id = ? AND closed_at IS NULL AND (closes_at IS NULL OR closes_at > NOW(3))',
    [occurrenceId],
  );
  return found.length > 0;
}

/** Notes that an occurrence has begun to ask. Noting it again changes nothing. */
export async function beginAsk(
  db: Database,
  occurrenceId: number,
  ask: Exclude<Ask, { kind: 'nothing' }>,
  times: { closesMs: number | null; listMs: number | null },
): Promise<void> {
  const at = (epochMs: number | null): Date | null => (epochMs === null ? null : new Date(epochMs));
  await change(
    db,
    `INSERT INTO asks (occurrence_id, kind, closes_at, closes_when_all, joiners, joiners_at, list_at)
     VALUES (?, ?, ?, ?, ?, IF(?, NOW(3), NULL), ?) ON DUPLICATE KEY UPDATE asks.occurrence_id = asks.occurrence_id`,
    [
      occurrenceId,
      ask.kind,
      at(times.closesMs),
      closesWhenAll(ask),
      ask.joiners,
      ask.joiners,
      at(times.listMs),
    ],
  );
}

/**
 * Which of some occurrences ask without names (`withoutNames` of core says so of what they ask) and are still open: who has voted
 * in them is told to nobody.
 */
export async function openSecretPolls(db: Database, ids: readonly number[]): Promise<number[]> {
  if (ids.length === 0) return [];
  const found = await rows<{ id: number }>(
    db,
    `SELECT o.id FROM occurrences o JOIN sends s ON s.id = o.send_id LEFT JOIN asks a ON a.occurrence_id = o.id
     WHERE o.id IN (${ids.map(() => '?').join(', ')}) AND a.closed_at IS NULL
       AND JSON_VALUE(s.plan, '$.ask.kind') = 'poll' AND JSON_VALUE(s.plan, '$.ask.poll.anonymous') = 1`,
    ids,
  );
  return found.map((row) => row.id);
}

/** Closes an ask; false where it was closed already. */
export async function closeAsk(
  db: Database,
  occurrenceId: number,
  why: ClosedWhy,
  by: number | null,
): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE asks SET closed_at = NOW(3), closed_why = ?, closed_by = ? WHERE occurrence_id = ? AND closed_at IS NULL`,
    [why, by, occurrenceId],
  );
  return changed === 1;
}

/** Closes an ask that closes when everybody has voted, if everybody has and it has reached all it is for. */
export async function closeIfAll(db: Database, occurrenceId: number): Promise<boolean> {
  const changed = await change(
    db,
    `UPDATE asks SET closed_at = NOW(3), closed_why = 'all'
     WHERE occurrence_id = ? AND closes_when_all AND closed_at IS NULL
       AND NOT EXISTS (SELECT 1 FROM roll r WHERE r.occurrence_id = asks.occurrence_id AND r.answered_at IS NULL)
       AND NOT EXISTS (SELECT 1 FROM buckets b WHERE b.occurrence_id = asks.occurrence_id AND b.state IN ('planned', 'held', 'expanding'))`,
    [occurrenceId],
  );
  return changed === 1;
}

/** Closes what has come to its time; gives which. */
export async function closeDue(db: Database, most: number): Promise<number[]> {
  const due = await rows<{ id: number }>(
    db,
    'SELECT occurrence_id AS id FROM asks WHERE closed_at IS NULL AND closes_at <= NOW(3) ORDER BY closes_at LIMIT ?',
    [most],
  );
  const closed: number[] = [];
  for (const { id } of due) if (await closeAsk(db, id, 'time', null)) closed.push(id);
  return closed;
}

const UNSETTLED = (): string =>
  `a.settled_at IS NULL AND a.closed_at IS NOT NULL AND ${notAside('closing', 'a.occurrence_id')}`;
const LIST_DUE = (): string => `a.list_at IS NOT NULL AND ${notAside('list', 'a.occurrence_id')}`;

/** What has closed and whose after-work is to be done, the first closed first; without what is set aside. */
export async function unsettled(db: Database, most: number): Promise<number[]> {
  const found = await rows<{ id: number }>(
    db,
    `SELECT a.occurrence_id AS id FROM asks a WHERE ${UNSETTLED()} ORDER BY a.closed_at LIMIT ?`,
    [most],
  );
  return found.map((row) => row.id);
}

/** Claims the after-work of something that has closed; false where another engine was first. */
export async function claimClosed(db: Database, id: number): Promise<boolean> {
  return (
    (await change(
      db,
      'UPDATE asks SET settled_at = NOW(3) WHERE occurrence_id = ? AND settled_at IS NULL AND closed_at IS NOT NULL',
      [id],
    )) === 1
  );
}

/** The asks whose list of who is missing is due to the owners of groups; without what is set aside. */
export async function listsDue(db: Database, most: number): Promise<number[]> {
  const found = await rows<{ id: number }>(
    db,
    `SELECT a.occurrence_id AS id FROM asks a WHERE ${LIST_DUE()} AND a.list_at <= NOW(3) ORDER BY a.list_at LIMIT ?`,
    [most],
  );
  return found.map((row) => row.id);
}

/** Claims such a list; false where another engine was first. */
export async function claimList(db: Database, id: number): Promise<boolean> {
  return (
    (await change(db, 'UPDATE asks SET list_at = NULL WHERE occurrence_id = ? AND list_at <= NOW(3)', [
      id,
    ])) === 1
  );
}

/**
 * Claims an open ask that also asks those who join later, once all it went to have got it; it is looked at again after
 * some seconds.
 */
export async function claimJoiners(db: Database, againS: number): Promise<number | null> {
  const [row] = await rows<{ id: number }>(
    db,
    `SELECT a.occurrence_id AS id FROM asks a JOIN occurrences o ON o.id = a.occurrence_id
     WHERE a.joiners_at <= NOW(3) AND o.state = 'sent' AND ${notAside('joiners', 'a.occurrence_id')} ORDER BY a.joiners_at LIMIT 1 FOR UPDATE SKIP LOCKED`,
  );
  if (!row) return null;
  await change(
    db,
    `UPDATE asks SET joiners_at = IF(closed_at IS NULL AND (closes_at IS NULL OR closes_at > NOW(3)), NOW(3) + INTERVAL ? SECOND, NULL)
     WHERE occurrence_id = ?`,
    [againS, row.id],
  );
  return row.id;
}

/** SQL for the next instant at which an ask closes, is to be settled, has its list told, or asks those who joined. */
export const askDue = (): string =>
  earliest(
    'SELECT MIN(closes_at) FROM asks WHERE closed_at IS NULL',
    `SELECT MIN(a.closed_at) FROM asks a WHERE ${UNSETTLED()}`,
    `SELECT MIN(a.list_at) FROM asks a WHERE ${LIST_DUE()}`,
    `SELECT MIN(a.joiners_at) FROM asks a JOIN occurrences o ON o.id = a.occurrence_id
     WHERE a.joiners_at IS NOT NULL AND o.state = 'sent' AND ${notAside('joiners', 'a.occurrence_id')}`,
  );

const chasesOf = async (db: Database, occurrenceId: number): Promise<number[]> =>
  (await rows<{ id: number }>(db, 'SELECT id FROM occurrences WHERE chases = ?', [occurrenceId])).map(
    ({ id }) => id,
  );

/** Calls off what has not gone yet of the chases of an ask that has closed. */
export async function callOffAll(db: Database, occurrenceId: number): Promise<void> {
  for (const id of await chasesOf(db, occurrenceId))
    await change(
      db,
      "UPDATE deliveries SET state = 'called off', try_at = NULL WHERE occurrence_id = ? AND state IN ('waiting', 'resting')",
      [id],
    );
}

/** Calls off what has not gone yet of the chases of an ask, which are occurrences, for those who have answered it. */
export async function callOff(
  db: Database,
  occurrenceId: number,
  personIds: readonly number[],
): Promise<void> {
  if (personIds.length === 0) return;
  const marks = personIds.map(() => '?').join(', ');
  for (const id of await chasesOf(db, occurrenceId)) {
    await change(
      db,
      `UPDATE deliveries SET state = 'called off', try_at = NULL
       WHERE occurrence_id = ? AND person_id IN (${marks}) AND state IN ('waiting', 'resting')`,
      [id, ...personIds],
    );
    await change(
      db,
      `UPDATE notices SET mail_state = IF(mail_state IN ('waiting', 'daily'), 'no', mail_state),
         push_state = IF(push_state IN ('waiting', 'daily'), 'no', push_state)
       WHERE person_id IN (${marks}) AND about = ?`,
      [...personIds, `announcement:${id}`],
    );
  }
}
