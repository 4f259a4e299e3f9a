import { spawn, type ChildProcess } from 'node:child_process';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { createGunzip, createGzip } from 'node:zlib';
import { connect, rows } from '../../src/server/database/connection.ts';
import { migrate } from '../../src/server/database/migrate.ts';
import { noteBackup } from '../../src/server/operating/figuresStore.ts';
import { forgetProcesses } from '../../src/server/operating/processStore.ts';
import { ensureCommands, find } from './debian.ts';
import { createDatabase } from './mariadb.ts';
import { Stop } from './stop.ts';

/** What takes a database away and brings it back, with the Debian package each comes in. */
export const BACKUP_COMMANDS = { 'mariadb-dump': 'mariadb-client', mariadb: 'mariadb-client-core' };

const NAME = /^clear-bell-\d{8}T\d{6}Z\.sql\.gz$/;
/** What stands at the end of a dump that came to its end. */
const COMPLETE = '-- Dump completed';
const TAIL_BYTES = 4_096;

/** How a client program reaches a database. The password goes by the environment, where other accounts do not see it. */
function reached(url: string): { args: string[]; env: NodeJS.ProcessEnv; name: string } {
  const address = new URL(url);
  return {
    args: [
      '--no-defaults',
      `--host=${address.hostname}`,
      `--port=${address.port || '3306'}`,
      `--user=${decodeURIComponent(address.username)}`,
      '--protocol=TCP',
      '--default-character-set=utf8mb4',
    ],
    env: { ...process.env, MYSQL_PWD: decodeURIComponent(address.password) },
    name: decodeURIComponent(address.pathname.slice(1)),
  };
}

/** Resolves when a program has ended well; otherwise fails with the last line it said. */
function ended(program: ChildProcess, what: string): Promise<void> {
  let said = '';
  program.stderr?.on('data', (bytes: Buffer) => (said = `${said}${bytes.toString()}`.slice(-2_000)));
  return new Promise((resolve, reject) => {
    program.on('error', reject);
    program.on('close', (code) => {
      if (code === 0) resolve();
      else reject(new Stop(`${what}: ${said.trim().split('\n').at(-1) ?? `it ended with ${code}`}`));
    });
  });
}

const stamp = (at: Date): string => at.toISOString().slice(0, 19).replace(/[-:]/g, '');

/**
 * Writes everything that is kept, uploads too, as it is at one instant, while everything goes on: a compressed dump (SQL, gzip).
 * The file has its name only once it is whole.
 *
 * @param options.to the folder; made where it is missing
 * @param options.keep how many of the latest stay there; all where it is left out
 * @returns the file's path and its size in bytes
 * @throws Stop in words for an operator
 */
export async function backUp(
  url: string,
  options: { to: string; keep?: number; say: (line: string) => void; at?: Date },
): Promise<{ file: string; bytes: number }> {
  const { to, keep, say, at = new Date() } = options;
  const begunMs = Date.now();
  ensureCommands(BACKUP_COMMANDS, say);
  await mkdir(to, { recursive: true, mode: 0o700 });
  const file = join(to, `clear-bell-${stamp(at)}Z.sql.gz`);
  const unfinished = `${file}.part`;
  const { args, env, name } = reached(url);
  const dump = spawn(
    find('mariadb-dump') ?? 'mariadb-dump',
    [
      ...args,
      '--single-transaction',
      '--quick',
      '--hex-blob',
      '--no-tablespaces',
      '--skip-lock-tables',
      name,
    ],
    { env, stdio: ['ignore', 'pipe', 'pipe'] },
  );
  try {
    await Promise.all([
      ended(dump, 'The database could not be read'),
      pipeline(dump.stdout, createGzip(), createWriteStream(unfinished, { mode: 0o600 })),
    ]);
    await requireWhole(unfinished);
    await rename(unfinished, file);
  } catch (error) {
    dump.kill();
    await rm(unfinished, { force: true });
    throw error;
  }
  if (keep !== undefined) {
    const all = (await readdir(to)).filter((each) => NAME.test(each)).sort();
    for (const old of all.slice(0, Math.max(0, all.length - keep))) await rm(join(to, old));
  }
  const { size: bytes } = await stat(file);
  await noted(url, { host: hostname(), file, bytes, tookMs: Date.now() - begunMs });
  return { file, bytes };
}

/** Notes in the database that a backup was written, so that the page of the operator says of when the last is. */
async function noted(url: string, backup: Parameters<typeof noteBackup>[1]): Promise<void> {
  const db = connect(url, 1);
  try {
    // A database of an earlier version has no place for it.
    const [place] = await rows(db, "SHOW TABLES LIKE 'backups'");
    if (place) await noteBackup(db, backup);
  } finally {
    await db.destroy();
  }
}

/** Reads a backup to its end, and refuses one that was cut off or changed on the way. */
async function requireWhole(file: string): Promise<void> {
  let tail = '';
  try {
    await pipeline(createReadStream(file), createGunzip(), async (unpacked: AsyncIterable<Buffer>) => {
      for await (const bytes of unpacked) tail = `${tail}${bytes.toString('latin1')}`.slice(-TAIL_BYTES);
    });
  } catch (error) {
    const missing = error instanceof Error && 'code' in error && error.code === 'ENOENT';
    throw new Stop(
      missing ? `There is no file ${file}.` : `${file} is damaged or not whole, and cannot be brought back.`,
    );
  }
  if (!tail.includes(COMPLETE))
    throw new Stop(`${file} is no whole backup: its end is missing. Take an earlier one.`);
}

/**
 * Brings a backup back into a database and up to the present schema, so that one of an earlier version can be brought back too.
 * Nothing is touched before the file has been read to its end.
 *
 * @param options.replace whether what stands in the database is dropped; otherwise one that holds anything is refused
 * @returns how many migrations brought it up to date
 * @throws Stop in words for an operator
 */
export async function restore(
  url: string,
  options: { file: string; replace: boolean; say: (line: string) => void },
): Promise<{ migrations: number }> {
  const { file, replace, say } = options;
  ensureCommands(BACKUP_COMMANDS, say);
  await requireWhole(file);
  await createDatabase(url, replace);
  const db = connect(url, 2);
  try {
    const tables = await rows(db, 'SHOW TABLES');
    if (tables.length > 0)
      throw new Stop(
        'There is something in this database already. Name an empty one, or say --replace to drop what is there.',
      );
    const { args, env, name } = reached(url);
    const client = spawn(find('mariadb') ?? 'mariadb', [...args, '--max-allowed-packet=256M', name], {
      env,
      stdio: ['pipe', 'ignore', 'pipe'],
    });
    await Promise.all([
      ended(client, 'The backup could not be brought back'),
      // A client that ends early says why itself.
      pipeline(createReadStream(file), createGunzip(), client.stdin).catch((error: unknown) => {
        if (client.exitCode === null && client.signalCode === null) throw error;
      }),
    ]);
    const migrations = (await migrate(db)).length;
    await forgetProcesses(db);
    return { migrations };
  } finally {
    await db.destroy();
  }
}
