import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { listRoll } from '../../src/server/asks/service.ts';
import { followLink, openLink } from '../../src/server/links/service.ts';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freePort } from '../../scripts/house/ports.ts';
import { until } from '../../scripts/house/processes.ts';
import { DEFAULT_CHOICES, type NoticeKind } from '../../src/core/notices/notice.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import type { Engine } from '../../src/server/engine/engine.ts';
import { openNoticesLink } from '../../src/server/links/service.ts';
import { signLink } from '../../src/server/links/signed.ts';
import {
  chooseNotices,
  connectDevice,
  listNotices,
  noticeSettings,
  stopNoticeMail,
} from '../../src/server/notices/service.ts';
import { notify, idList } from '../../src/server/notices/store.ts';
import { isPublicAddress } from '../../src/server/outside/address.ts';
import { vapidKeys } from '../../src/server/push/keys.ts';
import { practiceDevice } from '../../src/server/push/practice.ts';
import { outcomeOf, pushTransport } from '../../src/server/push/transport.ts';
import { sendTest } from '../../src/server/sends/service.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { startPushStandIn } from '../../src/standins/push/server.ts';
import type { PushedMessage } from '../../src/standins/push/message.ts';
import {
  addPeople,
  content,
  coordinator,
  countOf,
  freshDatabase,
  mailHouse,
  plan,
  SECRET,
  sendNow,
  startEngine,
  type MailHouse,
} from './world.ts';

let db: Database;
let people: number[];
let mail: MailHouse;
let engine: Engine;
let standIn: { stop: () => Promise<void> };
let devices: string;
const actor = (id: number): Actor => ({ id, role: 'member', moderates: new Set(), mayReach: new Set() });

beforeAll(async () => {
  ({ db } = await freshDatabase('notices'));
  people = await addPeople(db, 20, 1);
  mail = await mailHouse();
  const port = await freePort();
  devices = `http://localhost:${port}`;
  standIn = await startPushStandIn(port);
  engine = await startEngine(db, mail.url, {
    push: pushTransport(vapidKeys(SECRET), 'mailto:desk@test.example', devices),
  });
});
afterAll(async () => {
  await engine.stop();
  await mail.stop();
  await standIn.stop();
  await db.destroy();
});

const mood = (to: string): Promise<Response> =>
  fetch(`${devices}/mood/${to}`, { method: 'POST', redirect: 'manual' });
const pushed = async (to: string): Promise<Record<string, unknown>[]> =>
  ((await (await fetch(`${devices}/api/messages`)).json()) as PushedMessage[])
    .filter((message) => message.label === to)
    .map((message) => JSON.parse(message.text) as Record<string, unknown>);
const connect = async (id: number): Promise<void> =>
  connectDevice(db, actor(id), await practiceDevice(devices, `p${id}`), devices);
let about = 0;
const say = (id: number, kind: NoticeKind = 'mention', title = `Notice ${++about}`): Promise<number> =>
  notify(db, idList([id]), {
    kind,
    title,
    text: 'Somebody said something.',
    path: '/posts/1',
    why: 'You are called on by name on News.',
    dedupeKey: `test:${title}`,
  });
const stateOf = async (title: string): Promise<{ mail: string; push: string } | undefined> =>
  (
    await rows<{ mail: string; push: string }>(
      db,
      'SELECT mail_state AS mail, push_state AS push FROM notices WHERE title = ?',
      [title],
    )
  )[0];
const comes = async (title: string, wanted: { mail?: string; push?: string }): Promise<void> => {
  const there = async (): Promise<boolean> => {
    const state = await stateOf(title);
    return Object.entries(wanted).every(([method, value]) => state?.[method as 'mail' | 'push'] === value);
  };
  if (!(await until(there, 15_000))) throw new Error(`${title} is ${JSON.stringify(await stateOf(title))}`);
};
const choose = (
  id: number,
  kind: NoticeKind,
  part: Partial<(typeof DEFAULT_CHOICES)['reply']>,
  digestAt = '17:00',
) => chooseNotices(db, actor(id), { digestAt, choices: { [kind]: { ...DEFAULT_CHOICES[kind], ...part } } });

