import { change, rows, type Database } from '../database/connection.ts';

/** Signs somebody up; signing up again with the same address changes nothing. */
export async function insertSignUp(
  db: Database,
  signUp: { occurrenceId: number; sharedBy: number; name: string; mail: string },
): Promise<void> {
  await change(
    db,
    `INSERT INTO sign_ups (occurrence_id, shared_by, name, mail) VALUES (?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE sign_ups.id = sign_ups.id`,
    [signUp.occurrenceId, signUp.sharedBy, signUp.name, signUp.mail],
  );
}

/** How many signed up under whose link, the most first. */
export function signUpsBySharer(
  db: Database,
  occurrenceId: number,
): Promise<{ sharedBy: string; n: number }[]> {
  return rows(
    db,
    `SELECT p.name AS sharedBy, COUNT(*) AS n FROM sign_ups s JOIN people p ON p.id = s.shared_by
     WHERE s.occurrence_id = ? GROUP BY s.shared_by, p.name ORDER BY n DESC, p.name LIMIT 500`,
    [occurrenceId],
  );
}

/** Everybody who signed up, in the order they did. */
export function allSignUps(
  db: Database,
  occurrenceId: number,
): Promise<{ name: string; mail: string; sharedBy: string; atMs: number }[]> {
  return rows(
    db,
    `SELECT s.name, s.mail, p.name AS sharedBy, TIMESTAMPDIFF(MICROSECOND, '1970-01-01', s.signed_up_at) DIV 1000 AS atMs
     FROM sign_ups s JOIN people p ON p.id = s.shared_by WHERE s.occurrence_id = ? ORDER BY s.id LIMIT 100000`,
    [occurrenceId],
  );
}
