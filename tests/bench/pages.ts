import { spawn } from 'node:child_process';
import { randomBytes, createHash } from 'node:crypto';
import { build, built } from '../../scripts/house/build.ts';
import { placeFolder, ROOT } from '../../scripts/house/bringUp.ts';
import { freePort } from '../../scripts/house/ports.ts';
import autocannon from 'autocannon';
import { percentile } from '../../src/core/delivery/lateness.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { indexMissing } from '../../src/server/search/service.ts';
import { send, timed, mustCome } from './data.ts';
import { sized, times } from './size.ts';

const REQUESTS = sized(200);
const READERS = sized(200);
const SECONDS = times(20);

/** Server time of the board page and For me for a reader, as the posts and deliveries behind them grow tenfold. */
export async function pages(db: Database, url: string): Promise<void> {
  const out = `${placeFolder('bench')}/dist`;
  build(ROOT, out, console.log);
  const board = await insertBoard(db, {
    name: 'News',
    about: 'News.',
    groupId: null,
    ...PRESETS.news.switches,
  });
  const token = randomBytes(32).toString('base64url');
  await db.raw(
    'INSERT INTO sessions (token_hash, person_id, expires_at) VALUES (?, 2, NOW(3) + INTERVAL 1 DAY)',
    [createHash('sha256').update(token).digest()],
  );
  const port = await freePort();
  const {
    command: [program = '', ...args],
    environment,
  } = built(out, 'web');
  const web = spawn(program, args, {
    cwd: ROOT,
    stdio: 'ignore',
    env: {
      ...process.env,
      ...environment,
      DATABASE_URL: url,
      CLEAR_BELL_URL: `http://127.0.0.1:${port}`,
      CLEAR_BELL_SECRET: 'the bench needs a secret of 32 characters',
      MAIL_URL: 'smtp://127.0.0.1:1',
      MAIL_FROM: 'desk@bench.example',
      HOST: '127.0.0.1',
      PORT: String(port),
      LOG_LEVEL: 'warn',
    },
  });
  const get = async (path: string): Promise<number> =>
    timed(async () => {
      const response = await fetch(`http://127.0.0.1:${port}${path}`, {
        headers: { cookie: `clear-bell-session=${token}` },
        redirect: 'manual',
      });
      if (response.status !== 200) throw new Error(`${path} answered ${response.status}`);
      await response.text();
    });
  /** Readers who all ask at once and again as soon as they are answered, as on a Monday at nine. */
  const atOnce = async (path: string): Promise<string> => {
    const { requests, latency, non2xx, errors } = await autocannon({
      url: `http://127.0.0.1:${port}${path}`,
      connections: READERS,
      duration: SECONDS,
      timeout: 60,
      headers: { cookie: `clear-bell-session=${token}` },
    });
    if (non2xx + errors > 0) throw new Error(`${path} failed ${non2xx + errors} times`);
    return `50th ${latency.p50} ms, 99th ${latency.p99} ms, ${Math.round(requests.average)} a second`;
  };
  const measure = async (path: string): Promise<string> => {
    for (let i = 0; i < 30; i++) await get(path);
    const times: number[] = [];
    for (let i = 0; i < REQUESTS; i++) times.push(await get(path));
    return `50th ${(percentile(times, 0.5) ?? 0).toFixed(1)} ms, 95th ${(percentile(times, 0.95) ?? 0).toFixed(1)} ms`;
  };
  try {
    await mustCome(
      'the web process',
      () =>
        fetch(`http://127.0.0.1:${port}/healthz`).then(
          (r) => r.ok,
          () => false,
        ),
      30_000,
    );
    console.log(
      `Pages to one reader with 100,000 people in the database, ${REQUESTS} requests one after another (aim: 95th under 50 ms)`,
    );
    console.log(`  the least any answer takes (/healthz, one trivial query): ${await measure('/healthz')}`);
    let posts = 0;
    for (const target of [sized(500), sized(5_000)]) {
      const template = await send(db, { boards: [board] });
      // Posts and inbox deliveries beside each other: what a busy reader has after years.
      await db.raw(
        `INSERT INTO occurrences (send_id, version_id, recurs_at, state, due_at, ends_at, sent_at)
         SELECT send_id, version_id, LPAD(seq + 1 + ${posts}, 16, '0'), 'sent', NOW(3) - INTERVAL seq MINUTE,
           NOW(3) - INTERVAL seq MINUTE, NOW(3) FROM occurrences, seq_1_to_${target - posts} WHERE id = ?`,
        [template],
      );
      await db.raw(
        `INSERT INTO posts (board_id, version_id, occurrence_id, author_id, posted_at)
         SELECT ?, s.version_id, o.id, 1, o.due_at FROM occurrences o JOIN sends s ON s.id = o.send_id WHERE o.state = 'sent'
         ON DUPLICATE KEY UPDATE posts.board_id = posts.board_id`,
        [board],
      );
      await db.raw(
        `INSERT INTO deliveries (occurrence_id, person_id, method, state, due_at, went_at)
         SELECT o.id, p.id, 'inbox', 'delivered', o.due_at, o.due_at FROM occurrences o JOIN people p ON p.id <= 100 WHERE o.state = 'sent'
         ON DUPLICATE KEY UPDATE deliveries.person_id = deliveries.person_id`,
      );
      posts = target;
      for (let left = 1; left > 0;) left = await indexMissing(db);
      console.log(
        `  board page with ${target.toLocaleString('en-GB')} posts: ${await measure(`/boards/${board}`)}`,
      );
      console.log(`  For me with ${target.toLocaleString('en-GB')} deliveries: ${await measure('/for-me')}`);
      console.log(`  ${READERS} readers at once, for ${SECONDS} s each:`);
      for (const [words, path] of [
        ['the least any answer takes', '/healthz'],
        ['board', `/boards/${board}`],
        ['For me', '/for-me'],
        ['search', '/api/search?q=ridge'],
      ] as const)
        console.log(`    ${words}: ${await atOnce(path)}`);
    }
    console.log('');
  } finally {
    web.kill();
  }
}
