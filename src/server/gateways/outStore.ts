import {
  hookOutSchema,
  type Handover,
  type HandoverState,
  type HookOut,
} from '../../core/gateways/hookOut.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { claimDue } from '../database/claims.ts';
import { ms } from '../database/instant.ts';

export interface HookOutRow {
  id: number;
  hook: HookOut;
  sealed: Buffer;
  /** The secret before, while it signs too. */
  before: Buffer | null;
  beforeUntilMs: number | null;
  state: 'off' | 'on' | 'paused';
  whyPaused: string | null;
  revision: number;
  ownerId: number;
  owner: string;
  /** How many events were given up one after another. */
  failures: number;
}

type Stored = Omit<HookOutRow, 'hook'> & { hook: string };
const HOOK = `SELECT h.id, h.hook, h.secret AS sealed, IF(h.before_until > NOW(3), h.secret_before, NULL) AS \`before\`,
    ${ms('IF(h.before_until > NOW(3), h.before_until, NULL)')} AS beforeUntilMs, h.state, h.why_paused AS whyPaused, h.revision,
    h.owner_id AS ownerId, p.name AS owner, h.failures FROM hooks_out h JOIN people p ON p.id = h.owner_id`;
const read = ({ hook, ...row }: Stored): HookOutRow => ({
  ...row,
  hook: hookOutSchema.parse(JSON.parse(hook)),
});

/** All ways out, by name. */
export const allHooksOut = async (db: Database): Promise<HookOutRow[]> =>
  (await rows<Stored>(db, `${HOOK} ORDER BY h.name`)).map(read);

/** Those that are told: also paused ones, so that nothing of what happens meanwhile is lost to them. */
export const hooksTold = async (db: Database): Promise<HookOutRow[]> =>
  (await rows<Stored>(db, `${HOOK} WHERE h.state <> 'off'`)).map(read);

export async function hookOutById(db: Database, id: number): Promise<HookOutRow | undefined> {
  const [row] = await rows<Stored>(db, `${HOOK} WHERE h.id = ?`, [id]);
  return row && read(row);
}

/** @throws the database's duplicate-key error where there is a way out of this name */
export async function insertHookOut(
  db: Database,
  made: { hook: HookOut; sealed: Buffer; ownerId: number },
): Promise<number> {
  const [id] = await db('hooks_out').insert({
    name: made.hook.name,
    secret: made.sealed,
    hook: JSON.stringify(made.hook),
    owner_id: made.ownerId,
  });
  return id ?? 0;
}

/** Changes a way out over the revision its author saw; false where it is not that any more. */
export async function saveHookOut(
  db: Database,
  id: number,
  revision: number,
  hook: HookOut,
): Promise<boolean> {
  return (
    (await change(
      db,
      'UPDATE hooks_out SET name = ?, hook = ?, revision = revision + 1 WHERE id = ? AND revision = ?',
      [hook.name, JSON.stringify(hook), id, revision],
    )) === 1
  );
}

/** Sets whether a way out is told; false where it is so already. What waits for it is kept, and handed over when it is on. */
export async function setHookOutState(
  db: Database,
  id: number,
  state: HookOutRow['state'],
  why: string | null,
): Promise<boolean> {
  return (
    (await change(
      db,
      'UPDATE hooks_out SET state = ?, why_paused = ?, failures = 0 WHERE id = ? AND state <> ?',
      [state, why === null ? null : why.slice(0, 300), id, state],
    )) === 1
  );
}

/** Gives a way out another secret; the one before signs too for so many hours. */
export async function setHookOutSecret(
  db: Database,
  id: number,
  sealed: Buffer,
  hours: number,
): Promise<void> {
  await change(
    db,
    'UPDATE hooks_out SET secret_before = secret, before_until = NOW(3) + INTERVAL ? HOUR, secret = ? WHERE id = ?',
    [hours, sealed, id],
  );
}

export async function deleteHookOutById(db: Database, id: number): Promise<void> {
  await change(db, 'DELETE FROM hooks_out WHERE id = ?', [id]);
}

/** The ways out that are outside places. */
export const outsidePlaces = async (db: Database): Promise<HookOutRow[]> =>
  (await allHooksOut(db)).filter(({ hook }) => hook.place !== null);

export interface NewHandover {
  hookId: number;
  /** Sets the event apart: each is handed over once. */
  eventKey: string;
  kind: string;
  /** Of one subject one after the other. */
  subject: string;
  body: string;
}

