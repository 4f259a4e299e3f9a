import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createConnection } from 'node:net';
import { join } from 'node:path';
import { connect } from '../../src/server/database/connection.ts';
import { migrate } from '../../src/server/database/migrate.ts';
import { organisation } from '../../src/server/people/store.ts';
import { placeConditions, placeRecords } from '../../src/demo/automations.ts';
import { placeLinks } from '../../src/demo/boards.ts';
import { placeSiteCalendar } from '../../src/demo/followed.ts';
import { DEMO_RECEIVER_SECRET, placeReceiver } from '../../src/demo/gateways.ts';
import { DEMO_SIGN_IN_SECRET, placeProvider } from '../../src/demo/provider.ts';
import { loadDemo } from '../../src/demo/load.ts';
import { build, built } from './build.ts';
import { createDatabase, startMariaDb } from './mariadb.ts';
import { freePort, isFree } from './ports.ts';
import { endLeftOver, Running, until } from './processes.ts';
import { Stop } from './stop.ts';

export const ROOT = join(import.meta.dirname, '..', '..');

export interface Wishes {
  /** A folder of its own under .clear-bell, so that several can run side by side. */
  place: string;
  /** The web's port; 0 for any free one. */
  port: number;
  fresh: boolean;
  demo: boolean;
  /** Whether a commit survives a power cut. */
  durable: boolean;
  say: (line: string) => void;
  environment?: Record<string, string>;
  /** A build to run, where one is at hand; otherwise one is made in the place. */
  dist?: string;
}

export interface House {
  url: string;
  mailboxUrl: string;
  devicesUrl: string;
  conditionsUrl: string;
  receiverUrl: string;
  recordsUrl: string;
  signInUrl: string;
  databaseUrl: string;
  /** Whether it holds the demo organisation. */
  demo: boolean;
  /** The environment of its processes, for starting more of them. */
  environment: NodeJS.ProcessEnv;
  processes: Running[];
  startEngine: () => Running;
  /** Notes the numbers of its processes, so that what a start that was killed leaves running can be ended. */
  note: () => void;
  stop: () => Promise<void>;
}

export const placeFolder = (place: string): string => join(ROOT, '.clear-bell', place);

interface Noted {
  pids: number[];
  ports: {
    smtp: number;
    mailbox: number;
    push?: number;
    conditions?: number;
    receiver?: number;
    records?: number;
    signIn?: number;
    mailIn?: number;
  };
}

function noted(file: string): Noted | undefined {
  try {
    return JSON.parse(readFileSync(file, 'utf8')) as Noted;
  } catch {
    return undefined;
  }
}

function secret(file: string): string {
  if (!existsSync(file)) writeFileSync(file, randomBytes(32).toString('base64url'), { mode: 0o600 });
  return readFileSync(file, 'utf8');
}

const answersAt = (url: string) => async (): Promise<boolean> => {
  try {
    return (await fetch(url, { signal: AbortSignal.timeout(2000) })).ok;
  } catch {
    return false;
  }
};

/** Tells the demo where the application and its stand-ins answer this time. */
async function placeStandIns(
  databaseUrl: string,
  origins: { web: string; conditions: string; receiver: string; records: string; signIn: string },
  sealWith: string,
): Promise<void> {
  const db = connect(databaseUrl, 2);
  try {
    await placeLinks(db, origins.web);
    await placeConditions(db, origins.conditions);
    await placeReceiver(db, origins.receiver);
    await placeRecords(db, origins.records);
    await placeSiteCalendar(db, origins.conditions);
    await placeProvider(db, origins.signIn, sealWith);
  } finally {
    await db.destroy();
  }
}

