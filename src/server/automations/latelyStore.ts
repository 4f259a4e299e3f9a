import type { AutomationsLately } from '../../core/desk/lately.ts';
import { rows, type Database } from '../database/connection.ts';

/** Whose automations: all, or those somebody looks after or may change. */
const whoseSql = (whose: number | null): { sql: string; bindings: number[] } =>
  whose === null
    ? { sql: 'TRUE', bindings: [] }
    : {
        sql: '(a.owner_id = ? OR EXISTS (SELECT 1 FROM automation_people n WHERE n.automation_id = a.id AND n.person_id = ?))',
        bindings: [whose, whose],
      };

/**
 * What automations did since an instant (milliseconds since 1970): runs that ended with something to say, the people who were told,
 * each once, whom they did not find, and what failed or was kept back.
 *
 * @param whose whose automations; null for all
 */
export async function automationsSince(
  db: Database,
  sinceMs: number,
  whose: number | null,
): Promise<Omit<AutomationsLately, 'sinceMs'>> {
  const { sql, bindings } = whoseSql(whose);
  const since = new Date(sinceMs);
  const [runs, told, notFound, paused] = await Promise.all([
    rows<{ ran: number; failed: number }>(
      db,
      `SELECT CAST(COALESCE(SUM(r.state <> 'nothing'), 0) AS SIGNED) AS ran,
         CAST(COALESCE(SUM(r.state IN ('failed', 'lapsed')), 0) AS SIGNED) AS failed
       FROM automation_runs r JOIN automations a ON a.id = r.automation_id WHERE r.ended_at > ? AND ${sql}`,
      [since, ...bindings],
    ),
    rows<{ n: number }>(
      db,
      `SELECT COUNT(DISTINCT d.person_id) AS n FROM automation_runs r JOIN automations a ON a.id = r.automation_id
         JOIN automation_sayings y ON y.run_id = r.id
         JOIN deliveries d ON d.occurrence_id = y.occurrence_id AND d.method = 'inbox'
       WHERE r.ended_at > ? AND ${sql}`,
      [since, ...bindings],
    ),
    rows<{ n: number }>(
      db,
      `SELECT COUNT(*) AS n FROM automation_runs r JOIN automations a ON a.id = r.automation_id
         JOIN automation_sayings y ON y.run_id = r.id AND y.missing_value IS NOT NULL
       WHERE r.ended_at > ? AND ${sql}`,
      [since, ...bindings],
    ),
    rows<{ n: number }>(
      db,
      `SELECT COUNT(*) AS n FROM automations a WHERE a.state = 'paused' AND ${sql}`,
      bindings,
    ),
  ]);
  return {
    ran: runs[0]?.ran ?? 0,
    failed: runs[0]?.failed ?? 0,
    told: told[0]?.n ?? 0,
    notFound: notFound[0]?.n ?? 0,
    paused: paused[0]?.n ?? 0,
  };
}
