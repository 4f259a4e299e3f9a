import type { PasskeyLine } from '../../core/access/secondFactor.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** How long a step of signing in can be taken, and a secret that is not confirmed yet is shown again. */
const STEP_MINUTES = 10;

/** Somebody's role, and whether they have a second step; nothing where they have left. */
export async function standingOf(
  db: Database,
  personId: number,
): Promise<{ role: 'coordinator' | 'editor' | 'member'; second: boolean } | undefined> {
  const [row] = await rows<{ role: 'coordinator' | 'editor' | 'member'; second: number }>(
    db,
    `SELECT p.role, (EXISTS (SELECT 1 FROM passkeys k WHERE k.person_id = p.id)
       OR EXISTS (SELECT 1 FROM code_secrets c WHERE c.person_id = p.id AND c.confirmed_at IS NOT NULL)) AS second
     FROM people p WHERE p.id = ? AND p.standing <> 'left'`,
    [personId],
  );
  return row && { role: row.role, second: row.second === 1 };
}

export interface StoredCodes {
  sealed: Buffer;
  confirmedMs: number | null;
  /** Whether its secret was made within the last minutes. */
  fresh: boolean;
}

export async function codesOf(db: Database, personId: number): Promise<StoredCodes | undefined> {
  const [row] = await rows<Omit<StoredCodes, 'fresh'> & { fresh: number }>(
    db,
    `SELECT sealed, ${ms('confirmed_at')} AS confirmedMs, set_at > NOW(3) - INTERVAL ? MINUTE AS fresh
     FROM code_secrets WHERE person_id = ?`,
    [STEP_MINUTES, personId],
  );
  return row && { ...row, fresh: row.fresh === 1 };
}

/** Keeps a secret that is not confirmed yet; false where there is one that is. */
export async function keepCodeSecret(db: Database, personId: number, sealed: Buffer): Promise<boolean> {
  await change(
    db,
    `INSERT INTO code_secrets (person_id, sealed) VALUES (?, ?)
     ON DUPLICATE KEY UPDATE sealed = IF(confirmed_at IS NULL, VALUES(sealed), sealed), set_at = IF(confirmed_at IS NULL, NOW(3), set_at)`,
    [personId, sealed],
  );
  return (await codesOf(db, personId))?.confirmedMs === null;
}

/** Takes a step's code: false where that one, or a later one, was taken before (RFC 6238, 5.2). */
export async function takeStep(db: Database, personId: number, step: number): Promise<boolean> {
  const taken = await change(
    db,
    `UPDATE code_secrets SET last_step = ?, confirmed_at = COALESCE(confirmed_at, NOW(3)) WHERE person_id = ? AND last_step < ?`,
    [step, personId, step],
  );
  return taken === 1;
}

export const deleteCodes = (db: Database, personId: number): Promise<number> =>
  change(db, 'DELETE FROM code_secrets WHERE person_id = ?', [personId]);

export interface StoredPasskey {
  id: number;
  personId: number;
  credential: string;
  publicKey: Buffer;
  counter: number;
  transports: string;
}

const PASSKEY = `k.id, k.person_id AS personId, k.credential, k.public_key AS publicKey, k.counter, k.transports`;

export function passkeysOf(db: Database, personId: number): Promise<StoredPasskey[]> {
  return rows(db, `SELECT ${PASSKEY} FROM passkeys k WHERE k.person_id = ? ORDER BY k.id`, [personId]);
}

/** A passkey by its credential's id; nothing where its person has left. */
export async function passkeyByCredential(
  db: Database,
  credential: string,
): Promise<StoredPasskey | undefined> {
  const [row] = await rows<StoredPasskey>(
    db,
    `SELECT ${PASSKEY} FROM passkeys k JOIN people p ON p.id = k.person_id WHERE k.credential = ? AND p.standing <> 'left'`,
    [credential],
  );
  return row;
}

export function passkeyLines(db: Database, personId: number): Promise<PasskeyLine[]> {
  return rows(
    db,
    `SELECT id, name, ${ms('added_at')} AS addedMs, ${ms('used_at')} AS usedMs FROM passkeys WHERE person_id = ? ORDER BY id`,
    [personId],
  );
}

/** @throws the database's duplicate-key error where the credential is kept already */
export async function insertPasskey(
  db: Database,
  made: Omit<StoredPasskey, 'id'> & { name: string },
): Promise<void> {
  await db('passkeys').insert({
    person_id: made.personId,
    credential: made.credential,
    public_key: made.publicKey,
    counter: made.counter,
    transports: made.transports,
    name: made.name,
  });
}

