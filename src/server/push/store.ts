import { createHash } from 'node:crypto';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

export interface DeviceRow {
  id: number;
  personId: number;
  label: string;
  endpoint: string;
  p256dh: string;
  auth: string;
  madeMs: number;
  lastMs: number | null;
}

const DEVICE = `id, person_id AS personId, label, endpoint, p256dh, auth, ${ms('made_at')} AS madeMs, ${ms('last_at')} AS lastMs`;

/**
 * Keeps a device under the session it was connected in. One that is connected for somebody else is theirs while their keys
 * are others: only the device itself knows them, so the same keys are the same device with another person at it. False
 * where it is another's.
 */
export async function keepDevice(
  db: Database,
  personId: number,
  sessionHash: Buffer | null,
  device: { label: string; endpoint: string; p256dh: string; auth: string },
): Promise<boolean> {
  await change(
    db,
    `INSERT INTO devices (person_id, session_hash, label, endpoint, endpoint_hash, p256dh, auth) VALUES (?, ?, ?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE
       session_hash = IF(person_id = VALUES(person_id) OR (p256dh = VALUES(p256dh) AND auth = VALUES(auth)), VALUES(session_hash), session_hash),
       label = IF(person_id = VALUES(person_id) OR (p256dh = VALUES(p256dh) AND auth = VALUES(auth)), VALUES(label), label),
       person_id = IF(p256dh = VALUES(p256dh) AND auth = VALUES(auth), VALUES(person_id), person_id),
       p256dh = IF(person_id = VALUES(person_id), VALUES(p256dh), p256dh), auth = IF(person_id = VALUES(person_id), VALUES(auth), auth)`,
    [
      personId,
      sessionHash,
      device.label,
      device.endpoint,
      createHash('sha256').update(device.endpoint).digest(),
      device.p256dh,
      device.auth,
    ],
  );
  const [kept] = await rows<{ personId: number }>(
    db,
    'SELECT person_id AS personId FROM devices WHERE endpoint_hash = ?',
    [createHash('sha256').update(device.endpoint).digest()],
  );
  return kept?.personId === personId;
}

export const devicesOf = (db: Database, personIds: readonly number[]): Promise<DeviceRow[]> =>
  personIds.length === 0
    ? Promise.resolve([])
    : rows(
        db,
        `SELECT ${DEVICE} FROM devices WHERE person_id IN (${personIds.map(() => '?').join(', ')}) ORDER BY id`,
        personIds,
      );

/** Forgets a device of somebody; false where it was not theirs. */
export async function forgetDevice(db: Database, id: number, personId: number): Promise<boolean> {
  return (await change(db, 'DELETE FROM devices WHERE id = ? AND person_id = ?', [id, personId])) === 1;
}

/** Forgets a device whose push service says that it is gone. */
export const dropDevice = (db: Database, id: number): Promise<number> =>
  change(db, 'DELETE FROM devices WHERE id = ?', [id]);

export const noteTaken = (db: Database, ids: readonly number[]): Promise<number> =>
  ids.length === 0
    ? Promise.resolve(0)
    : change(db, `UPDATE devices SET last_at = NOW(3) WHERE id IN (${ids.map(() => '?').join(', ')})`, ids);
