import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** Signs somebody up; signing up again with the same address changes nothing. */
export async function insertSignUp(
  db: Database,
  signUp: { occurrenceId: number; sharedBy: number; name: string; mail: string; zone: string | null },
): Promise<void> {
  await change(
    db,
    `INSERT INTO sign_ups (occurrence_id, shared_by, name, mail, zone) VALUES (?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE sign_ups.id = sign_ups.id`,
    [signUp.occurrenceId, signUp.sharedBy, signUp.name, signUp.mail, signUp.zone],
  );
}

/** Takes a name off again; false where it is off already. */
export async function deleteSignUp(db: Database, id: number): Promise<boolean> {
  return (await change(db, 'DELETE FROM sign_ups WHERE id = ?', [id])) === 1;
}

export interface SignUpToConfirm {
  id: number;
  occurrenceId: number;
  name: string;
  mail: string;
  /** Null where their browser told none. */
  zone: string | null;
  sharedBy: string;
  attempts: number;
  /** How many mails about it have gone, and what the last of them told. */
  told: number;
  digest: string | null;
  waitsSinceMs: number;
}

const TO_CONFIRM = `SELECT s.id, s.occurrence_id AS occurrenceId, s.name, s.mail, s.zone, p.name AS sharedBy, s.attempts, s.told,
    s.digest, ${ms('s.waits_since')} AS waitsSinceMs
  FROM sign_ups s JOIN people p ON p.id = s.shared_by`;

export function signUpsToConfirm(db: Database, ids: readonly number[]): Promise<SignUpToConfirm[]> {
  return rows(db, `${TO_CONFIRM} WHERE s.id IN (${ids.map(() => '?').join(', ')}) ORDER BY s.id`, ids);
}

export async function signUpById(db: Database, id: number): Promise<SignUpToConfirm | undefined> {
  const [found] = await rows<SignUpToConfirm>(db, `${TO_CONFIRM} WHERE s.id = ?`, [id]);
  return found;
}

/** Notes what somebody was told, before the mail is noted as gone: what is told twice is told in one mail's name. */
export async function noteTold(db: Database, id: number, digest: string): Promise<void> {
  await change(db, 'UPDATE sign_ups SET told = told + 1, digest = ? WHERE id = ?', [digest, id]);
}

/** Lets those who signed up for an event be told of it again, where what there is to tell has become another. */
export async function confirmAgain(db: Database, occurrenceId: number): Promise<void> {
  await change(
    db,
    `UPDATE sign_ups SET state = 'waiting', try_at = NOW(3), attempts = 0, claim = NULL, reason = NULL, waits_since = NOW(3)
     WHERE occurrence_id = ?`,
    [occurrenceId],
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
): Promise<
  {
    name: string;
    mail: string;
    sharedBy: string;
    atMs: number;
    /** When a mail last confirmed it, or why none could. */
    sentMs: number | null;
    failed: string | null;
  }[]
> {
  return rows(
    db,
    `SELECT s.name, s.mail, p.name AS sharedBy, ${ms('s.signed_up_at')} AS atMs, ${ms('s.sent_at')} AS sentMs,
       IF(s.state = 'failed', s.reason, NULL) AS failed
     FROM sign_ups s JOIN people p ON p.id = s.shared_by WHERE s.occurrence_id = ? ORDER BY s.id LIMIT 100000`,
    [occurrenceId],
  );
}
