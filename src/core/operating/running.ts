import { count } from '../words.ts';

/** A process that runs, or ran, as it says of itself. Instants in milliseconds since 1970. */
export interface ProcessLine {
  name: string;
  kind: 'web' | 'engine' | 'mail-in';
  host: string;
  pid: number;
  startedMs: number;
  beatMs: number;
  /** How far its clock is ahead of the database's. */
  skewMs: number;
  rssBytes: number;
  /** How long its work was held up lately, at the 99th percentile. */
  heldUpMs: number;
  /** Whether it knows another version of the schema than the database has. */
  otherVersion: boolean;
  mailPaused: string | null;
}

export const QUEUES = ['going out', 'mail', 'notices', 'outside', 'automations', 'events'] as const;
/** What waits to be done now, and since when the first of it does; `later` is what waits for a time that is to come. */
export interface Queue {
  kind: (typeof QUEUES)[number];
  now: number;
  sinceMs: number | null;
  later: number;
}

/** How late what was due in the last day reached people, by method: in steps of lateness. */
export interface LatenessLine {
  method: 'inbox' | 'mail' | 'outside';
  n: number;
  withinSecond: number;
  withinMinute: number;
  worstMs: number;
}

export interface MailState {
  /** Of what was due in the last day. */
  delivered: number;
  failed: number;
  /** Why mail failed, the most frequent first. */
  reasons: { reason: string; n: number }[];
  /** People whose address sends mail back. */
  returning: number;
}

export interface BackupLine {
  atMs: number;
  host: string;
  file: string;
  bytes: number;
  tookMs: number;
}

/** A database server that said that a table or an index of its own is damaged. */
export interface DamagedNode {
  node: string;
  /** When it said so last. */
  atMs: number;
  words: string;
}

export interface DatabaseState {
  version: string;
  /** Those that said so within the last week. */
  damaged: DamagedNode[];
  bytes: number;
  /** The largest tables, with rows as the database estimates them. */
  tables: { name: string; rows: number; bytes: number }[];
  connections: number;
  mostConnections: number;
  upSinceMs: number;
}

/** How the installation runs. */
export interface Running {
  nowMs: number;
  processes: ProcessLine[];
  queues: Queue[];
  lateness: LatenessLine[];
  mail: MailState;
  aside: number;
  /** The last backups, the latest first. */
  backups: BackupLine[];
  database: DatabaseState;
}

/** Not heard of for so long, a process counts as silent: each says that it runs every few seconds. */
export const SILENT_MS = 15_000;
/** A silent process is told of for so long, and then forgotten. */
export const FORGOTTEN_HOURS = 24;
/** What waits longer than this to be done now has somebody look. */
export const WAITS_MS = 60_000;
export const SKEW_MS = 1_000;
export const HELD_UP_MS = 500;
export const BACKUP_DAYS = 2;
/** A database server that was found damaged is told of for so long, and sent nothing for so long unless it is made anew. */
export const DAMAGE_TOLD_DAYS = 7;
export const DAMAGE_KEPT_DAYS = 365;
/** More than this share over a minute late, of at least so many. */
const LATE_SHARE = 0.02;
const LATE_LEAST = 50;

export const isSilent = ({ beatMs }: Pick<ProcessLine, 'beatMs'>, nowMs: number): boolean =>
  nowMs - beatMs > SILENT_MS;

export const QUEUE_WORDS: Record<Queue['kind'], string> = {
  'going out': 'Sends to go out',
  mail: 'Mail to be handed over',
  notices: 'Notices to be handed over',
  outside: 'Messages to ways out and outside places',
  automations: 'Runs of automations',
  events: 'Events to be followed up',
};

/** What is wrong with when a backup was last written, in milliseconds since 1970; null where one is there that is new enough. */
export function backupTrouble(lastMs: number | null, nowMs: number): string | null {
  if (lastMs === null) return 'No backup has been written yet. Have ./backup run every day.';
  const days = Math.floor((nowMs - lastMs) / 86_400_000);
  return days < BACKUP_DAYS ? null : `The last backup is ${days} days old. Look at what has ./backup run.`;
}

