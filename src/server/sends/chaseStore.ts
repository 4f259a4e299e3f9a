import type { Plan } from '../../core/plan/plan.ts';
import { storedPlan } from '../../core/stored.ts';
import type { OccurrenceState } from '../../core/delivery/states.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { insertOccurrence } from './occurrenceStore.ts';
import { mayMove, moved } from './stateStore.ts';

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
    `UPDATE occurrences o SET o.state = ${moved('call off', 'o')}, o.failure = ? WHERE o.chases = ? AND ${mayMove('call off', 'o')}
       AND NOT EXISTS (SELECT 1 FROM buckets b WHERE b.occurrence_id = o.id AND b.state NOT IN ('recalled', 'skipped'))`,
    [why, occurrenceId],
  );
}

/** Plans one chase of an occurrence, once for each key; gives its id, or null where it was planned already. */
export function insertChase(
  db: Database,
  chase: {
    send: ChaseSend;
    chases: number;
    key: string;
    dueMs: number;
    deadlineMs: number | null;
  },
): Promise<number | null> {
  return insertOccurrence(db, {
    sendId: chase.send.id,
    versionId: chase.send.versionId,
    recursAt: '',
    buckets: [{ zone: '', dueMs: chase.dueMs, hour: 'ordinary', pastHour: 'as planned' }],
    firstMs: chase.dueMs,
    lastMs: chase.dueMs,
    deadlineMs: chase.deadlineMs,
    chase: { of: chase.chases, key: chase.key },
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

/** A send that follows up another: with the text of the chase, to those who have not answered. */
export interface ChaseSend {
  id: number;
  versionId: number;
}

/** The send that the chases of a send belong to, which is held until the transaction ends; null where it has none yet. */
export async function chaseSendOf(db: Database, sendId: number): Promise<ChaseSend | null> {
  const [row] = await rows<{ id: number | null; versionId: number | null }>(
    db,
    `SELECT c.id, c.version_id AS versionId FROM sends s LEFT JOIN sends c ON c.id = s.chase_send_id
     WHERE s.id = ? FOR UPDATE`,
    [sendId],
  );
  return row?.id && row.versionId ? { id: row.id, versionId: row.versionId } : null;
}

/** Writes the send of the chases of a send, which stands in its place for all it plans from now on; gives its id. */
export async function insertChaseSend(
  db: Database,
  sendId: number,
  versionId: number,
  plan: Plan,
): Promise<number> {
  await change(
    db,
    `INSERT INTO sends (announcement_id, version_id, created_by, plan, idempotency_key, kind, run_id, hook_id, to_one, chases)
     SELECT announcement_id, ?, created_by, ?, ?, 'chase', run_id, hook_id, to_one, id FROM sends WHERE id = ?`,
    [versionId, storedPlan(plan), `chases.${sendId}.${versionId}`, sendId],
  );
  await change(
    db,
    'UPDATE sends s JOIN sends c ON c.chases = s.id AND c.version_id = ? SET s.chase_send_id = c.id WHERE s.id = ?',
    [versionId, sendId],
  );
  const made = await chaseSendOf(db, sendId);
  if (!made) throw new Error('There is no such send');
  return made.id;
}
