import type { EngineHealth } from '../../core/desk/desk.ts';
import { SILENT_MS, type ProcessLine } from '../../core/operating/running.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** What a process says of itself each time. */
export interface Heartbeat {
  name: string;
  kind: ProcessLine['kind'];
  host: string;
  pid: number;
  known: number;
  startedMs: number;
  skewMs: number;
  rssBytes: number;
  heldUpMs: number;
  mailPaused: string | null;
}

/** Says that a process runs. */
export async function heartbeat(db: Database, of: Heartbeat): Promise<void> {
  await change(
    db,
    `INSERT INTO processes (name, kind, host, pid, known, started_at, beat_at, skew_ms, rss_bytes, held_up_ms, mail_paused_reason)
     VALUES (?, ?, ?, ?, ?, ?, NOW(3), ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE beat_at = VALUES(beat_at), skew_ms = VALUES(skew_ms), rss_bytes = VALUES(rss_bytes),
       held_up_ms = VALUES(held_up_ms), mail_paused_reason = VALUES(mail_paused_reason)`,
    [
      of.name,
      of.kind,
      of.host,
      of.pid,
      of.known,
      new Date(of.startedMs),
      Math.round(of.skewMs),
      of.rssBytes,
      Math.round(of.heldUpMs),
      of.mailPaused?.slice(0, 300) ?? null,
    ],
  );
}

export const signOff = (db: Database, name: string): Promise<number> =>
  change(db, 'DELETE FROM processes WHERE name = ?', [name]);

/** Forgets processes that have been silent for so long. */
export const forgetSilent = (db: Database, hours: number): Promise<number> =>
  change(db, 'DELETE FROM processes WHERE beat_at < NOW(3) - INTERVAL ? HOUR', [hours]);

/** Forgets all of them: those of a database that was brought back ran elsewhere, or then. */
export const forgetProcesses = (db: Database): Promise<number> => change(db, 'DELETE FROM processes');

/** How many engines have been heard of in the last seconds, and why mail is paused where it is. */
export async function engineHealth(db: Database): Promise<EngineHealth> {
  const [row] = await rows<{ running: number; mailPaused: string | null }>(
    db,
    `SELECT COUNT(*) AS running, MAX(mail_paused_reason) AS mailPaused FROM processes
     WHERE kind = 'engine' AND beat_at > NOW(3) - INTERVAL ? SECOND`,
    [SILENT_MS / 1000],
  );
  return row ?? { running: 0, mailPaused: null };
}

/** All processes that have said something of themselves, by kind and by when they began. */
export async function processes(db: Database): Promise<ProcessLine[]> {
  const found = await rows<Omit<ProcessLine, 'otherVersion'> & { otherVersion: number }>(
    db,
    `SELECT name, kind, host, pid, ${ms('started_at')} AS startedMs, ${ms('beat_at')} AS beatMs, skew_ms AS skewMs,
       rss_bytes AS rssBytes, held_up_ms AS heldUpMs, mail_paused_reason AS mailPaused,
       known <> (SELECT COUNT(*) FROM knex_migrations) AS otherVersion
     FROM processes ORDER BY kind, started_at, name`,
  );
  return found.map((row) => ({ ...row, otherVersion: row.otherVersion === 1 }));
}
