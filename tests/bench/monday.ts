import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import { request } from 'undici';
import { built } from '../../scripts/house/build.ts';
import { freePort } from '../../scripts/house/ports.ts';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { percentile } from '../../src/core/delivery/lateness.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { signLink } from '../../src/server/links/signed.ts';
import { dueAtInstant, mustCome, now, one, send } from './data.ts';
import { seeded, sized, times } from './size.ts';
import {
  BENCH_SECRET,
  benchBuild,
  benchSettings,
  openSessions,
  startServer,
  startWeb,
  type Started,
} from './web.ts';

const ADDRESSED = sized(10_000);
const COMING = sized(2_500);
const WITHIN_S = times(60);
const DESKS = sized(40);
const OTHERS = sized(20);
const FIRST_DESK = 2;
const FIRST_READER = 100;

/** Seconds of a processor that a process has used so far, its threads included. */
const usedS = (pid: number): number => {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8')
    .replace(/^.*\) /, '')
    .split(' ');
  return (Number(fields[11]) + Number(fields[12])) / 100;
};

const words = (taken: readonly number[]): string =>
  taken.length === 0
    ? 'none'
    : ([0.5, 0.95, 0.99] as const)
        .map((share) => (percentile([...taken], share) ?? Number.NaN).toFixed(0))
        .join(' / ');

type Asked = Omit<NonNullable<Parameters<typeof request>[1]>, 'headers'> & {
  headers?: Readonly<Record<string, string>>;
};

class Taken {
  readonly all: number[] = [];
  failed = 0;

  /** With as little work as can be: who asks is on the same two cores. */
  async request(url: string, how: Asked = {}): Promise<boolean> {
    const began = performance.now();
    try {
      // As browsers do; what comes is not unpacked.
      const headers = { ...how.headers, 'accept-encoding': 'gzip, deflate, br' };
      const { statusCode, body } = await request(url, { ...how, headers });
      await body.arrayBuffer();
      this.all.push(performance.now() - began);
      if (statusCode === 200) return true;
    } catch {
      // Counted as what it is, below.
    }
    this.failed++;
    return false;
  }
}

/** A desk that has the roll and the run sheet open: it fetches what its pages would, and as often (see `ui/useLive.ts`). */
async function watch(
  origin: string,
  cookie: string,
  occurrence: number,
  taken: Taken,
  over: AbortSignal,
): Promise<void> {
  const roll = ['', '/results', '/people?part=waiting'].map((path) => `/api/asks/${occurrence}${path}`);
  const changed = new Set<string>();
  const response = await fetch(`${origin}/api/live?topic=roll:${occurrence}&topic=desk`, {
    headers: { cookie },
    signal: over,
  });
  if (!response.ok) throw new Error(`The live stream answered ${response.status}`);
  const fetching = (async () => {
    while (!over.aborted) {
      const began = performance.now();
      const paths = [
        ...(changed.has('roll') ? roll : []),
        ...(changed.has('desk') ? ['/api/run-sheet'] : []),
      ];
      changed.clear();
      await Promise.all(paths.map((path) => taken.request(origin + path, { headers: { cookie } })));
      const took = performance.now() - began;
      await wait(Math.max(150, 1_000 - took, Math.min(10_000, 3 * took)), undefined, { signal: over }).catch(
        () => undefined,
      );
    }
  })();
  try {
    const reader = response.body?.getReader();
    for (let part = await reader?.read(); part?.value; part = await reader?.read()) {
      const text = Buffer.from(part.value).toString();
      for (const topic of ['roll', 'desk']) if (text.includes(`data: ${topic}`)) changed.add(topic);
    }
  } catch (error) {
    if (!over.aborted) throw error;
  }
  await fetching;
}

/**
 * The minute after a send on a Monday: it goes to 10,000 of 100,000 with mail; 2,500 of them come by its link, look at For me and
 * acknowledge; 40 desks look on. Nothing is said of whether that is good: see docs/bench.md.
 */
