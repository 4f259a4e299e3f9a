import { change, connect, rows, type Database } from '../../src/server/database/connection.ts';
import { dueTimes } from '../../src/server/engine/dueStore.ts';
import { recordCountsLately } from '../../src/server/sends/deliveryCountStore.ts';
import { indexMissing } from '../../src/server/search/service.ts';
import { benchEngine, dueAtInstant, layBoard, median, mustCome, now, one, send, timed } from './data.ts';
import { inTurn } from './pages.ts';
import { sized, times } from './size.ts';
import { benchBuild, openSessions, startWeb, type Started } from './web.ts';

const PEOPLE = sized(10_000);
/** With nine of ten of them by mail as well, each is 19,000 deliveries. */
const MONTH = sized(88);
const YEAR = sized(1_053);
const DAY_MIN = 1_440;
const READER = 2;
const RUNS = times(3);
const LOOKS = times(60);

/** The keys of a table beside its primary one, as they are made. */
async function keysOf(db: Database, table: string): Promise<{ name: string; columns: string }[]> {
  return rows(
    db,
    `SELECT INDEX_NAME AS name, GROUP_CONCAT(COLUMN_NAME ORDER BY SEQ_IN_INDEX SEPARATOR ', ') AS columns
     FROM information_schema.STATISTICS WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME = ? AND INDEX_NAME <> 'PRIMARY' GROUP BY INDEX_NAME`,
    [table],
  );
}

/** Sends that went out long ago, spread evenly over the past: each on the board, in every inbox, and by mail. */
async function layHistory(db: Database, board: number, from: number, to: number): Promise<void> {
  const template = await send(db, { boards: [board], mail: true });
  const everyMin = Math.round((365 * DAY_MIN) / YEAR);
  await db.raw(
    `INSERT INTO occurrences (send_id, version_id, recurs_at, state, due_at, ends_at, sent_at)
     SELECT send_id, version_id, LPAD(seq, 16, '0'), 'sent', NOW(3) - INTERVAL seq * ${everyMin} MINUTE,
       NOW(3) - INTERVAL seq * ${everyMin} MINUTE, NOW(3) - INTERVAL seq * ${everyMin} MINUTE
     FROM occurrences, seq_${from + 1}_to_${to} WHERE id = ?`,
    [template],
  );
  await change(db, "UPDATE buckets SET state = 'skipped' WHERE occurrence_id = ?", [template]);
  await change(db, "UPDATE occurrences SET state = 'recalled' WHERE id = ?", [template]);
  const laid = await rows<{ id: number }>(
    db,
    "SELECT o.id FROM occurrences o JOIN sends s ON s.id = o.send_id WHERE o.recurs_at BETWEEN LPAD(?, 16, '0') AND LPAD(?, 16, '0') ORDER BY o.id",
    [from + 1, to],
  );
  await db.raw(
    `INSERT INTO posts (board_id, version_id, occurrence_id, author_id, posted_at)
     SELECT ?, version_id, id, 1, due_at FROM occurrences WHERE id IN (${laid.map(() => '?').join(', ')})`,
    [board, ...laid.map(({ id }) => id)],
  );
  const keys = await keysOf(db, 'deliveries');
  for (const { name } of keys) await db.raw('ALTER TABLE deliveries DROP INDEX ??', [name]);
  for (const { id } of laid)
    await db.raw(
      `INSERT INTO deliveries (occurrence_id, person_id, method, state, due_at, went_at, read_at)
       SELECT o.id, p.id, m.method, 'delivered', o.due_at, o.due_at, IF(m.method = 'inbox' AND p.id % 3 > 0, o.due_at + INTERVAL 1 HOUR, NULL)
       FROM occurrences o JOIN people p JOIN (SELECT 'inbox' AS method UNION ALL SELECT 'mail') m
       WHERE o.id = ? AND (m.method = 'inbox' OR p.mail IS NOT NULL) ORDER BY p.id, m.method`,
      [id],
    );
  for (const { name, columns } of keys)
    await db.raw(`ALTER TABLE deliveries ADD INDEX ?? (${columns})`, [name]);
  for (let left = 1; left > 0;) left = await indexMissing(db);
  for (let left = 1; left > 0;) left = await recordCountsLately(db);
  await db.raw('ANALYZE TABLE deliveries, occurrences, posts');
}

