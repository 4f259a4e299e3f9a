import type { Figures } from '../../core/sends/after.ts';
import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { keptCounts, reachedOf, sumOf } from '../retention/keptStore.ts';

/** What the database sums up, which it gives as text, or as nothing where there is nothing to sum. */
type Counted = 'reached' | 'read' | 'failed' | 'asked' | 'answered' | 'readOnBoards';

/**
 * The figures of an occurrence: as they are now, or as they were so long after it was first due.
 *
 * @param ageMs milliseconds since it was due, or null for now
 */
export async function figuresOf(
  db: Database,
  occurrenceId: number,
  ageMs: number | null,
): Promise<Omit<Figures, 'onBoards' | 'contactsOnBoards'> | undefined> {
  const [row] = await rows<
    Omit<Figures, Counted | 'onBoards' | 'contactsOnBoards'> & Record<Counted, number | string | null>
  >(
    db,
    `SELECT o.id AS occurrenceId, v.title, ${ms('o.due_at')} AS dueMs, d.reached, d.\`read\`, d.failed, d.worstLateMs, r.asked, r.answered, b.readOnBoards
     FROM occurrences o JOIN announcement_versions v ON v.id = o.version_id
       JOIN (SELECT SUM(d.method = 'inbox' AND d.state = 'delivered' AND d.went_at <= u.until) AS reached,
               SUM(d.read_at IS NOT NULL AND d.read_at <= u.until) AS \`read\`,
               SUM(d.state = 'failed') AS failed, MAX(d.late_ms) AS worstLateMs
             FROM (SELECT COALESCE(due_at + INTERVAL ? MICROSECOND, NOW(3)) AS until FROM occurrences WHERE id = ?) u
               LEFT JOIN deliveries d ON d.occurrence_id = ?) d
       JOIN (SELECT COUNT(r.person_id) AS asked, SUM(r.answered_at IS NOT NULL AND r.answered_at <= u.until) AS answered
             FROM (SELECT COALESCE(due_at + INTERVAL ? MICROSECOND, NOW(3)) AS until FROM occurrences WHERE id = ?) u
               LEFT JOIN roll r ON r.occurrence_id = ?) r
       JOIN (SELECT COUNT(DISTINCT IF(c.linked_to IS NULL, r.person_id, NULL)) AS readOnBoards
             FROM (SELECT COALESCE(due_at + INTERVAL ? MICROSECOND, NOW(3)) AS until FROM occurrences WHERE id = ?) u
               LEFT JOIN posts q ON q.occurrence_id = ? LEFT JOIN post_reads r ON r.post_id = q.id AND r.read_at <= u.until
               LEFT JOIN people c ON c.id = r.person_id) b
     WHERE o.id = ?`,
    [
      ageMs === null ? null : ageMs * 1000,
      occurrenceId,
      occurrenceId,
      ageMs === null ? null : ageMs * 1000,
      occurrenceId,
      occurrenceId,
      ageMs === null ? null : ageMs * 1000,
      occurrenceId,
      occurrenceId,
      occurrenceId,
    ],
  );
  const kept = (await keptCounts(db, [occurrenceId])).get(occurrenceId);
  const deliveries = kept?.deliveries;
  return (
    row && {
      ...row,
      reached: Number(row.reached ?? 0),
      read: Number(row.read ?? 0),
      failed: Number(row.failed ?? 0),
      asked: Number(row.asked ?? 0),
      answered: Number(row.answered ?? 0),
      readOnBoards: Number(row.readOnBoards ?? 0),
      // Of what was forgotten, what it came to in the end is all that is known.
      ...(deliveries && {
        reached: reachedOf(deliveries),
        read: deliveries.read,
        failed: deliveries.counts.reduce((n, each) => n + (each.state === 'failed' ? each.n : 0), 0),
        worstLateMs: deliveries.counts.reduce<number | null>(
          (worst, each) => (each.worstLateMs === null ? worst : Math.max(worst ?? 0, each.worstLateMs)),
          null,
        ),
      }),
      ...(kept?.answers && sumOf(kept.answers)),
    }
  );
}

type Bins = Map<number, number>;

/** How many were delivered to, read and answered in each period of so many minutes since an instant. */
export async function arrivals(
  db: Database,
  occurrenceId: number,
  fromMs: number,
  minutes: number,
): Promise<{ delivered: Bins; read: Bins; answered: Bins }> {
  const bin = (column: string): string =>
    `GREATEST(0, TIMESTAMPDIFF(SECOND, ?, ${column})) DIV ${Math.trunc(minutes) * 60}`;
  const binned = async (column: string, from: string): Promise<Bins> => {
    const found = await rows<{ bin: number; n: number }>(
      db,
      `SELECT ${bin(column)} AS bin, COUNT(*) AS n ${from} AND ${column} IS NOT NULL GROUP BY 1`,
      [new Date(fromMs), occurrenceId],
    );
    return new Map(found.map((row) => [row.bin, row.n]));
  };
  const inbox = "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox'";
  const [delivered, read, answered] = await Promise.all([
    binned('went_at', inbox),
    binned('read_at', inbox),
    binned('answered_at', 'FROM roll WHERE occurrence_id = ?'),
  ]);
  return { delivered, read, answered };
}

export interface DeliveryRow {
  personId: number;
  name: string;
  station: string | null;
  method: string;
  state: string;
  dueMs: number;
  wentMs: number | null;
  lateMs: number | null;
  readMs: number | null;
  attempts: number;
  reason: string | null;
}

/** A page of an occurrence's deliveries, by person and method. */
export function deliveriesPage(
  db: Database,
  occurrenceId: number,
  after: { personId: number; method: string } | null,
  most: number,
): Promise<DeliveryRow[]> {
  return rows(
    db,
    `SELECT d.person_id AS personId, p.shown_name AS name, s.name AS station, d.method, d.state, ${ms('d.due_at')} AS dueMs,
       ${ms('d.went_at')} AS wentMs, d.late_ms AS lateMs, ${ms('d.read_at')} AS readMs, d.attempts, d.reason
     FROM deliveries d JOIN people p ON p.id = d.person_id LEFT JOIN stations s ON s.id = p.station_id
     WHERE d.occurrence_id = ? AND (? IS NULL OR d.person_id > ? OR (d.person_id = ? AND d.method > ?))
     ORDER BY d.person_id, d.method LIMIT ?`,
    [
      occurrenceId,
      after?.personId ?? null,
      after?.personId ?? 0,
      after?.personId ?? 0,
      after?.method ?? '',
      most,
    ],
  );
}
