import { change, rows, type Database } from '../database/connection.ts';

/**
 * Binds a key to the request it is first used with.
 *
 * @returns `new` where it was not used before, `same` where it was with this very request, `other` where with another one
 */
export async function bindKey(
  db: Database,
  personId: number,
  keyHash: Buffer,
  requestHash: Buffer,
): Promise<'new' | 'same' | 'other'> {
  const made = await change(
    db,
    'INSERT IGNORE INTO idempotency_keys (person_id, key_hash, request_hash) VALUES (?, ?, ?)',
    [personId, keyHash, requestHash],
  );
  if (made === 1) return 'new';
  const [row] = await rows<{ requestHash: Buffer }>(
    db,
    'SELECT request_hash AS requestHash FROM idempotency_keys WHERE person_id = ? AND key_hash = ?',
    [personId, keyHash],
  );
  return row && !row.requestHash.equals(requestHash) ? 'other' : 'same';
}

/** Sets a key free again whose request was refused, so that it can be used for the corrected one. */
export async function freeKey(db: Database, personId: number, keyHash: Buffer): Promise<void> {
  await change(db, 'DELETE FROM idempotency_keys WHERE person_id = ? AND key_hash = ?', [personId, keyHash]);
}

/** Forgets keys that were used more than so many hours ago. */
export const forgetKeys = (db: Database, hours: number): Promise<number> =>
  change(db, 'DELETE FROM idempotency_keys WHERE used_at < NOW(3) - INTERVAL ? HOUR LIMIT 10000', [hours]);

/** Keeps what was answered to the request a key is bound to. */
export const keepAnswer = (
  db: Database,
  personId: number,
  keyHash: Buffer,
  answer: string,
): Promise<number> =>
  change(db, 'UPDATE idempotency_keys SET answer = ? WHERE person_id = ? AND key_hash = ?', [
    answer,
    personId,
    keyHash,
  ]);

/** What was answered to that request; null where it is under way, was cut off, or nothing was kept of it. */
export async function keptAnswer(db: Database, personId: number, keyHash: Buffer): Promise<string | null> {
  const [row] = await rows<{ answer: string | null }>(
    db,
    'SELECT answer FROM idempotency_keys WHERE person_id = ? AND key_hash = ?',
    [personId, keyHash],
  );
  return row?.answer ?? null;
}
