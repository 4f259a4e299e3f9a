import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { spawn, type ChildProcess } from 'node:child_process';
import { rmSync } from 'node:fs';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { placeFolder, ROOT } from '../../scripts/house/bringUp.ts';
import { createDatabase, startMariaDb, type LocalDatabase } from '../../scripts/house/mariadb.ts';
import { until } from '../../scripts/house/processes.ts';
import { migrate } from '../../src/server/database/migrate.ts';
import { connect, type Database } from '../../src/server/database/connection.ts';
import {
  addPeople,
  countOf,
  addOrganisation,
  mailHouse,
  reaches,
  SECRET,
  sendNow,
  startEngine,
  type MailHouse,
} from './world.ts';

const PEOPLE = 12_000;
const FOLDER = `${placeFolder('tests-kills')}/database`;

let local: LocalDatabase;
let db: Database;
let mail: MailHouse;

beforeAll(async () => {
  rmSync(FOLDER, { recursive: true, force: true });
  // A server of this file's own, since one test restarts it.
  local = await startMariaDb(FOLDER, { durable: true, say: console.log });
  await createDatabase(local.url('clear_bell'), true);
  db = connect(local.url('clear_bell'));
  await migrate(db);
  await addOrganisation(db);
  await addPeople(db, PEOPLE);
  // Enough people that several batches are written, and so many mails as a slow machine hands over in time.
  await db('people').where('id', '>', 3_000).update({ mail: null });
  mail = await mailHouse();
});
afterAll(async () => {
  await db.destroy();
  await mail.stop();
  await local.running.stop();
  rmSync(FOLDER, { recursive: true, force: true });
});

/** A whole engine process, as in production, but with claims that end soon. */
function engineProcess(): ChildProcess {
  return spawn(process.execPath, ['--import', 'tsx', 'src/server/engine/main.ts'], {
    cwd: ROOT,
    stdio: 'ignore',
    env: {
      ...process.env,
      DATABASE_URL: local.url('clear_bell'),
      CLEAR_BELL_URL: 'http://bell.test',
      CLEAR_BELL_SECRET: SECRET,
      MAIL_URL: mail.url,
      MAIL_FROM: 'desk@test.example',
      ENGINE_LEASE_SECONDS: '1',
    },
  });
}

const gone = (child: ChildProcess): Promise<unknown> => new Promise((resolve) => child.once('exit', resolve));

it('an engine killed twice in the middle of a send to all: everybody once on board and inbox, nobody missed by mail', async () => {
  const [board] = await db('boards').insert({
    name: `All ${Date.now()}`,
    about: 'All.',
    posting: 'moderators',
  });
  const occurrence = await sendNow(db, {
    audience: { kind: 'everyone' },
    boards: [board ?? 0],
    ask: acknowledgement(),
  });
  const inboxes = (): Promise<number> =>
    countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox'", [occurrence]);

  const first = engineProcess();
  await until(async () => (await inboxes()) > 0, 20_000);
  first.kill('SIGKILL');
  await gone(first);
  // The first batches are written, and no more is: it died in the middle of expanding.
  const atFirstKill = await inboxes();
  expect(atFirstKill).toBeGreaterThan(0);

  const second = engineProcess();
  await until(async () => (await mail.receipts()).length > 200, 30_000);
  second.kill('SIGKILL');
  await gone(second);
  const atSecondKill = (await mail.receipts()).length;
  expect(atSecondKill).toBeLessThan(2_500);

  const third = engineProcess();
  await reaches(db, occurrence, 'sent', 240_000);
  third.kill('SIGTERM');
  await gone(third);

  expect(await inboxes()).toBe(PEOPLE + 1);
  expect(await countOf(db, 'FROM roll WHERE occurrence_id = ?', [occurrence])).toBe(PEOPLE + 1);
  expect(await countOf(db, 'FROM posts WHERE occurrence_id = ?', [occurrence])).toBe(1);
  const receipts = await mail.receipts();
  const withMail = await countOf(db, 'FROM people WHERE mail IS NOT NULL');
  const messageIds = new Map<string, number>();
  for (const { messageId } of receipts) messageIds.set(messageId, (messageIds.get(messageId) ?? 0) + 1);
  expect(messageIds.size).toBe(withMail);
  // A mail on the wire at a kill may come again, with the same Message-ID; that is a handful, never a batch.
  expect(receipts.length - withMail).toBeLessThan(400);
}, 400_000);

it('the database restarted in the middle: nothing lost, nothing doubled', async () => {
  const before = (await mail.receipts()).length;
  const engine = await startEngine(db, mail.url, { bucketLeaseS: 1, mailLeaseS: 3 });
  const occurrence = await sendNow(db, { audience: { kind: 'everyone' } });
  await until(async () => (await mail.receipts()).length > before + 200, 30_000);
  const port = new URL(local.url('x')).port;
  await local.running.stop();
  local = await startMariaDb(FOLDER, { durable: true, say: console.log, port: Number(port) });
  await reaches(db, occurrence, 'sent', 240_000);
  await engine.stop();
  expect(
    await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox'", [occurrence]),
  ).toBe(PEOPLE + 1);
  const ours = (await mail.receipts()).filter((each) => each.messageId.startsWith(`<${occurrence}.`));
  expect(new Set(ours.map((each) => each.messageId)).size).toBe(
    await countOf(db, 'FROM people WHERE mail IS NOT NULL'),
  );
}, 400_000);
