import {
  DAMAGE_TOLD_DAYS,
  type BackupLine,
  type DatabaseState,
  type LatenessLine,
  type MailState,
  type Queue,
} from '../../core/operating/running.ts';
import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { damagedNodes } from './damageStore.ts';

type Counted = Omit<Queue, 'kind'>;

const counted = async (db: Database, sql: string): Promise<Counted> => {
  const [row] = await rows<Counted>(db, sql);
  return row ?? { now: 0, sinceMs: null, later: 0 };
};

/** What waits in a table whose rows wait for a time each. */
const waiting = (db: Database, table: string, column: string, where: string): Promise<Counted> =>
  counted(
    db,
    `SELECT COUNT(IF(${column} <= NOW(3), 1, NULL)) AS now, ${ms(`MIN(IF(${column} <= NOW(3), ${column}, NULL))`)} AS sinceMs,
       COUNT(IF(${column} > NOW(3), 1, NULL)) AS later FROM ${table} WHERE ${where}`,
  );

const KINDS = ['mail', 'push'] as const;

/** What waits to be done, each kind with how much and since when. */
export async function queues(db: Database): Promise<Queue[]> {
  const [goingOut, mail, notices, outside, automations, events] = await Promise.all([
    waiting(db, 'buckets', 'due_at', "state = 'planned'"),
    waiting(db, 'deliveries', 'try_at', "state = 'waiting'"),
    Promise.all(
      KINDS.map((method) => waiting(db, 'notices', `${method}_try_at`, `${method}_state = 'waiting'`)),
    ),
    waiting(db, 'hook_deliveries', 'try_at', "hook_id IN (SELECT id FROM hooks_out) AND state = 'waiting'"),
    waiting(db, 'automation_runs', 'try_at', "state = 'waiting'"),
    counted(
      db,
      `SELECT COUNT(*) AS now, ${ms('MIN(at)')} AS sinceMs, 0 AS later FROM events
       WHERE position IS NULL OR position > (SELECT MIN(position) FROM event_positions WHERE name <> 'last')`,
    ),
  ]);
  const times = notices.flatMap(({ sinceMs }) => sinceMs ?? []);
  return [
    { kind: 'going out', ...goingOut },
    { kind: 'mail', ...mail },
    {
      kind: 'notices',
      now: notices.reduce((sum, each) => sum + each.now, 0),
      sinceMs: times.length === 0 ? null : Math.min(...times),
      later: notices.reduce((sum, each) => sum + each.later, 0),
    },
    { kind: 'outside', ...outside },
    { kind: 'automations', ...automations },
    { kind: 'events', ...events },
  ];
}

/** How late what was due in the last day reached people and outside places. */
export async function latenessOfDay(db: Database): Promise<LatenessLine[]> {
  const sums = `COUNT(*) AS n, CAST(SUM(d.late_ms <= 1000) AS SIGNED) AS withinSecond,
    CAST(SUM(d.late_ms <= 60000) AS SIGNED) AS withinMinute, GREATEST(0, MAX(d.late_ms)) AS worstMs`;
  return rows<LatenessLine>(
    db,
    `SELECT d.method, ${sums} FROM occurrences o JOIN deliveries d ON d.occurrence_id = o.id
     WHERE o.due_at > NOW(3) - INTERVAL 1 DAY AND o.due_at <= NOW(3) AND d.late_ms IS NOT NULL AND d.method IN ('inbox', 'mail')
     GROUP BY d.method
     UNION ALL
     SELECT 'outside', ${sums} FROM occurrences o JOIN hook_deliveries d ON d.occurrence_id = o.id
     WHERE o.due_at > NOW(3) - INTERVAL 1 DAY AND o.due_at <= NOW(3) AND d.late_ms IS NOT NULL HAVING COUNT(*) > 0`,
  );
}

const MOST_REASONS = 5;

/** What became of the mail that was due in the last day, and whose addresses send mail back. */
export async function mailOfDay(db: Database): Promise<MailState> {
  const OF_DAY = `FROM occurrences o JOIN deliveries d ON d.occurrence_id = o.id AND d.method = 'mail'
    WHERE o.due_at > NOW(3) - INTERVAL 1 DAY AND o.due_at <= NOW(3)`;
  const [states, reasons, [returning]] = await Promise.all([
    rows<{ state: string; n: number }>(db, `SELECT d.state, COUNT(*) AS n ${OF_DAY} GROUP BY d.state`),
    rows<{ reason: string; n: number }>(
      db,
      `SELECT COALESCE(d.reason, '') AS reason, COUNT(*) AS n ${OF_DAY} AND d.state = 'failed'
       GROUP BY d.reason ORDER BY n DESC LIMIT ?`,
      [MOST_REASONS],
    ),
    rows<{ n: number }>(
      db,
      "SELECT COUNT(*) AS n FROM people WHERE mail_failing IS NOT NULL AND mail_failing = mail AND standing <> 'left'",
    ),
  ]);
  const of = (state: string): number => states.find((row) => row.state === state)?.n ?? 0;
  return { delivered: of('delivered'), failed: of('failed'), reasons, returning: returning?.n ?? 0 };
}

/** The last backups, the latest first. */
export const lastBackups = (db: Database, most: number): Promise<BackupLine[]> =>
  rows(
    db,
    `SELECT ${ms('written_at')} AS atMs, host, file, bytes, took_ms AS tookMs FROM backups ORDER BY id DESC LIMIT ?`,
    [most],
  );

/** Notes that a backup was written. */
export async function noteBackup(
  db: Database,
  { host, file, bytes, tookMs }: Omit<BackupLine, 'atMs'>,
): Promise<void> {
  await db('backups').insert({ host, file: file.slice(-300), bytes, took_ms: Math.round(tookMs) });
}

export async function countAside(db: Database): Promise<number> {
  const [row] = await rows<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM set_aside');
  return row?.n ?? 0;
}

const MOST_TABLES = 6;

/** What the database says of itself. */
export async function databaseState(db: Database, nowMs: number): Promise<DatabaseState> {
  const status = `SELECT VARIABLE_VALUE AS value FROM information_schema.GLOBAL_STATUS WHERE VARIABLE_NAME = ?`;
  const [[server], tables, [sum], [up], [connected], damaged] = await Promise.all([
    rows<{ version: string; most: number }>(db, 'SELECT VERSION() AS version, @@max_connections AS most'),
    rows<DatabaseState['tables'][number]>(
      db,
      `SELECT TABLE_NAME AS name, CAST(TABLE_ROWS AS SIGNED) AS \`rows\`, CAST(DATA_LENGTH + INDEX_LENGTH AS SIGNED) AS bytes
       FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE() AND TABLE_TYPE = 'BASE TABLE'
       ORDER BY bytes DESC LIMIT ?`,
      [MOST_TABLES],
    ),
    rows<{ bytes: number | null }>(
      db,
      'SELECT CAST(SUM(DATA_LENGTH + INDEX_LENGTH) AS SIGNED) AS bytes FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()',
    ),
    rows<{ value: string }>(db, status, ['UPTIME']),
    rows<{ value: string }>(db, status, ['THREADS_CONNECTED']),
    damagedNodes(db, DAMAGE_TOLD_DAYS),
  ]);
  return {
    version: server?.version.split('-')[0] ?? '',
    damaged,
    bytes: sum?.bytes ?? 0,
    tables,
    connections: Number(connected?.value ?? 0),
    mostConnections: server?.most ?? 0,
    upSinceMs: nowMs - Number(up?.value ?? 0) * 1000,
  };
}
