import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { until } from '../../scripts/house/processes.ts';
import { accessToken, readAccessToken } from '../../src/server/access/link.ts';
import {
  accessOfPeople,
  answerLetter,
  askForLetter,
  changePassword,
  countInvited,
  invite,
  openLetter,
  withdrawInvitation,
  withdrawInvitations,
} from '../../src/server/access/service.ts';
import { AttemptLimit } from '../../src/server/accounts/rateLimit.ts';
import { readSession, signIn } from '../../src/server/accounts/service.ts';
import { requireStrongPassword } from '../../src/server/accounts/strength.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import type { Engine } from '../../src/server/engine/engine.ts';
import { changeStanding } from '../../src/server/people/service.ts';
import {
  addGroup,
  addPeople,
  coordinator,
  countOf,
  freshDatabase,
  mailHouse,
  SECRET,
  sessionIn,
  startEngine,
  type MailHouse,
} from './world.ts';

const GOOD = 'four wet hats in a boat';
const member = { id: 2, role: 'member' as const, moderates: new Set<number>(), mayReach: new Set<number>() };

let db: Database;
let mail: MailHouse;
let engine: Engine;
let limit: AttemptLimit;
let people: number[];

beforeAll(async () => {
  const fresh = await freshDatabase('access');
  db = fresh.db;
  limit = new AttemptLimit(fresh.url);
  people = await addPeople(db, 20);
  mail = await mailHouse();
  engine = await startEngine(db, mail.url);
});
afterAll(async () => {
  await engine.stop();
  await mail.stop();
  await db.destroy();
});

const latest = async (personId: number): Promise<number> =>
  (
    await rows<{ id: number }>(db, 'SELECT MAX(id) AS id FROM access_letters WHERE person_id = ?', [personId])
  )[0]?.id ?? 0;
const addressOf = (personId: number): string => `person${personId}@test.example`;

/** The link in the latest mail to somebody, as its reader would follow it; waits for the mail. */
async function linkTo(personId: number): Promise<string> {
  const id = await latest(personId);
  const path = `http://bell.test/access/${accessToken(SECRET, id)}`;
  const came = await until(
    async () =>
      (await mail.mails()).some((each) => each.to.includes(addressOf(personId)) && each.text.includes(path)),
    15_000,
  );
  expect(came, 'the mail with the link came').toBe(true);
  return path.slice(path.lastIndexOf('/') + 1);
}

async function open(token: string) {
  const opened = await openLetter(db, SECRET, token);
  if (opened.state !== 'good') throw new Error(`The link is ${opened.state}`);
  return opened.letter;
}

