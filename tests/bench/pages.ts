import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import autocannon from 'autocannon';
import { placeFolder } from '../../scripts/house/bringUp.ts';
import { percentile } from '../../src/core/delivery/lateness.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { indexMissing } from '../../src/server/search/service.ts';
import { layBoard, median, one, send, timed } from './data.ts';
import { sized, times } from './size.ts';
import { benchBuild, openSessions, startServer, startWeb } from './web.ts';

const REQUESTS = sized(200);
const READERS = sized(200);
const SECONDS = times(20);
const PAIRS = times(3);
const READER = 2;

async function get(origin: string, path: string, cookie: string): Promise<string> {
  const response = await fetch(origin + path, { headers: { cookie }, redirect: 'manual' });
  if (response.status !== 200) throw new Error(`${path} answered ${response.status}`);
  return response.text();
}

/** Readers who all ask at once and again as soon as they are answered, as on a Monday at nine. */
async function atOnce(origin: string, path: string, cookie: string, duration = SECONDS) {
  const { requests, latency, non2xx, errors } = await autocannon({
    url: origin + path,
    connections: READERS,
    duration,
    timeout: 60,
    headers: { cookie },
  });
  if (non2xx + errors > 0) throw new Error(`${path} failed ${non2xx + errors} times`);
  return {
    rate: requests.average,
    words: `50th ${latency.p50} ms, 99th ${latency.p99} ms, ${Math.round(requests.average)} a second`,
  };
}

export async function inTurn(origin: string, path: string, cookie: string): Promise<string> {
  for (let i = 0; i < 30; i++) await get(origin, path, cookie);
  const taken: number[] = [];
  for (let i = 0; i < REQUESTS; i++) taken.push(await timed(() => get(origin, path, cookie)));
  return `50th ${(percentile(taken, 0.5) ?? 0).toFixed(1)} ms, 95th ${(percentile(taken, 0.95) ?? 0).toFixed(1)} ms`;
}

/** Pages beside a bare server that asks the database the same and sends as many bytes, the two in turn. */
async function besideBare(
  dist: string,
  url: string,
  cookie: string,
  paths: readonly (readonly [string, string])[],
) {
  const noted = join(placeFolder('bench'), 'statements');
  const noting = await startWeb(dist, url, {
    NODE_OPTIONS: `--import ${join(import.meta.dirname, 'noteStatements.mjs')}`,
    NOTE_STATEMENTS: noted,
  });
  const pages: Record<string, { statements: { sql: string }[]; bytes: number }> = {};
  try {
    for (const [, path] of paths) {
      await get(noting.origin, path, cookie);
      rmSync(noted, { force: true });
      const html = await get(noting.origin, path, cookie);
      const statements = readFileSync(noted, 'utf8')
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line) as { sql: string })
        // Of its own accord a web says that it is alive, and prepares its connections.
        .filter(({ sql }) => /^\s*(SELECT|WITH)\b/i.test(sql));
      pages[path] = { statements, bytes: Buffer.byteLength(html) };
    }
  } finally {
    noting.stop();
  }
  const file = join(placeFolder('bench'), 'bare.json');
  writeFileSync(file, JSON.stringify(pages));
  const bare = await startServer(
    [process.execPath, join(import.meta.dirname, 'bareServer.mjs')],
    { DATABASE_URL: url, BARE: file },
    '/',
  );
  const web = await startWeb(dist, url);
  try {
    console.log(
      `  beside a bare server that asks the same and sends as many bytes, ${READERS} readers at once, ${PAIRS} times in turn (aim: at most 3 times its time):`,
    );
    for (const [words, path] of paths) {
      for (const each of [bare, web]) await atOnce(each.origin, path, cookie, times(5));
      const pairs: [number, number][] = [];
      for (let i = 0; i < PAIRS; i++)
        pairs.push([
          (await atOnce(bare.origin, path, cookie, times(8))).rate,
          (await atOnce(web.origin, path, cookie, times(8))).rate,
        ]);
      const { statements, bytes } = pages[path] ?? { statements: [], bytes: 0 };
      const ratio = median(pairs.map(([least, ours]) => least / ours));
      console.log(
        `    ${words}, ${statements.length} statements, ${Math.round(bytes / 1000)} kB: ${Math.round(median(pairs.map(([, ours]) => ours)))} a second, bare ${Math.round(median(pairs.map(([least]) => least)))}: ${ratio.toFixed(2)} times`,
      );
    }
  } finally {
    web.stop();
    bare.stop();
  }
}

/** Server time of the board page and For me for a reader, as the posts and deliveries behind them grow tenfold. */
export async function pages(db: Database, url: string): Promise<void> {
  const dist = benchBuild();
  const board = await layBoard(db);
  const cookie = (await openSessions(db, [READER])).get(READER) ?? '';
  const web = await startWeb(dist, url);
  try {
    console.log(
      `Pages to one reader with 100,000 people in the database, ${REQUESTS} requests one after another (aim: 95th under 50 ms)`,
    );
    console.log(
      `  the least any answer takes (/healthz, one trivial query): ${await inTurn(web.origin, '/healthz', cookie)}`,
    );
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
        `  board page with ${target.toLocaleString('en-GB')} posts: ${await inTurn(web.origin, `/boards/${board}`, cookie)}`,
      );
      console.log(
        `  For me with ${target.toLocaleString('en-GB')} deliveries: ${await inTurn(web.origin, '/for-me', cookie)}`,
      );
      console.log(`  ${READERS} readers at once, for ${SECONDS} s each:`);
      for (const [words, path] of [
        ['the least any answer takes', '/healthz'],
        ['board', `/boards/${board}`],
        ['For me', '/for-me'],
        ['search', '/api/search?q=ridge'],
      ] as const)
        console.log(`    ${words}: ${(await atOnce(web.origin, path, cookie)).words}`);
    }
  } finally {
    web.stop();
  }
  const { id } = await one<{ id: number }>(db, 'SELECT MAX(id) AS id FROM posts');
  await besideBare(dist, url, cookie, [
    ['For me', '/for-me'],
    ['board', `/boards/${board}`],
    ['a post', `/posts/${id}`],
  ]);
  console.log('');
}
