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

/** Keeps a device, or takes it over where another person signed in on it. */
export async function keepDevice(
  db: Database,
  personId: number,
  device: { label: string; endpoint: string; p256dh: string; auth: string },
): Promise<void> {
  await change(
    db,
    `INSERT INTO devices (person_id, label, endpoint, endpoint_hash, p256dh, auth) VALUES (?, ?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE person_id = VALUES(person_id), label = VALUES(label), p256dh = VALUES(p256dh), auth = VALUES(auth)`,
    [
      personId,
      device.label,
      device.endpoint,
      createHash('sha256').update(device.endpoint).digest(),
      device.p256dh,
      device.auth,
    ],
  );
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