export async function monday(db: Database, url: string): Promise<void> {
  const dist = benchBuild();
  const smtp = await freePort();
  const standIns = built(dist, 'stand-ins');
  const ports = ['PUSH', 'CONDITIONS', 'RECEIVER', 'RECORDS', 'SIGN_IN'];
  const elsewhere: NodeJS.ProcessEnv = {
    SMTP_PORT: String(smtp),
    MAIL_IN_PORT: '1',
    CLEAR_BELL_URL: 'http://localhost',
  };
  for (const name of ports) elsewhere[`${name}_PORT`] = String(await freePort());
  const mailbox = await freePort();
  await db.raw("UPDATE people SET role = 'coordinator' WHERE id BETWEEN ? AND ?", [
    FIRST_DESK,
    FIRST_DESK + DESKS - 1,
  ]);
  await db.raw("INSERT INTO `groups` (id, name, kind) VALUES (1, 'Called', 'fixed')");
  await db.raw(
    `INSERT INTO group_members (group_id, person_id) SELECT 1, seq FROM seq_${FIRST_READER}_to_${FIRST_READER + ADDRESSED - 1}`,
  );
  await db.raw(
    `INSERT INTO \`groups\` (id, name, kind) SELECT 1 + seq, CONCAT('Few ', seq), 'fixed' FROM seq_1_to_${OTHERS}`,
  );
  await db.raw(
    `INSERT INTO group_members (group_id, person_id) SELECT 1 + g.seq, ${FIRST_READER + ADDRESSED} + g.seq * 20 + p.seq FROM seq_1_to_${OTHERS} g, seq_0_to_19 p`,
  );
  const group = (id: number) => ({ kind: 'group', id }) as const;
  const occurrence = await send(db, { audience: group(1), mail: true, ask: acknowledgement() });
  const others: number[] = [];
  for (let i = 1; i <= OTHERS; i++) others.push(await send(db, { audience: group(1 + i) }));
  const readers = Array.from({ length: COMING }, (_, i) => FIRST_READER + i);
  const desks = Array.from({ length: DESKS }, (_, i) => FIRST_DESK + i);
  const cookies = await openSessions(db, [...readers, ...desks]);

  const started: Started[] = [];
  const over = new AbortController();
  const engineHow = built(dist, 'engine');
  const [program = '', ...args] = engineHow.command;
  const engine = spawn(program, args, {
    stdio: 'ignore',
    env: { ...process.env, ...benchSettings(url, smtp), ...engineHow.environment },
  });
  try {
    const web = await startWeb(dist, url);
    started.push(
      web,
      await startServer(
        standIns.command,
        { ...elsewhere, ...standIns.environment, MAILBOX_PORT: String(mailbox) },
        '/',
        mailbox,
      ),
    );
    const { id: databasePid } = await one<{ id: string }>(db, 'SELECT @@pid_file AS id');
    const database = Number(readFileSync(databasePid, 'utf8'));
    const processes = { web: web.pid, engine: engine.pid ?? 0, database, 'stand-ins': started[1]?.pid ?? 0 };
    const dueMs = (await now(db)) + 2_000;
    await dueAtInstant(db, [occurrence], dueMs);
    for (const [i, id] of others.entries())
      await dueAtInstant(db, [id], dueMs + ((i + 1) * WITHIN_S * 1_000) / (OTHERS + 1));
    const before = Object.entries(processes).map(([name, pid]) => [name, usedS(pid)] as const);
    const rolled = async (): Promise<number> =>
      (await one<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM roll WHERE occurrence_id = ?', [occurrence]))
        .n;
    await mustCome('everybody on the roll', async () => (await rolled()) === ADDRESSED, 60_000);

    const looking = new Taken();
    const watching = Promise.all(
      desks.map((id) => watch(web.origin, cookies.get(id) ?? '', occurrence, looking, over.signal)),
    );
    const random = seeded(9);
    const link = new Taken();
    const page = new Taken();
    const answer = new Taken();
    let confirmed = 0;
    const come = async (id: number): Promise<void> => {
      const token = signLink(
        BENCH_SECRET,
        { purpose: 'acknowledge', occurrenceId: occurrence, personId: id },
        Date.now(),
      );
      await link.request(`${web.origin}/m/acknowledge/${token}`);
      const cookie = cookies.get(id) ?? '';
      await page.request(`${web.origin}/for-me`, { headers: { cookie } });
      const given = await answer.request(`${web.origin}/api/asks/${occurrence}/answer`, {
        method: 'POST',
        headers: { cookie, origin: web.origin, 'content-type': 'application/json' },
        body: '{}',
      });
      if (given) confirmed++;
    };
    const visits: Promise<void>[] = [];
    const began = performance.now();
    let at = 0;
    for (const id of readers) {
      at += (-Math.log(1 - random()) * WITHIN_S * 1_000) / COMING;
      await wait(Math.max(0, began + at - performance.now()));
      visits.push(come(id));
    }
    await Promise.all(visits);
    const took = performance.now() - began;
    const after = Object.entries(processes).map(([, pid]) => usedS(pid));
    over.abort();
    await watching;
    const { n: answered } = await one<{ n: number }>(
      db,
      'SELECT COUNT(*) AS n FROM roll WHERE occurrence_id = ? AND answered_at IS NOT NULL',
      [occurrence],
    );
    const settled = async (): Promise<boolean> =>
      (await rows(db, "SELECT 1 FROM deliveries WHERE state <> 'delivered' LIMIT 1")).length === 0;
    await mustCome('all that was due', settled, 120_000);
    const late = await rows<{ ms: number }>(
      db,
      `SELECT CAST(TIMESTAMPDIFF(MICROSECOND, o.due_at, MAX(d.went_at)) / 1000 AS SIGNED) AS ms FROM deliveries d JOIN occurrences o ON o.id = d.occurrence_id
       WHERE o.id <> ? AND d.method = 'inbox' GROUP BY o.id`,
      [occurrence],
    );
    const mails = await one<{ n: number; ms: number }>(
      db,
      `SELECT COUNT(*) AS n, CAST(TIMESTAMPDIFF(MICROSECOND, o.due_at, MAX(d.went_at)) / 1000 AS SIGNED) AS ms FROM deliveries d JOIN occurrences o ON o.id = d.occurrence_id
       WHERE o.id = ? AND d.method = 'mail'`,
      [occurrence],
    );
    console.log(
      `Monday: a send to ${ADDRESSED.toLocaleString('en-GB')} of 100,000 people with mail; ${COMING.toLocaleString('en-GB')} come within ${WITHIN_S} s, ${DESKS} desks look on (aim: 99th under 1 s)`,
    );
    console.log(
      `  50th / 95th / 99th in ms: its link ${words(link.all)}, For me ${words(page.all)}, the acknowledgement ${words(answer.all)}`,
    );
    console.log(`  desks: ${looking.all.length} fetches, ${words(looking.all)} ms`);
    console.log(
      `  all had answered ${(took / 1000).toFixed(1)} s after the first came; failed: links ${link.failed}, pages ${page.failed}, answers ${answer.failed}, desks ${looking.failed}`,
    );
    console.log(`  answers confirmed ${confirmed}, on the roll ${answered}`);
    console.log(
      `  what else came due: ${late.length} sends, ${words(late.map(({ ms }) => ms))} ms late; ${mails.n} mails, the last ${(mails.ms / 1000).toFixed(1)} s after due`,
    );
    console.log(
      `  processor meanwhile: ${before.map(([name, used], i) => `${name} ${((((after[i] ?? 0) - used) / (took / 1000)) * 100).toFixed(0)} %`).join(', ')}\n`,
    );
  } finally {
    over.abort();
    engine.kill();
    for (const each of started) each.stop();
  }
}