/** Lines up events to be handed over; those lined up before are left as they are. */
export async function insertHandovers(db: Database, made: readonly NewHandover[]): Promise<void> {
  if (made.length === 0) return;
  await change(
    db,
    `INSERT INTO hook_deliveries (hook_id, event_key, kind, subject, body) VALUES ${made.map(() => '(?, ?, ?, ?, ?)').join(', ')}
     ON DUPLICATE KEY UPDATE hook_deliveries.id = hook_deliveries.id`,
    made.flatMap(({ hookId, eventKey, kind, subject, body }) => [hookId, eventKey, kind, subject, body]),
  );
}

/** Whether any of some boards is a group's, or everybody's. */
export async function anyBoardOf(
  db: Database,
  boardIds: readonly number[],
  groupId: number,
): Promise<boolean> {
  if (boardIds.length === 0) return false;
  const found = await rows(
    db,
    `SELECT 1 FROM boards WHERE id IN (${boardIds.map(() => '?').join(', ')}) AND (group_id IS NULL OR group_id = ?) LIMIT 1`,
    [...boardIds, groupId],
  );
  return found.length > 0;
}

/** The ways out for which something is due. */
export async function hooksDue(db: Database): Promise<number[]> {
  const found = await rows<{ id: number }>(
    db,
    `SELECT h.id FROM hooks_out h WHERE h.state = 'on' AND (
       EXISTS (SELECT 1 FROM hook_deliveries d FORCE INDEX (deliveries_to_do) WHERE d.hook_id = h.id AND d.state = 'waiting' AND d.try_at <= NOW(3))
       OR EXISTS (SELECT 1 FROM hook_deliveries d FORCE INDEX (deliveries_to_do) WHERE d.hook_id = h.id AND d.state = 'sending' AND d.try_at <= NOW(3)))`,
  );
  return found.map(({ id }) => id);
}

export interface ClaimedHandover {
  id: number;
  eventKey: string;
  /** The going-out it carries; null where it is an event. */
  occurrenceId: number | null;
  body: string;
  attempts: number;
}

/** Claims what is due for a way out with a lease: of each subject only the first that is not done. */
export function claimHandovers(
  db: Database,
  hookId: number,
  engine: string,
  seconds: number,
  most: number,
): Promise<ClaimedHandover[]> {
  return claimDue<ClaimedHandover>(db, {
    states: ['waiting', 'sending'],
    most,
    due: (trx, state, limit) =>
      rows(
        trx,
        `SELECT d.id, d.event_key AS eventKey, d.occurrence_id AS occurrenceId, d.body, d.attempts + 1 AS attempts FROM hook_deliveries d FORCE INDEX (deliveries_to_do)
           WHERE d.hook_id = ? AND d.state = ? AND d.try_at <= NOW(3)
             AND NOT EXISTS (SELECT 1 FROM hook_deliveries e FORCE INDEX (deliveries_in_order) WHERE e.hook_id = d.hook_id AND e.subject = d.subject
               AND e.state IN ('waiting', 'sending') AND e.id < d.id)
           ORDER BY d.try_at LIMIT ? FOR UPDATE SKIP LOCKED`,
        [hookId, state, limit],
      ),
    left: { kind: 'handover', keyOf: ({ id }) => id },
    mark: (trx, found) =>
      change(
        trx,
        `UPDATE hook_deliveries SET state = 'sending', lease_owner = ?, try_at = NOW(3) + INTERVAL ? SECOND, attempts = attempts + 1
         WHERE id IN (${found.map(() => '?').join(', ')})`,
        [engine, seconds, ...found.map(({ id }) => id)],
      ),
  });
}

/** Notes what became of a handover; false where the claim is another engine's by now. */
export async function endHandover(
  db: Database,
  id: number,
  engine: string,
  ended: { state: HandoverState; status: number | null; reason: string | null; waitS: number | null },
): Promise<boolean> {
  return (
    (await change(
      db,
      `UPDATE hook_deliveries SET state = ?, status = ?, reason = ?, lease_owner = NULL,
         try_at = NOW(3) + INTERVAL ? SECOND, ended_at = IF(? IN ('delivered', 'failed'), NOW(3), NULL)
       WHERE id = ? AND state = 'sending' AND lease_owner = ?`,
      [
        ended.state,
        ended.status,
        ended.reason === null ? null : ended.reason.slice(0, 300),
        ended.waitS ?? 0,
        ended.state,
        id,
        engine,
      ],
    )) === 1
  );
}

/** Notes handovers that were taken, each with what it was answered; those that are another engine's by now stay its own. */
export async function endDelivered(
  db: Database,
  engine: string,
  taken: readonly { id: number; status: number }[],
): Promise<void> {
  for (const status of new Set(taken.map((each) => each.status))) {
    const ids = taken.filter((each) => each.status === status).map(({ id }) => id);
    await change(
      db,
      `UPDATE hook_deliveries SET state = 'delivered', reason = NULL, lease_owner = NULL, ended_at = NOW(3), status = ?
       WHERE id IN (${ids.map(() => '?').join(', ')}) AND state = 'sending' AND lease_owner = ?`,
      [status, ...ids, engine],
    );
  }
}