describe('being told', () => {
  it('goes by inbox, mail and push as chosen, once, and each says why it came and how to change that', async () => {
    const id = people[0]!;
    await connect(id);
    await say(id, 'mention', 'Come and look');
    expect(await say(id, 'mention', 'Come and look')).toBeLessThan(2);
    await comes('Come and look', { mail: 'sent', push: 'sent' });
    expect(await countOf(db, "FROM notices WHERE title = 'Come and look'")).toBe(1);
    const [letter, ...more] = (await mail.mails()).filter((each) => each.subject === 'Come and look');
    expect(more).toEqual([]);
    expect(letter!.text).toContain('You are called on by name on News.');
    expect(letter!.text).toContain('http://bell.test/settings#notices');
    expect(letter!.raw).toMatch(/List-Unsubscribe-Post: List-Unsubscribe=One-Click/);
    const messages = (await pushed(`p${id}`)).filter((each) => each.title === 'Come and look');
    expect(messages).toMatchObject([{ path: '/posts/1', why: 'You are called on by name on News.' }]);
    expect((await listNotices(db, id, null)).notices[0]).toMatchObject({
      title: 'Come and look',
      read: false,
    });

    await choose(id, 'mention', { inbox: false, mail: 'no', push: 'no' });
    await say(id, 'mention', 'Not wanted');
    expect(await stateOf('Not wanted')).toBeUndefined();
  });

  it('waits for the end of quiet hours, except in the inbox', async () => {
    const id = people[1]!;
    const now = wallAt(Date.now(), 'Europe/London').slice(11);
    const later = wallAt(Date.now() + 3_600_000, 'Europe/London').slice(11);
    await db('people').where({ id }).update({ quiet_from: now, quiet_to: later });
    await say(id, 'mention', 'Tomorrow will do');
    await new Promise((resolve) => setTimeout(resolve, 1_500));
    expect(await stateOf('Tomorrow will do')).toMatchObject({ mail: 'waiting' });
    const [row] = await rows<{ at: Date }>(
      db,
      "SELECT mail_try_at AS at FROM notices WHERE title = 'Tomorrow will do'",
    );
    expect(row!.at.getTime()).toBeGreaterThan(Date.now() + 50 * 60_000);
    expect((await listNotices(db, id, null)).notices).toHaveLength(1);
  });

  it('gathers in one mail at the hour of the one who is told', async () => {
    const id = people[2]!;
    await db('people').where({ id }).update({ zone: 'Pacific/Auckland' });
    const soon = wallAt(Date.now() + 3_600_000, 'Pacific/Auckland').slice(11);
    await choose(id, 'reply', { mail: 'daily' }, soon);
    await say(id, 'reply', 'First');
    await say(id, 'reply', 'Second');
    await new Promise((resolve) => setTimeout(resolve, 1_000));
    expect(await stateOf('First')).toMatchObject({ mail: 'daily' });
    // Yesterday's: their hour has come since.
    await db('notices')
      .whereIn('title', ['First', 'Second'])
      .update({ at: new Date(Date.now() - 25 * 3_600_000) });
    await until(async () => (await stateOf('Second'))?.mail === 'sent', 40_000);
    const letters = (await mail.mails()).filter(
      (each) => each.subject === '2 things for you since yesterday',
    );
    expect(letters).toHaveLength(1);
    expect(letters[0]!.text).toContain('First');
    expect(letters[0]!.text).toContain('Second');
  }, 60_000);

  it('a mail server that is down loses nothing', async () => {
    await mail.mood('down');
    await say(people[3]!, 'thanks', 'Thanked while down');
    await until(
      async () =>
        (await countOf(db, "FROM notices WHERE title = 'Thanked while down' AND mail_attempts > 0")) > 0,
      10_000,
    );
    await mail.mood('well');
    await comes('Thanked while down', { mail: 'sent' });
  });

  it('is stopped by mail with one press on a signed link, and stays in the inbox', async () => {
    const id = people[4]!;
    const token = signLink(SECRET, { purpose: 'notices', occurrenceId: 0, personId: id }, Date.now());
    const opened = await openNoticesLink(db, SECRET, token);
    expect(opened).toMatchObject({ state: 'good', personId: id });
    expect(await openNoticesLink(db, SECRET, `${token.slice(0, -2)}xx`)).toEqual({ state: 'altered' });
    await stopNoticeMail(db, id);
    await say(id, 'mention', 'Only in the inbox');
    expect(await stateOf('Only in the inbox')).toMatchObject({ mail: 'no' });
    expect((await noticeSettings(db, actor(id))).choices.mention).toMatchObject({ inbox: true, mail: 'no' });
  });
});