/** Brings everything up in a place and waits until all of it answers. Whatever it started is stopped if it cannot. */
export async function bringUp(wishes: Wishes): Promise<House> {
  const { say } = wishes;
  const folder = placeFolder(wishes.place);
  mkdirSync(folder, { recursive: true });
  const noteFile = join(folder, 'processes.json');
  const before = noted(noteFile);
  for (const pid of before?.pids ?? []) await endLeftOver(pid, ROOT);
  const own = process.env.DATABASE_URL;
  if (wishes.fresh && own === undefined) {
    const pidFile = join(folder, 'database', 'data', 'server.pid');
    if (existsSync(pidFile))
      await endLeftOver(Number(readFileSync(pidFile, 'utf8')), join(folder, 'database'));
    rmSync(join(folder, 'database'), { recursive: true, force: true });
  }
  if (wishes.port > 0 && !(await isFree(wishes.port)))
    throw new Stop(
      `Port ${wishes.port} is taken by something else. Stop that, or choose another: ./start --port ${wishes.port + 1}`,
    );

  const addressFile = join(folder, 'database-url');
  const processes: Running[] = [];
  const stop = async (): Promise<void> => {
    // In order: first what takes requests and delivers, last what keeps the data.
    const database = processes.find((running) => running.name === 'database');
    await Promise.all(processes.filter((running) => running !== database).map((running) => running.stop()));
    await database?.stop(60_000);
    rmSync(noteFile, { force: true });
    rmSync(addressFile, { force: true });
  };
  try {
    const local =
      own === undefined
        ? await (async () => {
            say('Starting the database ...');
            return startMariaDb(join(folder, 'database'), { durable: wishes.durable, say });
          })()
        : undefined;
    if (local) processes.push(local.running);
    const databaseUrl = own ?? local?.url('clear_bell') ?? '';
    await createDatabase(databaseUrl, wishes.fresh && own !== undefined);
    // For ./backup and ./restore; it holds the password.
    writeFileSync(addressFile, databaseUrl, { mode: 0o600 });

    let demo: boolean;
    const db = connect(databaseUrl, 4);
    try {
      const ran = await migrate(db);
      if (ran.length > 0)
        say(`Laid out the database: ${ran.length} ${ran.length === 1 ? 'migration' : 'migrations'}.`);
      if (wishes.demo && !(await organisation(db))) {
        say('Loading the demo organisation ...');
        await loadDemo(db, secret(join(folder, 'secret')));
      }
      demo = (await organisation(db))?.demo ?? false;
    } finally {
      await db.destroy();
    }
    const dist = wishes.dist ?? join(folder, 'dist');
    if (wishes.dist === undefined) build(ROOT, dist, say);

    const port = await freePort(wishes.port);
    const smtp = await freePort(before?.ports.smtp);
    const mailbox = await freePort(before?.ports.mailbox);
    const push = await freePort(before?.ports.push);
    const conditions = await freePort(before?.ports.conditions);
    const conditionsUrl = `http://localhost:${conditions}`;
    const receiver = await freePort(before?.ports.receiver);
    const receiverUrl = `http://localhost:${receiver}`;
    const records = await freePort(before?.ports.records);
    const recordsUrl = `http://localhost:${records}`;
    const signIn = await freePort(before?.ports.signIn);
    const mailIn = await freePort(before?.ports.mailIn);
    const signInUrl = `http://localhost:${signIn}`;
    if (demo)
      await placeStandIns(
        databaseUrl,
        {
          web: `http://localhost:${port}`,
          conditions: conditionsUrl,
          receiver: receiverUrl,
          records: recordsUrl,
          signIn: signInUrl,
        },
        secret(join(folder, 'secret')),
      );
    const url = `http://localhost:${port}`;
    const environment: NodeJS.ProcessEnv = {
      CLEAR_BELL_URL: url,
      CLEAR_BELL_SECRET: secret(join(folder, 'secret')),
      MAIL_URL: `smtp://127.0.0.1:${smtp}`,
      MAIL_FROM: 'desk@thistledown.example',
      MAIL_IN_DOMAIN: 'in.thistledown.example',
      MAIL_IN_AUTHSERV: 'mx.thistledown.example',
      PUSH_STANDIN_URL: `http://localhost:${push}`,
      LOOKUP_ORIGINS: `${conditionsUrl},${receiverUrl},${recordsUrl},${signInUrl}`,
      STAND_INS: [
        `The mailbox=http://localhost:${mailbox}/`,
        `The devices=http://localhost:${push}/`,
        `The outside systems=${receiverUrl}/`,
        `The records service=${recordsUrl}/`,
        `The conditions=${conditionsUrl}/`,
        `The house’s own sign-in=${signInUrl}/`,
      ].join(','),
      // What the operator has set holds over what is made up here.
      ...process.env,
      ...wishes.environment,
      NODE_ENV: 'production',
      DATABASE_URL: databaseUrl,
      HOST: '127.0.0.1',
      PORT: String(port),
      MAIL_IN_PORT: String(mailIn),
      SMTP_PORT: String(smtp),
      MAILBOX_PORT: String(mailbox),
      PUSH_PORT: String(push),
      CONDITIONS_PORT: String(conditions),
      RECEIVER_PORT: String(receiver),
      RECORDS_PORT: String(records),
      RECEIVER_SECRET: DEMO_RECEIVER_SECRET,
      SIGN_IN_PORT: String(signIn),
      SIGN_IN_SECRET: DEMO_SIGN_IN_SECRET,
    };
    const run = (name: Parameters<typeof built>[1]): Running => {
      const how = built(dist, name);
      const running = new Running(name, how.command, {
        env: { ...environment, ...how.environment },
        cwd: ROOT,
        log: join(folder, `${name}.log`),
      });
      processes.push(running);
      return running;
    };
    const startEngine = (): Running => run('engine');
    say('Starting web, engine and stand-ins ...');
    run('web');
    startEngine();
    run('mail-in');
    run('stand-ins');
    const note = (): void =>
      writeFileSync(
        noteFile,
        JSON.stringify({
          pids: processes.map((running) => running.pid),
          ports: { smtp, mailbox, push, conditions, receiver, records, signIn, mailIn },
        } satisfies Noted),
      );
    note();

    const mailboxUrl = `http://localhost:${mailbox}`;
    const devicesUrl = `http://localhost:${push}`;
    for (const [name, address] of [
      ['web', `${url}/healthz`],
      ['stand-ins', `${mailboxUrl}/`],
      ['stand-ins', `${devicesUrl}/`],
      ['stand-ins', `${conditionsUrl}/`],
      ['stand-ins', `${receiverUrl}/`],
      ['stand-ins', `${recordsUrl}/`],
      ['stand-ins', `${signInUrl}/`],
    ] as const) {
      const running = processes.find((each) => each.name === name);
      const answered = await until(
        async () => running?.alive === false || (await answersAt(address)()),
        60_000,
      );
      if (!answered || running?.alive === false)
        throw new Stop(
          `The ${name} process did not come up. Its own account of why is in ${join(folder, `${name}.log`)}.`,
        );
    }
    const receives = (): Promise<boolean> =>
      new Promise((resolve) => {
        const socket = createConnection({ host: '127.0.0.1', port: mailIn }, () => resolve(true));
        socket.once('error', () => resolve(false));
        socket.once('connect', () => socket.end());
      });
    if (!(await until(receives, 30_000)))
      throw new Stop(
        `The mail-in process did not come up. Its own account of why is in ${join(folder, 'mail-in.log')}.`,
      );
    return {
      url,
      mailboxUrl,
      devicesUrl,
      conditionsUrl,
      receiverUrl,
      recordsUrl,
      signInUrl,
      databaseUrl,
      demo,
      environment,
      processes,
      startEngine,
      note,
      stop,
    };
  } catch (error) {
    await stop();
    throw error;
  }
}
