import { change, rows, type Database } from '../database/connection.ts';
import { recountDeliveries } from '../sends/deliveryCountStore.ts';

/** Whose a mail address is, as one mail goes to or a further one; nobody who left, and no linked contact. */
export async function personWithAddress(db: Database, mail: string): Promise<number | undefined> {
  const [row] = await rows<{ id: number }>(
    db,
    `SELECT p.id FROM people p WHERE p.standing <> 'left' AND p.linked_to IS NULL
       AND (p.mail = ? OR EXISTS (SELECT 1 FROM person_addresses a WHERE a.person_id = p.id AND a.mail = ?))
     ORDER BY p.mail = ? DESC LIMIT 1`,
    [mail, mail, mail],
  );
  return row?.id;
}

/** Marks the address mail goes to as failing, where it is the one that mail came back from; false where it is another. */
export async function markFailing(
  db: Database,
  personId: number,
  address: string,
  reason: string,
): Promise<boolean> {
  return (
    (await change(
      db,
      `UPDATE people SET mail_failing = mail, mail_failing_at = NOW(3), mail_failing_reason = ?
       WHERE id = ? AND mail = ?`,
      [reason.slice(0, 300), personId, address],
    )) === 1
  );
}

/** The address somebody's mail goes to, whoever they are. */
export async function addressOf(db: Database, personId: number): Promise<string | null> {
  const [row] = await rows<{ mail: string | null }>(db, 'SELECT mail FROM people WHERE id = ?', [personId]);
  return row?.mail ?? null;
}

/**
 * Says of a mail that was handed over, and of those that went together with it, that it came back; tells of how many sends.
 */
export async function markCameBack(
  db: Database,
  occurrenceId: number,
  personId: number,
  reason: string,
): Promise<number[]> {
  const found = await rows<{ occurrenceId: number }>(
    db,
    `SELECT d.occurrence_id AS occurrenceId FROM deliveries d JOIN deliveries f ON f.person_id = d.person_id AND f.method = 'mail'
     WHERE f.occurrence_id = ? AND f.person_id = ? AND d.method = 'mail' AND d.state = 'delivered'
       AND (d.occurrence_id = f.occurrence_id OR d.bundle_at = f.bundle_at) FOR UPDATE`,
    [occurrenceId, personId],
  );
  const ids = found.map((row) => row.occurrenceId);
  if (ids.length > 0)
    await change(
      db,
      `UPDATE deliveries SET state = 'failed', reason = ? WHERE method = 'mail' AND person_id = ? AND state = 'delivered'
         AND occurrence_id IN (${ids.map(() => '?').join(', ')})`,
      [`It came back: ${reason}`.slice(0, 300), personId, ...ids],
    );
  await recountDeliveries(db, ids);
  return ids;
}

/** Takes the mark off an address, so that mail goes there again; false where it had none. */
export async function clearFailing(db: Database, personId: number): Promise<boolean> {
  return (
    (await change(
      db,
      'UPDATE people SET mail_failing = NULL, mail_failing_at = NULL, mail_failing_reason = NULL WHERE id = ? AND mail_failing IS NOT NULL',
      [personId],
    )) === 1
  );
}
