import { afterAll, beforeAll, expect, it } from 'vitest';
import { hashPassword } from '../../src/server/accounts/password.ts';
import { AttemptLimit } from '../../src/server/accounts/rateLimit.ts';
import {
  demoChoices,
  needsSetup,
  readSession,
  setUp,
  signIn,
  signInToDemo,
  signOut,
  signOutEverywhere,
} from '../../src/server/accounts/service.ts';
import { endOtherOwnSessions, endOwnSession, sessionLines } from '../../src/server/accounts/sessions.ts';
import { setPassword } from '../../src/server/accounts/store.ts';
import { connect, rows, type Database } from '../../src/server/database/connection.ts';
import { migrate } from '../../src/server/database/migrate.ts';
import { changeStanding } from '../../src/server/people/service.ts';
import { createDatabase } from '../../scripts/house/mariadb.ts';
import { Problem } from '../../src/server/problem.ts';
import { readSettings } from '../../src/server/settings.ts';
import { addPeople, coordinator, freshDatabase, sessionIn } from './world.ts';
import { openSession } from '../../src/server/accounts/opening.ts';

let db: Database;
let url: string;
let limit: AttemptLimit;

beforeAll(async () => {
  ({ db, url } = await freshDatabase('accounts'));
  limit = new AttemptLimit(url);
  await setPassword(db, 1, await hashPassword('a long enough password'));
});
afterAll(() => db.destroy());

const attempt = async (mail: string, password: string, place = '10.0.0.1'): Promise<Problem | string> => {
  try {
    return sessionIn(await signIn(db, limit, { mail, password }, place));
  } catch (error) {
    if (error instanceof Problem) return error;
    throw error;
  }
};

it('lists where one is signed in, and ends one or all others, with what is pushed to them', async () => {
  const FIREFOX = 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0';
  const PHONE =
    'Mozilla/5.0 (Linux; Android 15; Pixel 9) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/142.0.0.0 Mobile Safari/537.36';
  const [here = '', phone = '', other = ''] = await Promise.all(
    [FIREFOX, PHONE, ''].map((agent) => openSession(db, 1, agent)),
  );
  const session = (await readSession(db, here))!;
  const [stranger = 0] = await addPeople(db, 1);
  const theirs = (await readSession(db, await openSession(db, stranger)))!;
  const lines = await sessionLines(db, session);
  expect(lines.map((line) => line.browser).sort()).toEqual([
    'Chrome on Android, phone',
    'Firefox on Linux',
    'a browser',
  ]);
  expect(lines.filter((line) => line.here).map((line) => line.browser)).toEqual(['Firefox on Linux']);
  const onPhone = lines.find((line) => line.browser.includes('phone'))!;
  await db('devices').insert({
    person_id: 1,
    label: 'x',
    endpoint: 'https://push.example/2',
    endpoint_hash: Buffer.alloc(32, 2),
    p256dh: 'x',
    auth: 'x',
    session_hash: (await readSession(db, phone))!.hash,
  });
  // Somebody else's is not there.
  await expect(endOwnSession(db, theirs, onPhone.id)).rejects.toMatchObject({ status: 404 });
  await endOwnSession(db, session, onPhone.id);
  expect(await readSession(db, phone)).toBeUndefined();
  expect(await rows(db, 'SELECT 1 FROM devices WHERE person_id = 1')).toHaveLength(0);
  await endOtherOwnSessions(db, session);
  expect(await readSession(db, other)).toBeUndefined();
  expect(await readSession(db, here)).toBeDefined();
  expect(await sessionLines(db, theirs)).toHaveLength(1);
  // That it is in use is noted once in some minutes.
  await db.raw('UPDATE sessions SET seen_at = NOW(3) - INTERVAL 2 HOUR WHERE person_id = 1');
  const late = (await sessionLines(db, session))[0]!.seenMs;
  await readSession(db, here);
  expect((await sessionLines(db, session))[0]!.seenMs).toBeGreaterThan(late);
  await signOutEverywhere(db, coordinator);
});

