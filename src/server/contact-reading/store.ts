import { rows, type Database } from '../database/connection.ts';

/** A linked contact with whom they are linked to; nothing where they are none, or either has left. */
export async function contactById(
  db: Database,
  id: number,
): Promise<{ id: number; name: string; zone: string; of: { id: number; name: string } } | undefined> {
  const [row] = await rows<{ id: number; name: string; zone: string; ofId: number; ofName: string }>(
    db,
    `SELECT c.id, c.name, c.zone, p.id AS ofId, p.name AS ofName FROM people c JOIN people p ON p.id = c.linked_to
     WHERE c.id = ? AND c.standing <> 'left' AND p.standing <> 'left'`,
    [id],
  );
  return row && { id: row.id, name: row.name, zone: row.zone, of: { id: row.ofId, name: row.ofName } };
}

/** How many linked contacts have read a post of an occurrence on a board. */
export async function contactsWhoRead(db: Database, occurrenceId: number): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    `SELECT COUNT(DISTINCT r.person_id) AS n FROM posts q JOIN post_reads r ON r.post_id = q.id
       JOIN people p ON p.id = r.person_id AND p.linked_to IS NOT NULL WHERE q.occurrence_id = ?`,
    [occurrenceId],
  );
  return row?.n ?? 0;
}