describe('an invitation', () => {
  it('reaches whoever is meant and not in yet, by the engine, with one’s own words and a link', async () => {
    const group = await addGroup(db, 'Newcomers', people.slice(0, 10));
    const to = { kind: 'group' as const, id: group };
    // Every tenth has no address.
    expect(await countInvited(db, coordinator, to)).toEqual({ invited: 9, withoutAddress: 1, inAlready: 0 });
    expect(await invite(db, coordinator, { to, words: 'See you on Monday.' })).toEqual({
      invited: 9,
      withoutAddress: 1,
      inAlready: 0,
    });
    await linkTo(people[0]!);
    const letter = (await mail.mails()).find((each) => each.to.includes(addressOf(people[0]!)));
    expect(letter?.subject).toBe('You are invited to Test Network');
    expect(letter?.text).toContain('See you on Monday.');
    expect(letter?.html).toContain('See you on Monday.');
    expect(letter?.raw).not.toContain('List-Unsubscribe');
    expect(await accessOfPeople(db, coordinator, [people[0]!, people[9]!, people[12]!])).toMatchObject({
      [people[0]!]: { state: 'invited', failed: null },
      [people[9]!]: { state: 'no address' },
      [people[12]!]: { state: 'not invited' },
    });
    await expect(invite(db, member, { to, words: '' })).rejects.toMatchObject({ status: 403 });
  });

  it('lets in once, with a password that is then the one, and looking at it uses nothing up', async () => {
    const token = await linkTo(people[1]!);
    const letter = await open(token);
    await open(token);
    await expect(answerLetter(db, letter, { password: 'password1234', zone: null })).rejects.toMatchObject({
      status: 422,
      errors: [{ field: 'password' }],
    });
    const session = sessionIn(await answerLetter(db, letter, { password: GOOD, zone: 'Asia/Kathmandu' }));
    expect(await readSession(db, session)).toMatchObject({ zone: 'Asia/Kathmandu' });
    expect(await openLetter(db, SECRET, token)).toEqual({ state: 'used' });
    await expect(answerLetter(db, letter, { password: GOOD, zone: null })).rejects.toMatchObject({
      status: 409,
    });
    expect(
      sessionIn(await signIn(db, limit, { mail: addressOf(people[1]!), password: GOOD }, '10.1.0.1')),
    ).toMatch(/./);
    // Somebody who is in is not invited again.
    expect(
      await invite(db, coordinator, { to: { kind: 'people', ids: [people[1]!] }, words: '' }),
    ).toMatchObject({ invited: 0, inAlready: 1 });
  });

  it('is used once however many press at once', async () => {
    const letter = await open(await linkTo(people[2]!));
    const pressed = await Promise.allSettled(
      Array.from({ length: 12 }, () => answerLetter(db, letter, { password: null, zone: null })),
    );
    expect(pressed.filter((each) => each.status === 'fulfilled')).toHaveLength(1);
    expect(await countOf(db, 'FROM sessions WHERE person_id = ?', [people[2]!])).toBe(1);
  });

  it('is withdrawn by a later one, by whoever sent it, and by leaving', async () => {
    const first = await linkTo(people[3]!);
    await invite(db, coordinator, { to: { kind: 'people', ids: [people[3]!] }, words: 'Once more.' });
    expect(await openLetter(db, SECRET, first)).toEqual({ state: 'withdrawn' });
    const second = await linkTo(people[3]!);
    await withdrawInvitation(db, coordinator, people[3]!);
    expect(await openLetter(db, SECRET, second)).toEqual({ state: 'withdrawn' });
    await expect(withdrawInvitation(db, coordinator, people[3]!)).rejects.toMatchObject({ status: 409 });
    const among = [people[3]!, people[4]!];
    await invite(db, coordinator, { to: { kind: 'people', ids: among }, words: '' });
    const third = await linkTo(people[3]!);
    await expect(withdrawInvitations(db, { ...coordinator, role: 'editor' }, among)).rejects.toMatchObject({
      status: 403,
    });
    expect(await withdrawInvitations(db, coordinator, among)).toBe(2);
    expect(await withdrawInvitations(db, coordinator, among)).toBe(0);
    expect(await openLetter(db, SECRET, third)).toEqual({ state: 'withdrawn' });
    await invite(db, coordinator, { to: { kind: 'people', ids: [people[4]!] }, words: '' });
    const other = await linkTo(people[4]!);
    await changeStanding(db, coordinator, people[4]!, true);
    expect(await openLetter(db, SECRET, other)).toEqual({ state: 'gone' });
    // Coming back does not bring the link back.
    await changeStanding(db, coordinator, people[4]!, false);
    expect(await openLetter(db, SECRET, other)).toEqual({ state: 'withdrawn' });
  });

  it('to a group whose rule cannot be read is refused in words, and nobody is invited', async () => {
    const group = await addGroup(db, 'Unreadable', { kind: 'everyone' });
    await db('groups')
      .where({ id: group })
      .update({ rule: JSON.stringify({ kind: 'of another time' }) });
    const before = await countOf(db, 'FROM access_letters', []);
    for (const asked of [
      () => countInvited(db, coordinator, { kind: 'group', id: group }),
      () => invite(db, coordinator, { to: { kind: 'group', id: group }, words: '' }),
    ])
      await expect(asked()).rejects.toMatchObject({ status: 409 });
    expect(await countOf(db, 'FROM access_letters', [])).toBe(before);
  });

  it('is nothing to whoever alters the link, and too old after three weeks', async () => {
    const id = await latest(people[5]!);
    const token = accessToken(SECRET, id);
    expect(readAccessToken(SECRET, token)).toBe(id);
    expect(readAccessToken('another secret, also long enough', token)).toBeNull();
    const other = accessToken(SECRET, id + 1);
    expect(readAccessToken(SECRET, `${token.split('.')[0]}.${other.split('.')[1]}`)).toBeNull();
    for (const wrong of ['', '.', 'x', `${token}x`, `${token}.x`, token.toUpperCase()])
      expect(readAccessToken(SECRET, wrong), wrong).toBeNull();
    await db('access_letters')
      .where({ id })
      .update({ expires_at: db.raw('NOW(3) - INTERVAL 1 SECOND') });
    expect(await openLetter(db, SECRET, token)).toEqual({ state: 'expired' });
    expect(await accessOfPeople(db, coordinator, [people[5]!])).toMatchObject({
      [people[5]!]: { state: 'expired' },
    });
  });

  it('that the mail server refuses is told of, with the reason', async () => {
    await mail.mood('refusing');
    await invite(db, coordinator, { to: { kind: 'people', ids: [people[13]!] }, words: '' });
    const failed = await until(async () => {
      const access = (await accessOfPeople(db, coordinator, [people[13]!]))[people[13]!];
      return access?.state === 'invited' && access.failed !== null;
    }, 15_000);
    await mail.mood('well');
    expect(failed).toBe(true);
  });
});