/** What of it should have somebody look, in sentences that say what to do. Empty when all is well. */
export function runningTroubles(running: Running): string[] {
  const { nowMs, processes, queues, lateness, mail, backups, database, aside } = running;
  const troubles: string[] = [];
  const alive = processes.filter((each) => !isSilent(each, nowMs));
  if (!alive.some(({ kind }) => kind === 'engine'))
    troubles.push('No engine runs, so nothing goes out. Start one, and look at what its log says last.');
  // One that was started instead makes good for it.
  const silent = processes.filter(
    (gone) =>
      isSilent(gone, nowMs) &&
      !alive.some(
        ({ kind, host, startedMs }) => kind === gone.kind && host === gone.host && startedMs >= gone.beatMs,
      ),
  ).length;
  if (silent > 0)
    troubles.push(
      `${count(silent, 'process', 'processes')} ended without saying so, and none was started there instead. Start one.`,
    );
  for (const { name, skewMs } of alive)
    if (Math.abs(skewMs) > SKEW_MS)
      troubles.push(
        `The clock of ${name} is ${(Math.abs(skewMs) / 1000).toFixed(1)} s ${skewMs > 0 ? 'ahead of' : 'behind'} the database’s. What is due goes by the database’s; set the clocks.`,
      );
  if (alive.some(({ otherVersion }) => otherVersion))
    troubles.push('A process is of another version than the database. Bring all to one version.');
  for (const { name, heldUpMs } of alive)
    if (heldUpMs > HELD_UP_MS)
      troubles.push(
        `The work of ${name} is held up by ${heldUpMs} ms. Give it more of the machine, or run another.`,
      );
  const paused = alive.find(({ mailPaused }) => mailPaused !== null);
  if (paused) troubles.push(`Mail is not handed over just now: ${paused.mailPaused}`);
  for (const { kind, now, sinceMs } of queues)
    if (now > 0 && sinceMs !== null && nowMs - sinceMs > WAITS_MS)
      troubles.push(
        `${QUEUE_WORDS[kind]}: the first has waited ${Math.floor((nowMs - sinceMs) / 60_000)} minutes, with ${now.toLocaleString('en-GB')} in all.`,
      );
  for (const { method, n, withinMinute } of lateness)
    if (n >= LATE_LEAST && (n - withinMinute) / n > LATE_SHARE)
      troubles.push(
        `${(n - withinMinute).toLocaleString('en-GB')} of ${n.toLocaleString('en-GB')} by ${method} were over a minute late in the last day.`,
      );
  const handed = mail.delivered + mail.failed;
  if (handed >= LATE_LEAST && mail.failed / handed > LATE_SHARE)
    troubles.push(
      `${mail.failed.toLocaleString('en-GB')} of ${handed.toLocaleString('en-GB')} mails of the last day failed. The reasons stand below.`,
    );
  if (aside > 0)
    troubles.push(
      `${count(aside, 'piece of work is', 'pieces of work are')} set aside after an error. They stand on the run sheet under what needs you.`,
    );
  for (const { node, words } of database.damaged)
    troubles.push(
      `The database server ${node} said in the last week that it is damaged (${words}). Where it is one of several, stop it, empty its data, and start it, so that it is copied anew from another; where it is the only one, have it check its tables (CHECK TABLE), and restore the last backup where they are damaged.`,
    );
  const noBackup = backupTrouble(backups[0]?.atMs ?? null, nowMs);
  if (noBackup !== null) troubles.push(noBackup);
  if (database.connections > database.mostConnections * 0.9)
    troubles.push(
      `The database has ${database.connections} of ${database.mostConnections} connections in use. Raise max_connections.`,
    );
  return troubles;
}
