import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, afterEach, beforeAll, beforeEach, expect, it } from 'vitest';
import { freePort } from '../../scripts/house/ports.ts';
import { until as untilWithin } from '../../scripts/house/processes.ts';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { bundlingFor, BUNDLINGS, type Bundling } from '../../src/core/bundling/bundling.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import {
  bundling,
  chooseBundling,
  chooseBundlingForAll,
  chooseBundlingForGroup,
} from '../../src/server/bundling/service.ts';
import { bundlingOfAll, bundlingSql } from '../../src/server/bundling/store.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import { LEFT_MS } from '../../src/server/database/claims.ts';
import { claimMail, type ClaimedMail } from '../../src/server/engine/mailStore.ts';
import { ms } from '../../src/server/database/instant.ts';
import { audienceContext } from '../../src/server/groups/directory.ts';
import { openLink } from '../../src/server/links/service.ts';
import { connectDevice } from '../../src/server/notices/service.ts';
import { vapidKeys } from '../../src/server/push/keys.ts';
import { practiceDevice } from '../../src/server/push/practice.ts';
import { pushTransport } from '../../src/server/push/transport.ts';
import { rehearse } from '../../src/server/rehearsal/service.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import { sendPage } from '../../src/server/sends/page.ts';
import { withdraw } from '../../src/server/sends/withdrawing.ts';
import type { PushedMessage } from '../../src/standins/push/message.ts';
import { startPushStandIn } from '../../src/standins/push/server.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  addPeople,
  content,
  coordinator,
  countOf,
  freshDatabase,
  mailHouse,
  plan,
  reaches,
  SECRET,
  sendNow,
  startEngine,
  toGroups,
  type MailHouse,
} from './world.ts';

let db: Database;
let mail: MailHouse;
let people: number[];
let group: number;
let pushes: { stop: () => Promise<void> };
let devices: string;
const engines: { stop: () => Promise<void> }[] = [];
const until = (holds: () => Promise<boolean>): Promise<boolean> => untilWithin(holds, 15_000);
const member = (id: number): Actor => ({ id, role: 'member', moderates: new Set(), mayReach: new Set() });

beforeAll(async () => {
  ({ db } = await freshDatabase('bundling'));
  people = await addPeople(db, 8, 1);
  await db('people').whereIn('id', people).update({ quiet_from: '00:00', quiet_to: '00:00' });
  group = await addGroup(db, 'Eight', people);
  const port = await freePort();
  devices = `http://localhost:${port}`;
  pushes = await startPushStandIn(port);
});
beforeEach(async () => {
  mail = await mailHouse();
  await db('people').update({ bundling: null });
  await db('groups').update({ bundling: null });
  await chooseBundlingForAll(db, coordinator, 'as it comes');
  const push = pushTransport(vapidKeys(SECRET), 'mailto:desk@test.example', devices);
  engines.push(await startEngine(db, mail.url, { push }));
});
afterEach(async () => {
  await Promise.all(engines.splice(0).map((each) => each.stop()));
  await mail.stop();
});
afterAll(async () => {
  await pushes.stop();
  await db.destroy();
});

const waiting = (person: number): Promise<number> =>
  countOf(db, "FROM deliveries WHERE person_id = ? AND state = 'waiting' AND bundle_at > NOW(3)", [person]);
/** Lets the hour come that somebody's routine mail and push messages wait for. */
async function hourComes(): Promise<void> {
  await db.raw(
    "UPDATE deliveries SET try_at = NOW(3), due_at = NOW(3), bundle_at = '2026-01-01' WHERE state = 'waiting' AND bundle_at IS NOT NULL",
  );
  await db.raw("UPDATE notices SET push_try_at = NOW(3) WHERE push_state = 'bundled'");
}
const mailsTo = async (person: number) => {
  const to = (await rows<{ mail: string }>(db, 'SELECT mail FROM people WHERE id = ?', [person]))[0]?.mail;
  return (await mail.mails()).filter((each) => each.to === to);
};

