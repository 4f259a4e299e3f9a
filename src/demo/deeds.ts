import type { Database } from '../server/database/connection.ts';

/** Writes into the audit trail what was done for the demo to stand as it does, at the times at which it was. */
export async function layDeeds(db: Database): Promise<void> {
  // The coordinator who keeps the directory.
  const keeper = "(SELECT MIN(id) FROM people WHERE role = 'coordinator')";
  await db.raw(
    `INSERT INTO audit (at, actor_id, action, subject, subject_id)
     SELECT deeds.at, deeds.actor, deeds.action, deeds.subject, deeds.subject_id FROM (
       SELECT CAST(p.joined_on AS DATETIME(3)) + INTERVAL 8 HOUR AS at, ${keeper} AS actor, 'add' AS action,
         'person' AS subject, p.id AS subject_id FROM people p WHERE p.linked_to IS NULL AND p.id <> ${keeper}
       UNION ALL
       SELECT p.left_at, ${keeper}, 'leave', 'person', p.id FROM people p WHERE p.left_at IS NOT NULL
       UNION ALL
       SELECT MIN(o.due_at) - INTERVAL 1 HOUR, s.created_by, 'send', 'send', s.id FROM sends s
         JOIN occurrences o ON o.send_id = s.id WHERE s.kind <> 'chase'
         GROUP BY s.id HAVING MIN(o.due_at) < NOW(3)
     ) deeds ORDER BY at`,
  );
}
