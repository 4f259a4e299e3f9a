import { existsSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { SMTPServer } from 'smtp-server';
import { built } from '../../scripts/house/build.ts';
import { find } from '../../scripts/house/debian.ts';
import { freePort } from '../../scripts/house/ports.ts';
import { Running, until } from '../../scripts/house/processes.ts';
import { BENCH_SECRET } from '../bench/web.ts';
import type { Cluster } from './cluster.ts';

/** Letters a mail server took: each with its Message-ID, and when it said so, in milliseconds since 1970. */
export interface Taken {
  messageId: string;
  atMs: number;
}

/** A mail server that takes every letter and remembers by whom it is read; it can be down. */
export class MailSink {
  readonly port: number;
  readonly taken = new Map<string, Taken[]>();
  #server: SMTPServer | undefined;

  constructor(port: number) {
    this.port = port;
  }

  open(): Promise<void> {
    const server = new SMTPServer({
      authOptional: true,
      disabledCommands: ['STARTTLS', 'AUTH'],
      disableReverseLookup: true,
      logger: false,
      onData: (stream, session, done) => {
        const parts: Buffer[] = [];
        stream.on('data', (part: Buffer) => parts.push(part));
        stream.on('end', () => {
          const [, messageId = ''] =
            /^message-id:\s*(\S+)/im.exec(Buffer.concat(parts).toString('latin1')) ?? [];
          for (const { address } of session.envelope.rcptTo)
            this.taken.set(address, [...(this.taken.get(address) ?? []), { messageId, atMs: Date.now() }]);
          done();
        });
      },
    });
    // What breaks off in the middle of a letter is no letter.
    server.on('error', () => undefined);
    this.#server = server;
    return new Promise((resolve) => server.listen(this.port, '127.0.0.1', resolve));
  }

  close(): Promise<void> {
    return new Promise((resolve) => (this.#server ? this.#server.close(() => resolve()) : resolve()));
  }
}

export interface House {
  cluster: Cluster;
  /** What its database is called. */
  database: string;
  sink: MailSink;
  origins: string[];
  webs: Running[];
  engines: Running[];
  /** Starts the web, or the engine, of a place anew. */
  startWeb: (at: number) => Promise<void>;
  /** @param clock how its clock goes wrong, as `faketime` reads it: `+1h` */
  startEngine: (at: number, clock?: string) => void;
  stop: () => Promise<void>;
}

const WEBS = 2;
const ENGINES = 3;

/** Starts two webs and three engines on a replicated database, and a mail server. */
export async function startHouse(
  cluster: Cluster,
  folder: string,
  dist: string,
  database: string,
): Promise<House> {
  const sink = new MailSink(await freePort());
  await sink.open();
  const environment: NodeJS.ProcessEnv = {
    ...process.env,
    DATABASE_URL: cluster.url(database),
    CLEAR_BELL_URL: 'http://127.0.0.1',
    CLEAR_BELL_SECRET: BENCH_SECRET,
    MAIL_URL: `smtp://127.0.0.1:${sink.port}`,
    MAIL_FROM: 'desk@bench.example',
    LOG_LEVEL: 'warn',
    HOST: '127.0.0.1',
  };
  const ports = await Promise.all(Array.from({ length: WEBS }, () => freePort()));
  const origins = ports.map((port) => `http://127.0.0.1:${port}`);
  const run = (
    name: 'web' | 'engine',
    at: number,
    more: NodeJS.ProcessEnv,
    before: string[] = [],
  ): Running => {
    const how = built(dist, name);
    return new Running(`${name} ${at + 1}`, [...before, ...how.command], {
      env: { ...environment, ...how.environment, ...more },
      cwd: folder,
      log: join(folder, `${name}${at + 1}.log`),
    });
  };
  const webs: Running[] = [];
  const engines: Running[] = [];
  const startWeb = async (at: number): Promise<void> => {
    webs[at] = run('web', at, { PORT: String(ports[at]) });
    const answers = (): Promise<boolean> =>
      fetch(`${origins[at]}/healthz`).then(
        ({ ok }) => ok,
        () => false,
      );
    if (!(await until(answers, 60_000))) throw new Error(`Web ${at + 1} did not come up`);
  };
  const startEngine = (at: number, clock?: string): void => {
    engines[at] = run(
      'engine',
      at,
      clock === undefined ? {} : { FAKETIME_DONT_FAKE_MONOTONIC: '1' },
      clock === undefined ? [] : [find('faketime') ?? 'faketime', '-f', clock],
    );
  };
  for (let at = 0; at < WEBS; at++) await startWeb(at);
  for (let at = 0; at < ENGINES; at++) startEngine(at);
  return {
    cluster,
    database,
    sink,
    origins,
    webs,
    engines,
    startWeb,
    startEngine,
    stop: async () => {
      await Promise.all([...webs, ...engines].map((each) => each.stop()));
      await sink.close();
    },
  };
}

/** Leaves no room on the disk that a folder lies on, until what fills it is taken away. */
export function fillDisk(folder: string): () => void {
  const file = join(folder, 'nothing but room');
  const { bavail, bsize } = statfsSync(folder);
  const piece = Buffer.alloc(1024 * 1024);
  try {
    for (let left = bavail * bsize; left > -2 * piece.length; left -= piece.length)
      writeFileSync(file, piece, { flag: 'a' });
  } catch {
    // It is full.
  }
  return () => {
    if (existsSync(file)) rmSync(file);
  };
}
