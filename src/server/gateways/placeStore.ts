import type { PlaceReached } from '../../core/gateways/hookOut.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** A way out that is an outside place, as SQL sees it. */
const IS_PLACE = "JSON_VALUE(h.hook, '$.place.template') IS NOT NULL";

/**
 * Lines a going-out up for the outside places of its plan, once each, however often it is asked; not where it was taken back.
 * Where a way out is switched off it fails at once, and can be tried again.
 *
 * @param dueMs when it is due there, in milliseconds since 1970
 */
export async function lineUpForPlaces(
  db: Database,
  occurrence: { id: number; title: string; plan: { outside: readonly number[] } },
  dueMs: number,
): Promise<void> {
  const { outside } = occurrence.plan;
  if (outside.length === 0) return;
  await change(
    db,
    `INSERT INTO hook_deliveries (hook_id, event_key, kind, subject, body, occurrence_id, due_at, state, reason, ended_at)
     SELECT h.id, ?, 'announcement', ?, ?, o.id, ?, IF(h.state = 'off', 'failed', 'waiting'),
       IF(h.state = 'off', 'Its way out was switched off.', NULL), IF(h.state = 'off', NOW(3), NULL)
     FROM hooks_out h JOIN occurrences o ON o.id = ?
     WHERE h.id IN (${outside.map(() => '?').join(', ')}) AND ${IS_PLACE} AND o.taken_back_at IS NULL
     ON DUPLICATE KEY UPDATE hook_deliveries.id = hook_deliveries.id`,
    [
      `place.${occurrence.id}.sent`,
      `announcement:${occurrence.id}`,
      JSON.stringify({ data: { change: 'sent', title: occurrence.title } }),
      new Date(dueMs),
      occurrence.id,
      ...outside,
    ],
  );
}

/**
 * Tells the outside places a going-out was handed to, and that want to know, what became of it since.
 *
 * @param event the number of the event that says so: each is told once
 */
export async function lineUpChange(
  db: Database,
  occurrence: { id: number; title: string },
  told: { change: 'corrected' | 'withdrawn' | 'reinstated'; note: string },
  event: number,
): Promise<void> {
  await change(
    db,
    `INSERT INTO hook_deliveries (hook_id, event_key, kind, subject, body, occurrence_id)
     SELECT h.id, ?, 'announcement', ?, ?, d.occurrence_id FROM hook_deliveries d JOIN hooks_out h ON h.id = d.hook_id
     WHERE d.occurrence_id = ? AND d.event_key = ? AND d.state IN ('waiting', 'sending', 'delivered')
       AND JSON_VALUE(h.hook, '$.place.changes') AND h.state <> 'off'
     ON DUPLICATE KEY UPDATE hook_deliveries.id = hook_deliveries.id`,
    [
      `place.${occurrence.id}.${told.change}.${event}`,
      `announcement:${occurrence.id}`,
      JSON.stringify({ data: { ...told, title: occurrence.title } }),
      occurrence.id,
      `place.${occurrence.id}.sent`,
    ],
  );
}

/** Notes the body with which a place is tried, before it is. */
export async function noteSentBody(db: Database, handoverId: number, body: string): Promise<void> {
  await change(db, 'UPDATE hook_deliveries SET sent_body = ? WHERE id = ?', [body, handoverId]);
}

/** Has what of a going-out waits for outside places not go there; tells how many. What is on the wire goes. */
export const callOffPlaces = (db: Database, occurrenceId: number): Promise<number> =>
  change(
    db,
    "UPDATE hook_deliveries SET state = 'called off', ended_at = NOW(3), reason = NULL WHERE occurrence_id = ? AND state = 'waiting'",
    [occurrenceId],
  );

/** Puts what of a going-out was given up at outside places back in line; tells how many. */
export const retryPlaces = (db: Database, occurrenceId: number): Promise<number> =>
  change(
    db,
    `UPDATE hook_deliveries SET state = 'waiting', attempts = 0, try_at = NOW(3), ended_at = NULL, reason = NULL, status = NULL
     WHERE occurrence_id = ? AND state = 'failed'`,
    [occurrenceId],
  );

/** What became of a going-out at its outside places, by name: of each the last that was handed to it. */
export const placesReached = (db: Database, occurrenceId: number): Promise<PlaceReached[]> =>
  rows(
    db,
    `SELECT d.id, h.id AS hookId, h.name, h.state AS standing, d.state, d.attempts, d.status, d.reason,
       ${ms('d.ended_at')} AS endedMs, ${ms("IF(d.state = 'waiting' AND d.attempts > 0, d.try_at, NULL)")} AS tryMs,
       IF(d.state = 'delivered', d.late_ms, NULL) AS lateMs
     FROM hook_deliveries d JOIN hooks_out h ON h.id = d.hook_id
     WHERE d.occurrence_id = ? AND d.event_key = ? ORDER BY h.name`,
    [occurrenceId, `place.${occurrenceId}.sent`],
  );

/**
 * A statement that counts what outside places were told of some going-outs, as `deliveries` are counted: first a binding of how
 * many milliseconds are late, then the going-outs. Changes told afterwards are not counted.
 *
 * @param marks the places of the going-outs' bindings
 */
export const countedOutside = (marks: string): string =>
  `SELECT occurrence_id AS occurrenceId, 'outside' AS method, state, COUNT(*) AS n,
     CAST(COALESCE(SUM(state = 'delivered' AND late_ms > ?), 0) AS SIGNED) AS late, MAX(IF(state = 'delivered', late_ms, NULL)) AS worstLateMs
   FROM hook_deliveries WHERE occurrence_id IN (${marks}) AND due_at IS NOT NULL GROUP BY occurrence_id, state`;

/** What has yet to go out to an outside place: the titles of sends and the names of automations, at most so many. */
export async function usesOfPlace(db: Database, hookId: number, most: number): Promise<string[]> {
  const found = await rows<{ name: string }>(
    db,
    `(SELECT DISTINCT v.title AS name FROM sends s JOIN announcement_versions v ON v.id = s.version_id
       WHERE JSON_CONTAINS(s.plan, ?, '$.outside') AND s.state <> 'ended'
         AND (s.recurring OR EXISTS (SELECT 1 FROM occurrences o WHERE o.send_id = s.id AND o.state = 'scheduled')) LIMIT ?)
     UNION (SELECT JSON_VALUE(v.automation, '$.name') AS name FROM automations a JOIN automation_versions v ON v.id = a.live_version_id
       WHERE a.state <> 'off' AND JSON_CONTAINS(v.automation, ?, '$.tell.outside') LIMIT ?)`,
    [String(hookId), most, String(hookId), most],
  );
  return found.slice(0, most).map(({ name }) => name);
}