it('brings routine matter in one mail, each part with its own button and links, and urgent matter at once', async () => {
  const [one, two] = people as [number, number];
  await chooseBundling(db, member(one), 'hourly');
  const audience = toGroups([group]);
  const rota = await sendNow(db, { audience }, { title: 'Rota' });
  const asks = await sendNow(db, { audience, ask: acknowledgement() }, { title: 'New rule' });
  const urgent = await sendNow(db, { audience }, { title: 'Fire drill', importance: 'urgent' });
  await reaches(db, urgent, 'sent');
  expect(await until(async () => (await waiting(one)) === 2)).toBe(true);
  expect(await until(async () => (await mailsTo(two)).length === 3)).toBe(true);
  expect((await mailsTo(one)).map((each) => each.subject)).toEqual(['Fire drill']);
  // In the inbox it stands already.
  expect(
    await countOf(
      db,
      "FROM deliveries WHERE person_id = ? AND method = 'inbox' AND state = 'delivered' AND occurrence_id IN (?, ?)",
      [one, rota, asks],
    ),
  ).toBe(2);

  await hourComes();
  await reaches(db, rota, 'sent');
  await reaches(db, asks, 'sent');
  const got = await mailsTo(one);
  expect(got).toHaveLength(2);
  const bundle = got.find((each) => each.subject !== 'Fire drill')!;
  expect(bundle.subject).toBe('2 announcements: Rota · New rule');
  expect(bundle.html).toMatch(/<ol[^]*Rota[^]*New rule[^]*asks for an answer[^]*<\/ol>/);
  expect(bundle.html.match(/<h1/g)).toHaveLength(1);
  expect(bundle.html.match(/<h2/g)?.length).toBeGreaterThanOrEqual(2);
  expect(bundle.text).toContain(`http://bell.test/for-me/${rota}`);
  expect(bundle.text).toContain(`http://bell.test/for-me/${asks}`);
  expect(bundle.text).toMatch(/m\/unsubscribe\/u-/);
  const link = /m\/acknowledge\/([\w.-]+)/.exec(bundle.text)?.[1];
  expect(await openLink(db, SECRET, link!, 'acknowledge')).toMatchObject({
    claim: { occurrenceId: asks, personId: one },
  });
  expect(
    await countOf(db, "FROM deliveries WHERE person_id = ? AND method = 'mail' AND state = 'delivered'", [
      one,
    ]),
  ).toBe(3);
});

it('is one mail even when a batch or a failure comes between, and what alone is left is its own letter', async () => {
  const [one] = people as [number];
  const alone = await addGroup(db, 'One alone', [one]);
  await chooseBundling(db, member(one), 'hourly');
  const occurrences: number[] = [];
  for (const title of ['First', 'Second', 'Third'])
    occurrences.push(await sendNow(db, { audience: toGroups([alone]) }, { title }));
  expect(await until(async () => (await waiting(one)) === 3)).toBe(true);
  await withdraw(db, coordinator, occurrences[1]!, { note: 'It was wrong.' });
  await mail.mood('busy');
  await hourComes();
  expect(
    await until(
      async () =>
        (await countOf(db, "FROM deliveries WHERE person_id = ? AND state = 'waiting' AND attempts > 0", [
          one,
        ])) === 2,
    ),
  ).toBe(true);
  await mail.mood('well');
  await db.raw("UPDATE deliveries SET try_at = NOW(3) WHERE state = 'waiting' AND occurrence_id = ?", [
    occurrences[2]!,
  ]);
  await reaches(db, occurrences[0]!, 'sent');
  await reaches(db, occurrences[2]!, 'sent');
  expect((await mailsTo(one)).map((each) => each.subject)).toEqual(['2 announcements: First · Third']);

  const last = await sendNow(db, { audience: toGroups([alone]) }, { title: 'Lone' });
  expect(await until(async () => (await waiting(one)) === 1)).toBe(true);
  await hourComes();
  await reaches(db, last, 'sent');
  expect((await mailsTo(one)).map((each) => each.subject)).toContain('Lone');
});

it('is one mail for each, however many engines hand over at once', async () => {
  const push = pushTransport(vapidKeys(SECRET), 'mailto:desk@test.example', devices);
  for (let i = 0; i < 3; i++) engines.push(await startEngine(db, mail.url, { push }));
  await chooseBundlingForAll(db, coordinator, 'hourly');
  const many = await addPeople(db, 150, 1);
  await db('people').whereIn('id', many).update({ quiet_from: '00:00', quiet_to: '00:00' });
  const all = await addGroup(db, 'Many', many);
  const occurrences: number[] = [];
  for (const title of ['One', 'Two', 'Three'])
    occurrences.push(await sendNow(db, { audience: toGroups([all]) }, { title }));
  const mails = await countOf(db, 'FROM people WHERE id >= ? AND mail IS NOT NULL', [many[0]!]);
  expect(
    await until(
      async () =>
        (await countOf(db, "FROM deliveries WHERE state = 'waiting' AND bundle_at > NOW(3)")) === 3 * mails,
    ),
  ).toBe(true);
  await hourComes();
  for (const occurrence of occurrences) await reaches(db, occurrence, 'sent');
  const receipts = await mail.receipts();
  expect(receipts).toHaveLength(mails);
  expect(new Set(receipts.map((each) => each.to)).size).toBe(mails);
});

