import type { HourRow } from '../../core/told/hours.ts';
import type { Importance } from '../../core/content/announcement.ts';
import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { keptCounts, reachedOf, sumOf } from '../retention/keptStore.ts';

/** What the latest announcements came to and how soon it was opened or answered, by zone, station and hour. */
export function hourRows(db: Database, days: number, announcements: number): Promise<HourRow[]> {
  return rows(
    db,
    `SELECT p.zone, s.name AS station, t.id AS occurrenceId,
       TIMESTAMPDIFF(HOUR, '1970-01-01', d.went_at) * 3600000 AS hourMs, COUNT(*) AS n,
       CAST(SUM(COALESCE(d.read_at <= d.went_at + INTERVAL 1 HOUR, FALSE)
         OR COALESCE(r.answered_at <= d.went_at + INTERVAL 1 HOUR, FALSE)) AS SIGNED) AS soon
     FROM (SELECT o.id FROM occurrences o JOIN sends x ON x.id = o.send_id
           WHERE o.state = 'sent' AND x.kind IN ('send', 'chase') AND NOT x.to_one AND o.due_at > NOW(3) - INTERVAL ? DAY
             AND o.due_at < NOW(3) - INTERVAL 1 HOUR ORDER BY o.due_at DESC LIMIT ?) t
       JOIN deliveries d ON d.occurrence_id = t.id AND d.method = 'inbox' AND d.state = 'delivered'
       JOIN people p ON p.id = d.person_id LEFT JOIN stations s ON s.id = p.station_id
       LEFT JOIN roll r ON r.occurrence_id = t.id AND r.person_id = d.person_id
     GROUP BY p.zone, s.name, t.id, hourMs`,
    [days, announcements],
  );
}

export interface ToldStored {
  occurrenceId: number;
  versionId: number;
  title: string;
  atMs: number;
  sender: string;
  series: string | null;
  importance: Importance;
  plan: string;
  byItself: number;
  reached: number;
  read: number;
  asked: number;
  answered: number;
}

/** What went out between two instants, with whom it reached, the latest first. */
export async function toldBetween(
  db: Database,
  fromMs: number,
  toMs: number,
  most: number,
): Promise<ToldStored[]> {
  const [from, to] = [new Date(fromMs), new Date(toMs)];
  const found = await rows<ToldStored>(
    db,
    `SELECT t.*, COALESCE(d.reached, 0) AS reached, COALESCE(d.\`read\`, 0) AS \`read\`,
       COALESCE(q.asked, 0) AS asked, COALESCE(q.answered, 0) AS answered
     FROM (SELECT o.id AS occurrenceId, o.version_id AS versionId, v.title, ${ms('o.due_at')} AS atMs, p.name AS sender,
             e.name AS series, v.importance, s.plan, s.run_id IS NOT NULL OR s.hook_id IS NOT NULL AS byItself
           FROM occurrences o JOIN sends s ON s.id = o.send_id JOIN announcement_versions v ON v.id = o.version_id
             JOIN people p ON p.id = s.created_by LEFT JOIN series e ON e.id = v.series_id
           WHERE o.due_at >= ? AND o.due_at < ? AND o.state IN ('sent', 'going out') AND s.kind = 'send'
           ORDER BY o.due_at DESC, o.id DESC LIMIT ?) t
       LEFT JOIN (SELECT d.occurrence_id AS id, COUNT(*) AS reached, CAST(SUM(d.read_at IS NOT NULL) AS SIGNED) AS \`read\`
          FROM occurrences o JOIN deliveries d ON d.occurrence_id = o.id AND d.method = 'inbox' AND d.state = 'delivered'
          WHERE o.due_at >= ? AND o.due_at < ? GROUP BY d.occurrence_id) d ON d.id = t.occurrenceId
       LEFT JOIN (SELECT r.occurrence_id AS id, COUNT(*) AS asked, CAST(SUM(r.answered_at IS NOT NULL) AS SIGNED) AS answered
          FROM occurrences o JOIN roll r ON r.occurrence_id = o.id
          WHERE o.due_at >= ? AND o.due_at < ? GROUP BY r.occurrence_id) q ON q.id = t.occurrenceId
     ORDER BY t.atMs DESC, t.occurrenceId DESC`,
    [from, to, most, from, to, from, to],
  );
  const kept = await keptCounts(
    db,
    found.map((row) => row.occurrenceId),
  );
  return found.map((row) => {
    const { deliveries, answers } = kept.get(row.occurrenceId) ?? {};
    return {
      ...row,
      ...(deliveries && { reached: reachedOf(deliveries), read: deliveries.read }),
      ...(answers && sumOf(answers)),
    };
  });
}

/** Who got most between two instants, with how many announcements each, the most first. */
export function toldMost(
  db: Database,
  fromMs: number,
  toMs: number,
  most: number,
): Promise<{ id: number; name: string; n: number }[]> {
  return rows(
    db,
    `SELECT p.id, p.name, t.n FROM (
       SELECT d.person_id AS id, COUNT(*) AS n FROM occurrences o JOIN sends s ON s.id = o.send_id AND s.kind IN ('send', 'chase')
         JOIN deliveries d ON d.occurrence_id = o.id AND d.method = 'inbox' AND d.state = 'delivered'
       WHERE o.due_at >= ? AND o.due_at < ? GROUP BY d.person_id ORDER BY n DESC, d.person_id LIMIT ?) t
       JOIN people p ON p.id = t.id ORDER BY t.n DESC, p.name`,
    [new Date(fromMs), new Date(toMs), most],
  );
}
