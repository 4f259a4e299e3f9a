import { change, rows, type Database } from '../database/connection.ts';

/** For which of some records an automation has seen its condition hold, now or before. */
export async function matchesOf(
  db: Database,
  automationId: number,
  recordIds: readonly number[] | null,
): Promise<Map<number, boolean>> {
  const found: { recordId: number; holds: number }[] = [];
  const where = 'SELECT record_id AS recordId, holds FROM record_matches WHERE automation_id = ?';
  if (recordIds === null)
    found.push(...(await rows<{ recordId: number; holds: number }>(db, where, [automationId])));
  else
    for (let at = 0; at < recordIds.length; at += 1000) {
      const some = recordIds.slice(at, at + 1000);
      found.push(
        ...(await rows<{ recordId: number; holds: number }>(
          db,
          `${where} AND record_id IN (${some.map(() => '?').join(', ')})`,
          [automationId, ...some],
        )),
      );
    }
  return new Map(found.map(({ recordId, holds }) => [recordId, holds === 1]));
}

/** Notes for which records a condition holds, and for which it does not any more. */
export async function noteMatches(
  db: Database,
  automationId: number,
  changed: readonly { recordId: number; holds: boolean }[],
): Promise<void> {
  for (let at = 0; at < changed.length; at += 1000) {
    const some = changed.slice(at, at + 1000);
    await change(
      db,
      `INSERT INTO record_matches (automation_id, record_id, holds) VALUES ${some.map(() => '(?, ?, ?)').join(', ')}
       ON DUPLICATE KEY UPDATE holds = VALUES(holds)`,
      some.flatMap(({ recordId, holds }) => [automationId, recordId, holds]),
    );
  }
}

export async function forgetMatches(db: Database, automationId: number): Promise<void> {
  await change(db, 'DELETE FROM record_matches WHERE automation_id = ?', [automationId]);
}
