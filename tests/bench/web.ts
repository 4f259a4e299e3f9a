import { spawn } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { build, built } from '../../scripts/house/build.ts';
import { placeFolder, ROOT } from '../../scripts/house/bringUp.ts';
import { freePort } from '../../scripts/house/ports.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { mustCome } from './data.ts';

export const BENCH_SECRET = 'the bench needs a secret of 32 characters';

/** The build that the bench runs; made where there is none of these sources. */
export function benchBuild(): string {
  const out = join(placeFolder('bench'), 'dist');
  build(ROOT, out, console.log);
  return out;
}

/** A session for each of some people; gives the cookie of each. */
export async function openSessions(db: Database, personIds: readonly number[]): Promise<Map<number, string>> {
  const cookies = new Map<number, string>();
  const all = personIds.map((id) => {
    const token = randomBytes(32).toString('base64url');
    cookies.set(id, `clear-bell-session=${token}`);
    return [createHash('sha256').update(token).digest(), id] as const;
  });
  for (let at = 0; at < all.length; at += 500) {
    const some = all.slice(at, at + 500);
    await db.raw(
      `INSERT INTO sessions (token_hash, person_id, expires_at) VALUES ${some.map(() => '(?, ?, NOW(3) + INTERVAL 1 DAY)').join(', ')}`,
      some.flat(),
    );
  }
  return cookies;
}

const answers = (address: string) => (): Promise<boolean> =>
  fetch(address).then(
    (response) => response.ok,
    () => false,
  );

export interface Started {
  origin: string;
  pid: number;
  stop: () => void;
}

/** Starts a script that listens on PORT, or on one it is told of otherwise, and waits until it answers. */
export async function startServer(
  command: readonly string[],
  environment: NodeJS.ProcessEnv,
  path: string,
  wanted?: number,
): Promise<Started> {
  const port = wanted ?? (await freePort());
  const [program = '', ...args] = command;
  const child = spawn(program, args, {
    cwd: ROOT,
    stdio: 'ignore',
    env: { ...process.env, ...environment, HOST: '127.0.0.1', PORT: String(port) },
  });
  const origin = `http://127.0.0.1:${port}`;
  const stop = (): void => void child.kill();
  try {
    await mustCome(`an answer of ${args[0] ?? program}`, answers(`${origin}${path}`), 30_000);
  } catch (error) {
    stop();
    throw error;
  }
  return { origin, pid: child.pid ?? 0, stop };
}

/** The settings of an application on the bench's database, with mail that nobody takes unless a server is named. */
export const benchSettings = (url: string, mailPort = 1): NodeJS.ProcessEnv => ({
  DATABASE_URL: url,
  CLEAR_BELL_URL: 'http://127.0.0.1',
  CLEAR_BELL_SECRET: BENCH_SECRET,
  MAIL_URL: `smtp://127.0.0.1:${mailPort}`,
  MAIL_FROM: 'desk@bench.example',
  LOG_LEVEL: 'warn',
});

/** Starts the web of a build on the bench's database. */
export function startWeb(dist: string, url: string, more: NodeJS.ProcessEnv = {}): Promise<Started> {
  const { command, environment } = built(dist, 'web');
  return startServer(command, { ...benchSettings(url), ...environment, ...more }, '/healthz');
}