it('is claimed whole, however many engines claim at the same moment', async () => {
  await Promise.all(engines.splice(0).map((each) => each.stop()));
  await chooseBundlingForAll(db, coordinator, 'hourly');
  const many = await addPeople(db, 400, 1);
  await db('people').whereIn('id', many).update({ quiet_from: '00:00', quiet_to: '00:00' });
  const all = await addGroup(db, 'Many at once', many);
  const titles = ['Four', 'Five', 'Six'];
  for (const title of titles)
    await expandNow(db, await sendNow(db, { audience: toGroups([all]) }, { title }));
  for (let round = 0; round < 3; round++) {
    await hourComes();
    const claims = await Promise.all(
      Array.from({ length: 6 }, async (_, at) => {
        const batches: ClaimedMail[][] = [];
        for (;;) {
          const batch = await claimMail(db, { engine: `${round} ${at}`, seconds: 60 }, 20);
          if (batch.length > 0) batches.push(batch);
          else if ((await countOf(db, "FROM deliveries WHERE state = 'waiting' AND method = 'mail'")) === 0)
            return batches;
        }
      }),
    );
    const parts = claims.flat().flatMap((batch) => {
      const ofPeople = new Map<number, number>();
      for (const { personId } of batch) ofPeople.set(personId, (ofPeople.get(personId) ?? 0) + 1);
      return [...ofPeople];
    });
    expect(parts.filter(([, of]) => of !== titles.length)).toEqual([]);
    expect(new Set(parts.map(([person]) => person)).size).toBe(parts.length);
    expect(parts.length).toBeGreaterThan(300);
    await db('deliveries')
      .where({ state: 'sending' })
      .update({ state: 'waiting', claimed_by: null, went_at: null });
  }
  await db('deliveries').where({ state: 'waiting' }).update({ state: 'called off', try_at: null });
});

it('is never claimed in parts: what an engine has begun to claim is left to it', async () => {
  await Promise.all(engines.splice(0).map((each) => each.stop()));
  const [one] = people as [number];
  const alone = await addGroup(db, 'One in parts', [one]);
  await chooseBundling(db, member(one), 'hourly');
  const occurrences: number[] = [];
  for (const title of ['Left', 'Right']) {
    const occurrence = await sendNow(db, { audience: toGroups([alone]) }, { title });
    await expandNow(db, occurrence);
    occurrences.push(occurrence);
  }
  await hourComes();
  const claimed = async (): Promise<number[]> =>
    (await claimMail(db, { engine: 'second', seconds: 60 }, 100))
      .filter((row) => row.personId === one)
      .map((row) => row.occurrenceId);
  const first = db('deliveries').where({ occurrence_id: occurrences[0]!, person_id: one, method: 'mail' });
  await first
    .clone()
    .update({ state: 'sending', claimed_by: 'first', try_at: db.raw('NOW(3) + INTERVAL 1 MINUTE') });
  expect(await claimed()).toEqual([]);
  // What an engine that died had claimed together goes together again, once it is certain that it died.
  const both = db('deliveries')
    .where({ person_id: one, method: 'mail' })
    .whereIn('occurrence_id', occurrences);
  await both
    .clone()
    .update({ state: 'sending', claimed_by: 'dead', try_at: db.raw('NOW(3) - INTERVAL 1 SECOND') });
  expect(await claimed()).toEqual([]);
  await wait(LEFT_MS + 1_000);
  expect((await claimed()).sort()).toEqual(occurrences);
  await both.clone().update({ state: 'waiting', claimed_by: null, try_at: db.raw('NOW(3)') });
  await first.clone().update({ state: 'failed', try_at: null });
  expect(await claimed()).toEqual([occurrences[1]]);
});

it('is one push message, too', async () => {
  const [, , three] = people as [number, number, number];
  const alone = await addGroup(db, 'Three alone', [three]);
  await connectDevice(db, member(three), await practiceDevice(devices, 'p three'), devices);
  await chooseBundling(db, member(three), 'hourly');
  for (const title of ['Soup', 'Bread']) await sendNow(db, { audience: toGroups([alone]) }, { title });
  const urgent = await sendNow(db, { audience: toGroups([alone]) }, { title: 'Smoke', importance: 'urgent' });
  await reaches(db, urgent, 'sent');
  const pushed = async () =>
    ((await (await fetch(`${devices}/api/messages`)).json()) as PushedMessage[])
      .filter((message) => message.label === 'p three')
      .map((message) => JSON.parse(message.text) as { title: string; text: string });
  expect(await until(async () => (await pushed()).length === 1)).toBe(true);
  expect(
    await until(async () => (await countOf(db, "FROM notices WHERE push_state = 'bundled'")) === 2),
  ).toBe(true);
  await hourComes();
  expect(await until(async () => (await pushed()).length === 2)).toBe(true);
  expect((await pushed()).map(({ title }) => title).sort()).toEqual(['2 announcements for you', 'Smoke']);
  expect(
    (await pushed())
      .find(({ title }) => title.startsWith('2'))
      ?.text.split(' · ')
      .sort(),
  ).toEqual(['Bread', 'Soup']);
});