describe('push', () => {
  it('is tried again when the service is busy or down, given up when it refuses, and a device that is gone is forgotten', async () => {
    const id = people[5]!;
    await connect(id);
    await mood('busy');
    await say(id, 'mention', 'Busy first');
    await until(
      async () => (await countOf(db, "FROM notices WHERE title = 'Busy first' AND push_attempts > 0")) > 0,
      10_000,
    );
    await comes('Busy first', { push: 'waiting' });
    await mood('well');
    await comes('Busy first', { push: 'sent' });
    await mood('refusing');
    await say(id, 'mention', 'Refused');
    await comes('Refused', { push: 'failed' });
    await mood('well');
    const [device] = await rows<{ endpoint: string }>(
      db,
      'SELECT endpoint FROM devices WHERE person_id = ?',
      [id],
    );
    await fetch(`${devices}/gone/${device!.endpoint.split('/').at(-1)!}`, {
      method: 'POST',
      redirect: 'manual',
    });
    await say(id, 'mention', 'To nobody');
    await comes('To nobody', { push: 'no' });
    expect(await countOf(db, 'FROM devices WHERE person_id = ?', [id])).toBe(0);
  });

  it('an announcement is pushed to those who wish it; an urgent one to every device; a test copy to its author', async () => {
    const [wishes, not] = [people[6]!, people[7]!];
    await connect(wishes);
    await connect(not);
    await choose(not, 'announcement', { push: 'no' });
    const audience = {
      kind: 'any' as const,
      of: [wishes, not, people[8]!].map((id) => ({ kind: 'person' as const, id })),
    };
    await sendNow(db, { audience, mail: false }, { title: 'Routine news' });
    await sendNow(db, { audience, mail: false }, { title: 'Leave the building', importance: 'urgent' });
    const told = async (id: number): Promise<unknown[]> =>
      (await pushed(`p${id}`)).map((each) => each.title).sort();
    await until(async () => (await told(wishes)).length === 2 && (await told(not)).length === 1, 15_000);
    expect(await told(wishes)).toEqual(['Leave the building', 'Routine news']);
    expect(await told(not)).toEqual(['Leave the building']);

    // One press on the push message of something that asks for no more than that acknowledges it; with a statement to
    // agree to it opens the page.
    const asked = await sendNow(
      db,
      { audience, mail: false, ask: acknowledgement() },
      { title: 'One tap', importance: 'urgent' },
    );
    await sendNow(
      db,
      { audience, mail: false, ask: acknowledgement({ statement: 'I agree.' }) },
      { title: 'Two', importance: 'urgent' },
    );
    const answerOf = async (title: string): Promise<unknown> =>
      (await pushed(`p${wishes}`)).find((each) => each.title === title)?.answer;
    await until(
      async () => (await told(wishes)).includes('Two') && (await told(wishes)).includes('One tap'),
      15_000,
    );
    expect(await answerOf('Two')).toBeNull();
    const path = String(await answerOf('One tap'));
    const token = /^\/m\/acknowledge\/([^?]+)\?via=push$/.exec(path)?.[1] ?? '';
    const link = await openLink(db, SECRET, token, 'acknowledge');
    if (link.state !== 'good') throw new Error(`The link is ${link.state}`);
    await followLink(db, link.claim, 'push');
    const { people: roll } = await listRoll(db, coordinator, asked, {
      part: 'answered',
      search: '',
      after: null,
    });
    expect(roll).toEqual([expect.objectContaining({ personId: wishes, via: 'push' })]);

    await connect(coordinator.id);
    await chooseNotices(db, coordinator, {
      digestAt: '17:00',
      choices: { announcement: { inbox: true, mail: 'no', push: 'no' } },
    });
    const draft = await insertAnnouncement(db, coordinator.id, content({ title: 'Try me' }), plan(), 'draft');
    await sendTest(db, coordinator, draft, 'notices-test-copy');
    await until(async () => (await told(coordinator.id)).includes('Test: Try me'), 15_000);
    expect(await told(coordinator.id)).toEqual(['Test: Try me']);
  });

  it('knows the house by one key, and sends to no address inside it', async () => {
    expect(vapidKeys(SECRET)).toEqual(vapidKeys(SECRET));
    expect(vapidKeys(SECRET).publicKey).not.toBe(vapidKeys(`${SECRET}x`).publicKey);
    for (const inside of [
      '127.0.0.1',
      '10.1.2.3',
      '192.168.0.9',
      '169.254.169.254',
      '::1',
      'fd00::1',
      '::ffff:10.0.0.1',
    ])
      expect(isPublicAddress(inside), inside).toBe(false);
    for (const outside of ['93.184.216.34', '2606:2800:220:1::1'])
      expect(isPublicAddress(outside)).toBe(true);
    const keys = { p256dh: 'B'.repeat(87), auth: 'a'.repeat(22) };
    for (const endpoint of [
      'https://127.0.0.1/x',
      'http://push.example/x',
      'https://[::1]/x',
      'https://localhost/x',
    ])
      await expect(
        connectDevice(db, actor(people[9]!), { label: 'L', endpoint, keys }, null),
      ).rejects.toMatchObject({ status: 422 });
    expect(outcomeOf(201, undefined)).toEqual({ kind: 'taken' });
    expect(outcomeOf(404, undefined)).toEqual({ kind: 'gone' });
    expect(outcomeOf(429, '7')).toMatchObject({ kind: 'later', waitMs: 7000 });
    expect(outcomeOf(400, undefined)).toMatchObject({ kind: 'refused' });
  });
});
