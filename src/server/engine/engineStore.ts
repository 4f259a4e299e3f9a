import type { EngineHealth } from '../../core/desk/desk.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** Says that an engine is alive. */
export async function beat(
  db: Database,
  engine: string,
  skewMs: number,
  mailPaused: string | null,
): Promise<void> {
  await change(
    db,
    `INSERT INTO engines (name, beat_at, skew_ms, mail_paused_reason) VALUES (?, NOW(3), ?, ?)
     ON DUPLICATE KEY UPDATE beat_at = VALUES(beat_at), skew_ms = VALUES(skew_ms), mail_paused_reason = VALUES(mail_paused_reason)`,
    [engine, Math.round(skewMs), mailPaused?.slice(0, 300) ?? null],
  );
}

export async function signOff(db: Database, engine: string): Promise<void> {
  await change(db, 'DELETE FROM engines WHERE name = ? OR beat_at < NOW(3) - INTERVAL 1 HOUR', [engine]);
}

/** How many engines have been heard of in the last seconds, and why mail is paused where it is. */
export async function engineHealth(db: Database): Promise<EngineHealth> {
  const [row] = await rows<{ running: number; mailPaused: string | null }>(
    db,
    `SELECT COUNT(*) AS running, MAX(mail_paused_reason) AS mailPaused FROM engines
     WHERE beat_at > NOW(3) - INTERVAL 15 SECOND`,
  );
  return row ?? { running: 0, mailPaused: null };
}