/** Gives back handovers that were claimed and not begun, as if they had not been claimed. */
export const giveBackHandovers = (db: Database, engine: string, ids: readonly number[]): Promise<number> =>
  change(
    db,
    `UPDATE hook_deliveries SET state = 'waiting', lease_owner = NULL, try_at = NOW(3), attempts = attempts - 1
     WHERE id IN (${ids.map(() => '?').join(', ')}) AND state = 'sending' AND lease_owner = ?`,
    [...ids, engine],
  );

/** Counts events that were given up one after another; gives how many. */
export async function countGivenUp(db: Database, id: number, givenUp: boolean): Promise<number> {
  await change(db, `UPDATE hooks_out SET failures = ${givenUp ? 'failures + 1' : '0'} WHERE id = ?`, [id]);
  const [row] = await rows<{ failures: number }>(db, 'SELECT failures FROM hooks_out WHERE id = ?', [id]);
  return row?.failures ?? 0;
}

const firstOf = (state: 'waiting' | 'sending'): string =>
  `COALESCE((SELECT MIN(d.try_at) FROM hook_deliveries d WHERE d.hook_id = h.id AND d.state = '${state}'), '9999-01-01')`;

/** SQL for the next instant at which something is to be handed over to a way out, or the claim of something ends. */
export const HANDOVER_DUE = `SELECT NULLIF(MIN(LEAST(${firstOf('waiting')}, ${firstOf('sending')})), '9999-01-01') FROM hooks_out h WHERE h.state = 'on'`;

/** The last handovers of a way out, the latest first. */
export async function lastHandovers(db: Database, hookId: number, most: number): Promise<Handover[]> {
  return rows<Handover>(
    db,
    `SELECT id, kind, ${ms('made_at')} AS madeMs, state, attempts, status, reason,
       ${ms("IF(state = 'waiting' AND attempts > 0, try_at, NULL)")} AS tryMs, body, sent_body AS sentBody
     FROM hook_deliveries WHERE hook_id = ? ORDER BY id DESC LIMIT ?`,
    [hookId, most],
  );
}

/** Has handovers of a way out made anew: one, or all that were made since an instant. Gives how many. */
export const handOverAgain = (
  db: Database,
  hookId: number,
  which: { id: number } | { sinceMs: number },
): Promise<number> =>
  change(
    db,
    `UPDATE hook_deliveries SET state = 'waiting', attempts = 0, try_at = NOW(3), ended_at = NULL, reason = NULL, status = NULL
     WHERE hook_id = ? AND state IN ('delivered', 'failed') AND ${'id' in which ? 'id = ?' : 'made_at >= ?'}`,
    [hookId, 'id' in which ? which.id : new Date(which.sinceMs)],
  );

/** Has what waits for a later try tried at once: it was switched on again, or its address was changed. */
export const tryWaitingNow = (db: Database, hookId: number): Promise<number> =>
  change(db, "UPDATE hook_deliveries SET try_at = NOW(3) WHERE hook_id = ? AND state = 'waiting'", [hookId]);

export interface HandoverFigures {
  delivered: number;
  failed: number;
  waiting: number;
  lastMs: number | null;
  /** Why the last that was tried failed; null where it did not. */
  trouble: string | null;
}

/** What each way out was told in the last day, what failed, and what waits. */
export async function handoverFigures(db: Database): Promise<Map<number, HandoverFigures>> {
  const found = await rows<HandoverFigures & { id: number }>(
    db,
    `SELECT d.hook_id AS id, CAST(SUM(d.state = 'delivered' AND d.ended_at > NOW(3) - INTERVAL 1 DAY) AS SIGNED) AS delivered,
       CAST(SUM(d.state = 'failed' AND d.ended_at > NOW(3) - INTERVAL 1 DAY) AS SIGNED) AS failed,
       CAST(SUM(d.state IN ('waiting', 'sending')) AS SIGNED) AS waiting, ${ms('MAX(d.ended_at)')} AS lastMs,
       (SELECT l.reason FROM hook_deliveries l WHERE l.hook_id = d.hook_id AND l.attempts > 0 ORDER BY l.id DESC LIMIT 1) AS trouble
     FROM hook_deliveries d GROUP BY d.hook_id`,
  );
  return new Map(found.map(({ id, ...figures }) => [id, figures]));
}