describe('coming in by mail', () => {
  it('answers an address nobody has as one that somebody has, and sends only to that', async () => {
    const before = await countOf(db, 'FROM access_letters', []);
    await askForLetter(db, limit, 'reset', 'nobody@test.example', '10.2.0.1');
    expect(await countOf(db, 'FROM access_letters', [])).toBe(before);
    await askForLetter(db, limit, 'sign-in', addressOf(people[6]!).toUpperCase(), '10.2.0.1');
    const letter = await open(await linkTo(people[6]!));
    const session = sessionIn(await answerLetter(db, letter, { password: null, zone: null }));
    expect(await readSession(db, session)).toMatchObject({ actor: { id: people[6]! } });
  });

  it('sends no more than three in a quarter of an hour, and counts each attempt for its place', async () => {
    const ask = (): Promise<void> => askForLetter(db, limit, 'reset', addressOf(people[7]!), '10.2.0.2');
    for (let i = 0; i < 5; i++) await ask();
    expect(
      await countOf(db, "FROM access_letters WHERE person_id = ? AND kind = 'reset'", [people[7]!]),
    ).toBe(3);
    const more = await Promise.allSettled(Array.from({ length: 12 }, ask));
    expect(more.filter((each) => each.status === 'rejected').length).toBeGreaterThanOrEqual(7);
  });

  it('a reset ends every session, needs a password, and a mail tells of it', async () => {
    await askForLetter(db, limit, 'reset', addressOf(people[1]!), '10.2.0.3');
    const before = sessionIn(
      await signIn(db, limit, { mail: addressOf(people[1]!), password: GOOD }, '10.2.0.3'),
    );
    const letter = await open(await linkTo(people[1]!));
    await expect(answerLetter(db, letter, { password: null, zone: null })).rejects.toMatchObject({
      status: 422,
    });
    const session = sessionIn(
      await answerLetter(db, letter, { password: 'nine slow ferries at dusk', zone: null }),
    );
    expect(await readSession(db, before)).toBeUndefined();
    expect(await readSession(db, session)).toBeDefined();
    await expect(
      signIn(db, limit, { mail: addressOf(people[1]!), password: GOOD }, '10.2.0.3'),
    ).rejects.toMatchObject({ status: 401 });
    const told = await until(
      async () =>
        (await mail.mails()).some((each) => each.subject === 'Your account at Test Network was changed'),
      15_000,
    );
    expect(told).toBe(true);
  });

  it('changing a password takes the one in use, and signs out everywhere else', async () => {
    const place = '10.2.0.4';
    const address = addressOf(people[1]!);
    const here = await readSession(
      db,
      sessionIn(await signIn(db, limit, { mail: address, password: 'nine slow ferries at dusk' }, place)),
    );
    const elsewhere = sessionIn(
      await signIn(db, limit, { mail: address, password: 'nine slow ferries at dusk' }, place),
    );
    await expect(
      changePassword(db, limit, here!, { old: 'another', password: GOOD }, place),
    ).rejects.toMatchObject({ errors: [{ field: 'old' }] });
    await changePassword(db, limit, here!, { old: 'nine slow ferries at dusk', password: GOOD }, place);
    expect(await readSession(db, elsewhere)).toBeUndefined();
    expect(await countOf(db, 'FROM sessions WHERE token_hash = ?', [here!.hash])).toBe(1);
  });
});

it('an engine that dies with letters in hand leaves them to another', async () => {
  await engine.stop();
  await invite(db, coordinator, { to: { kind: 'people', ids: [people[14]!] }, words: '' });
  await db('access_letters')
    .where({ person_id: people[14]! })
    .update({ state: 'sending', claim: 'dead', try_at: db.raw('NOW(3) + INTERVAL 1 SECOND') });
  engine = await startEngine(db, mail.url);
  await linkTo(people[14]!);
});

it('length counts and what is known of a person does not', () => {
  const refused = (password: string): boolean => {
    try {
      requireStrongPassword(password, [
        'Wren Ashdown',
        'wren@thistledown.example',
        'Thistledown Seed Network',
      ]);
      return false;
    } catch {
      return true;
    }
  };
  for (const bad of [
    'short',
    'aaaaaaaaaaaaaaaa',
    'password1234',
    'qwertyuiop12',
    'wrenashdown1',
    'Thistledown12',
  ])
    expect(refused(bad), bad).toBe(true);
  for (const good of [
    GOOD,
    'nine small stations',
    'a row of words',
    'ひつじ雲のむこうの灯台'.padEnd(12, '。'),
  ])
    expect(refused(good), good).toBe(false);
  // Of a long one only the beginning is measured.
  expect(refused('many different hats '.repeat(10))).toBe(false);
});