/** Notes that a passkey was used; false where it is gone, or one that counts as far was taken meanwhile: a copy of it. */
export async function notePasskeyUsed(db: Database, id: number, counter: number): Promise<boolean> {
  const changed = await change(
    db,
    'UPDATE passkeys SET counter = ?, used_at = NOW(3) WHERE id = ? AND (counter < ? OR counter = 0 AND ? = 0)',
    [counter, id, counter, counter],
  );
  return changed === 1;
}

/** Removes a passkey of somebody; false where there is none. */
export async function deletePasskey(db: Database, personId: number, id: number): Promise<boolean> {
  return (await change(db, 'DELETE FROM passkeys WHERE id = ? AND person_id = ?', [id, personId])) === 1;
}

/** Replaces somebody's recovery codes. */
export async function replaceRecovery(
  db: Database,
  personId: number,
  hashes: readonly Buffer[],
): Promise<void> {
  await change(db, 'DELETE FROM recovery_codes WHERE person_id = ?', [personId]);
  if (hashes.length > 0)
    await db('recovery_codes').insert(hashes.map((hash) => ({ person_id: personId, code_hash: hash })));
}

/** Uses a recovery code up; false where there is none such that can still be used. */
export async function useRecovery(db: Database, personId: number, hash: Buffer): Promise<boolean> {
  const used = await change(
    db,
    'UPDATE recovery_codes SET used_at = NOW(3) WHERE person_id = ? AND code_hash = ? AND used_at IS NULL',
    [personId, hash],
  );
  return used === 1;
}

export async function recoveryLeft(db: Database, personId: number): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    'SELECT COUNT(*) AS n FROM recovery_codes WHERE person_id = ? AND used_at IS NULL',
    [personId],
  );
  return row?.n ?? 0;
}

/** Removes all that somebody takes as a second step. */
export async function deleteSecondFactor(db: Database, personId: number): Promise<void> {
  await deleteCodes(db, personId);
  await change(db, 'DELETE FROM passkeys WHERE person_id = ?', [personId]);
  await change(db, 'DELETE FROM recovery_codes WHERE person_id = ?', [personId]);
}

export type StepKind = 'second' | 'passkey' | 'add passkey' | 'provider';

export interface Step {
  kind: StepKind;
  personId: number | null;
  data: Record<string, unknown>;
  tries: number;
}

/** Begins a step of signing in, or begins it anew; it can be taken for ten minutes. */
export async function insertStep(
  db: Database,
  hash: Buffer,
  { kind, personId, data }: Omit<Step, 'tries'>,
): Promise<void> {
  await change(
    db,
    `REPLACE INTO sign_in_steps (token_hash, kind, person_id, data, expires_at) VALUES (?, ?, ?, ?, NOW(3) + INTERVAL ? MINUTE)`,
    [hash, kind, personId, JSON.stringify(data), STEP_MINUTES],
  );
}

export async function stepOf(db: Database, hash: Buffer, kind: StepKind): Promise<Step | undefined> {
  const [row] = await rows<Omit<Step, 'data'> & { data: string }>(
    db,
    `SELECT kind, person_id AS personId, data, tries FROM sign_in_steps WHERE token_hash = ? AND kind = ? AND expires_at > NOW(3)`,
    [hash, kind],
  );
  return row && { ...row, data: JSON.parse(row.data) as Record<string, unknown> };
}

/** Counts a try of a step; false where it had as many as it may, or is over. Counted before it is looked at. */
export async function countTry(db: Database, hash: Buffer, most: number): Promise<boolean> {
  return (
    (await change(
      db,
      'UPDATE sign_in_steps SET tries = tries + 1 WHERE token_hash = ? AND tries < ? AND expires_at > NOW(3)',
      [hash, most],
    )) === 1
  );
}

/** Keeps what a step has to remember from now on. */
export async function keepStepData(db: Database, hash: Buffer, data: Record<string, unknown>): Promise<void> {
  await change(db, 'UPDATE sign_in_steps SET data = ? WHERE token_hash = ?', [JSON.stringify(data), hash]);
}

/** Ends a step: of several at once one is told that it did. */
export async function endStep(db: Database, hash: Buffer): Promise<boolean> {
  return (await change(db, 'DELETE FROM sign_in_steps WHERE token_hash = ?', [hash])) === 1;
}

/** Forgets the steps of signing in that are over. */
export async function deleteExpiredSteps(db: Database): Promise<void> {
  await change(db, 'DELETE FROM sign_in_steps WHERE expires_at < NOW(3) LIMIT 1000');
}