it('goes by one’s own choice, else by the groups one is in, else by everybody’s, as the core says', async () => {
  const [one, two, three, four] = people as [number, number, number, number];
  const a = await addGroup(db, 'A', [one, two]);
  const b = await addGroup(db, 'B', [two, three]);
  await chooseBundlingForGroup(db, coordinator, a, 'daily');
  await chooseBundlingForGroup(db, coordinator, b, 'three times');
  await chooseBundlingForAll(db, coordinator, 'twice');
  await chooseBundling(db, member(three), 'as it comes');
  const how = bundlingSql(await bundlingOfAll(db, await audienceContext(db)));
  const found = await rows<{ id: number; how: Bundling; own: Bundling | null }>(
    db,
    `SELECT p.id, ${how.sql} AS how, p.bundling AS own FROM people p WHERE p.id IN (?, ?, ?, ?) ORDER BY p.id`,
    [...how.bindings, one, two, three, four],
  );
  const groups: Record<number, Bundling[]> = {
    [one]: ['daily'],
    [two]: ['daily', 'three times'],
    [three]: ['three times'],
    [four]: [],
  };
  expect(found.map((row) => row.how)).toEqual(
    found.map((row) => bundlingFor({ own: row.own, groups: groups[row.id] ?? [], ofAll: 'twice' })),
  );
  expect(found.map((row) => row.how)).toEqual(['daily', 'three times', 'as it comes', 'twice']);
  expect(await bundling(db, member(three))).toEqual({
    own: 'as it comes',
    otherwise: 'three times',
    ofAll: 'twice',
  });
  for (const each of BUNDLINGS) await expect(chooseBundlingForAll(db, member(one), each)).rejects.toThrow();
});

it('is told by a rehearsal: for whom it waits, with what, and the load falls', async () => {
  const nowMs = await databaseNow(db);
  const day = wallAt(nowMs + 9 * 86_400_000, 'Europe/London').slice(0, 10);
  const at = (time: string) => ({ kind: 'at' as const, wall: `${day}T${time}`, zone: 'Europe/London' });
  await db('people').whereIn('id', people).update({ zone: 'Europe/London' });
  for (const id of people.slice(0, 3)) await chooseBundling(db, member(id), 'daily');
  const audience = toGroups([group]);
  const other = await insertAnnouncement(
    db,
    coordinator.id,
    content({ title: 'At ten' }),
    plan({ audience, timing: at('10:00') }),
    'draft',
  );
  const { occurrenceId } = await confirmSend(db, coordinator, other, { revision: 1 }, 'bundling-key-1');
  const draft = await insertAnnouncement(
    db,
    coordinator.id,
    content({ title: 'At eleven' }),
    plan({ audience, timing: at('11:00') }),
    'draft',
  );
  const session = { actor: coordinator, zone: 'Europe/London' };
  const [inPeace] = people as [number];
  await db('people').where('id', inPeace).update({ quiet_from: '15:00', quiet_to: '17:30' });
  const found = await rehearse(db, session, draft, 3, { links: false, publicUrl: 'http://localhost' });
  const london = (ms: number | undefined) => wallAt(ms ?? 0, 'Europe/London');
  expect(found.bundled?.people).toBe(3);
  expect(london(found.bundled?.firstMs)).toBe(`${day}T16:00`);
  // For one of them four o’clock lies in their quiet hours: it goes when these end.
  expect(london(found.bundled?.lastMs)).toBe(`${day}T17:30`);
  expect(found.bundled?.withOthers).toEqual([{ occurrenceId, title: 'At ten', people: 3 }]);
  expect(found.load).toEqual([
    { things: 2, people: 5 },
    { things: 1, people: 3 },
  ]);
  // And the engine does as it was foretold.
  const sent = await confirmSend(db, coordinator, draft, { revision: 1 }, 'bundling-key-2');
  await expandNow(db, sent.occurrenceId);
  const waits = await rows<{ personId: number; atMs: number }>(
    db,
    `SELECT person_id AS personId, ${ms('bundle_at')} AS atMs FROM deliveries
     WHERE occurrence_id = ? AND method = 'mail' AND bundle_at IS NOT NULL ORDER BY person_id`,
    [sent.occurrenceId],
  );
  expect(waits.map(({ personId, atMs }) => [personId, london(atMs)])).toEqual(
    people.slice(0, 3).map((id) => [id, `${day}T${id === inPeace ? '17:30' : '16:00'}`]),
  );
  const { gathered } = await sendPage(db, coordinator, sent.occurrenceId);
  expect([gathered?.people, london(gathered?.firstMs), london(gathered?.lastMs)]).toEqual([
    3,
    `${day}T16:00`,
    `${day}T17:30`,
  ]);
  await db('people').where('id', inPeace).update({ quiet_from: '00:00', quiet_to: '00:00' });
});