/** What the tables and their indexes take on disk, in gigabytes: deliveries, and everything. */
async function sizeOf(db: Database): Promise<string> {
  const { deliveries, all } = await one<{ deliveries: number; all: number }>(
    db,
    `SELECT CAST(SUM(IF(TABLE_NAME = 'deliveries', DATA_LENGTH + INDEX_LENGTH, 0)) AS SIGNED) AS deliveries,
       CAST(SUM(DATA_LENGTH + INDEX_LENGTH) AS SIGNED) AS \`all\` FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()`,
  );
  const gb = (bytes: number): string => `${(bytes / 1e9).toFixed(2)} GB`;
  return `${gb(all)}, of which the deliveries ${gb(deliveries)}`;
}

type Figures = Map<string, string>;

async function pagesOf(
  web: Started,
  board: number,
  post: number,
  cookies: Map<number, string>,
): Promise<Figures> {
  const figures: Figures = new Map();
  const member = cookies.get(READER) ?? '';
  const desk = cookies.get(1) ?? '';
  for (const [what, path, cookie] of [
    ['the least any answer takes (/healthz)', '/healthz', member],
    ['For me', '/for-me', member],
    ['a board', `/boards/${board}`, member],
    ['a post', `/posts/${post}`, member],
    ['search', '/api/search?q=ridge', member],
    ['the run sheet', '/run-sheet', desk],
    ['the boards', '/boards', desk],
    ['a person', `/person/${READER}`, desk],
    ['the operator’s page', '/running', desk],
  ] as const)
    figures.set(what, await inTurn(web.origin, path, cookie));
  return figures;
}

async function engineOf(db: Database, url: string): Promise<Figures> {
  const figures: Figures = new Map();
  const looks: number[] = [];
  for (let i = 0; i < LOOKS; i++) looks.push(await timed(() => dueTimes(db)));
  figures.set('the engine’s look at what is due', `50th ${median(looks).toFixed(1)} ms`);
  const own = connect(url, 14);
  const engine = benchEngine(own);
  await engine.start();
  try {
    const late: number[] = [];
    for (let i = 0; i < RUNS; i++) {
      const occurrence = await send(db, {});
      const dueMs = (await now(db)) + 1_500;
      await dueAtInstant(db, [occurrence], dueMs);
      await mustCome(
        'the last inbox delivery',
        async () =>
          (
            await one<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM deliveries WHERE occurrence_id = ?', [
              occurrence,
            ])
          ).n === PEOPLE,
        120_000,
      );
      late.push((await now(db)) - dueMs);
    }
    figures.set(
      `from due to the last of ${PEOPLE.toLocaleString('en-GB')} inboxes`,
      `median ${Math.round(median(late))} ms`,
    );
  } finally {
    await engine.stop();
    await own.destroy();
  }
  return figures;
}

/** Pages and engine with a month of history behind them, and with a year. */
export async function oneYear(db: Database, url: string): Promise<void> {
  const dist = benchBuild();
  const board = await layBoard(db);
  const cookies = await openSessions(db, [1, READER]);
  const web = await startWeb(dist, url);
  const all: { words: string; figures: Figures }[] = [];
  try {
    for (const [words, from, to] of [
      ['a month', 0, MONTH],
      ['a year', MONTH, YEAR],
    ] as const) {
      const took = await timed(() => layHistory(db, board, from, to));
      const { n } = await one<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM deliveries');
      const [{ id: post } = { id: 0 }] = await rows<{ id: number }>(db, 'SELECT MAX(id) AS id FROM posts');
      console.log(
        `Laid ${words}: ${n.toLocaleString('en-GB')} deliveries in all, ${(took / 1000).toFixed(0)} s; on disk ${await sizeOf(db)}`,
      );
      all.push({
        words: `${words} (${n.toLocaleString('en-GB')} deliveries)`,
        figures: new Map([...(await pagesOf(web, board, post, cookies)), ...(await engineOf(db, url))]),
      });
    }
  } finally {
    web.stop();
  }
  const [month, year] = all;
  console.log(
    `Pages to one reader, one request after another, and the engine, with ${month?.words} and with ${year?.words}`,
  );
  for (const [what, figure] of month?.figures ?? [])
    console.log(`  ${what}: ${figure}; ${year?.figures.get(what) ?? 'not measured'}`);
  console.log('');
}