it('signs in by address and password, and out everywhere', async () => {
  const tokens = [
    await attempt('maud@test.example', 'a long enough password'),
    await attempt('MAUD@test.example', 'a long enough password'),
  ];
  const [first, second] = tokens as [string, string];
  expect(await readSession(db, first)).toMatchObject({
    name: 'Maud Fenwright',
    actor: { role: 'coordinator' },
  });
  await signOut(db, first);
  expect(await readSession(db, first)).toBeUndefined();
  expect(await readSession(db, second)).toBeDefined();
  await signOutEverywhere(db, coordinator);
  expect(await readSession(db, second)).toBeUndefined();
  expect(await readSession(db, 'made up')).toBeUndefined();
});

it('gives the same answer for an unknown name and a wrong password', async () => {
  const unknown = await attempt('nobody@test.example', 'a long enough password', '10.0.0.2');
  const wrong = await attempt('maud@test.example', 'wrong', '10.0.0.2');
  expect(
    [unknown, wrong].map((each) => (each instanceof Problem ? [each.status, each.message] : each)),
  ).toEqual([
    [401, 'The mail address and the password do not belong together.'],
    [401, 'The mail address and the password do not belong together.'],
  ]);
});

it('stops guessing after ten failures, across processes, known name or not', async () => {
  for (const mail of ['maud@test.example', 'nobody@test.example']) {
    for (let i = 0; i < 10; i++) await attempt(mail, `guess ${i}`, '10.0.0.3');
    // Another process has a limiter of its own over the same database.
    limit = new AttemptLimit(url);
    const stopped = await attempt(mail, 'a long enough password', '10.0.0.3');
    expect(stopped).toMatchObject({ status: 429 });
    expect((stopped as Problem).more.retryAfter).toBeGreaterThan(0);
  }
  expect(typeof (await attempt('maud@test.example', 'a long enough password', '10.0.0.4'))).toBe('string');
});

it('ends the sessions of somebody who leaves', async () => {
  const [id] = await addPeople(db, 1);
  await setPassword(db, id!, await hashPassword('another password here'));
  const token = (await attempt(`person${id!}@test.example`, 'another password here', '10.0.0.5')) as string;
  expect(await readSession(db, token)).toBeDefined();
  await changeStanding(db, coordinator, id!, true);
  expect(await readSession(db, token)).toBeUndefined();
  expect(await attempt(`person${id!}@test.example`, 'another password here', '10.0.0.5')).toMatchObject({
    status: 401,
  });
});

it('offers nobody without demo data, and only those it offers with it', async () => {
  expect(await demoChoices(db)).toEqual([]);
  await expect(signInToDemo(db, 1)).rejects.toMatchObject({ status: 403 });
  await db('organisation').update({ demo: true });
  expect((await demoChoices(db))[0]).toMatchObject({ id: 1, role: 'coordinator' });
  await expect(signInToDemo(db, 99_999)).rejects.toMatchObject({ status: 403 });
  await db('organisation').update({ demo: false });
});

it('lets the first visitor of an empty database set it up, once', async () => {
  const empty = url.replace('_accounts', '_empty');
  await createDatabase(empty, true);
  const fresh = connect(empty);
  try {
    await migrate(fresh);
    expect(await needsSetup(fresh)).toBe(true);
    const input = {
      organisation: 'Nine Gardens',
      zone: 'Europe/Madrid',
      name: 'Una Marsh',
      mail: 'una@nine.example',
      password: 'a row of words',
    };
    const both = await Promise.allSettled([
      setUp(fresh, input),
      setUp(fresh, { ...input, mail: 'other@nine.example' }),
    ]);
    expect(both.map((each) => each.status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await needsSetup(fresh)).toBe(false);
    const token = sessionIn(both.find((each) => each.status === 'fulfilled')!.value);
    expect(await readSession(fresh, token)).toMatchObject({
      zone: 'Europe/Madrid',
      actor: { role: 'coordinator' },
    });
  } finally {
    await fresh.destroy();
  }
});

it('names the setting that is wrong', () => {
  expect(() => readSettings({ DATABASE_URL: 'postgres://x', CLEAR_BELL_SECRET: 'short' })).toThrow(
    /DATABASE_URL must be an address beginning with mysql:\/\/[\s\S]*CLEAR_BELL_URL is not set[\s\S]*CLEAR_BELL_SECRET must be at least 32/,
  );
});
