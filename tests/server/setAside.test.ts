import { pino } from 'pino';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { until } from '../../scripts/house/processes.ts';
import type { Ask } from '../../src/core/asks/ask.ts';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { storedPlan, readPlan } from '../../src/core/stored.ts';
import { closeAndSettle } from '../../src/server/asks/closing.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { Engine } from '../../src/server/engine/engine.ts';
import { listAside, tryAgain } from '../../src/server/aside/service.ts';
import { giveUp, MOST_ATTEMPTS, setAside } from '../../src/server/aside/store.ts';
import { outsideOnly } from '../../src/server/outside/address.ts';
import { pushTransport } from '../../src/server/push/transport.ts';
import { vapidKeys } from '../../src/server/push/keys.ts';
import { notify, idList } from '../../src/server/notices/store.ts';
import { planAhead } from '../../src/server/sends/planning.ts';
import { takeBack } from '../../src/server/sends/changing.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  addPeople,
  coordinator,
  countOf,
  freshDatabase,
  mailHouse,
  plan,
  reaches,
  SECRET,
  sendNow,
  startEngine,
  stateOf,
  type MailHouse,
} from './world.ts';

let db: Database;
let people: number[];
let mail: MailHouse;
let engine: Engine;

beforeAll(async () => {
  ({ db } = await freshDatabase('set_aside'));
  people = await addPeople(db, 20);
  mail = await mailHouse();
  engine = await startEngine(db, mail.url);
});
afterAll(async () => {
  await engine.stop();
  await mail.stop();
  await db.destroy();
});

describe('a row that fails is that row’s', () => {
  it('a push device whose host cannot be looked up ends nothing: the look-up, the notice and the engine go on', async () => {
    // What the look-up gives where there is no such host.
    const failed = await new Promise<Error | null>((resolve) =>
      outsideOnly('no-such-push-host.invalid', { all: true }, (error) => resolve(error)),
    );
    expect(failed).toBeInstanceOf(Error);
    const device = (personId: number, endpoint: string, p256dh: string) =>
      db('devices').insert({
        person_id: personId,
        label: 'Phone',
        endpoint,
        endpoint_hash: Buffer.alloc(32, personId),
        p256dh,
        auth: 'A'.repeat(22),
      });
    const real = (await import('node:crypto')).createECDH('prime256v1');
    real.generateKeys();
    await device(people[0]!, 'https://no-such-push-host.invalid/x', real.getPublicKey('base64url'));
    await device(people[1]!, 'https://no-such-push-host.invalid/y', 'B'.repeat(87));
    const telling = { kind: 'reply', title: 'Re: Road', text: 'x', path: '/posts/1', why: 'x' } as const;
    await notify(db, idList(people.slice(0, 3)), { ...telling, dedupeKey: 'reply:1' });
    await db.raw(
      "UPDATE notices SET push_state = 'waiting', push_try_at = NOW(3) WHERE person_id IN (?, ?)",
      [people[0]!, people[1]!],
    );
    const of = async (id: number) =>
      (
        await rows<{ state: string; attempts: number }>(
          db,
          'SELECT push_state AS state, push_attempts AS attempts FROM notices WHERE person_id = ?',
          [id],
        )
      )[0]!;
    // The host may be there again later; keys that are none never are, and the device is let go.
    expect(
      await until(
        async () => (await of(people[0]!)).attempts > 0 && (await of(people[0]!)).state === 'waiting',
        20_000,
      ),
    ).toBe(true);
    expect(await until(async () => (await of(people[1]!)).state === 'no', 20_000)).toBe(true);
    expect(await countOf(db, 'FROM devices WHERE person_id = ?', [people[1]!])).toBe(0);
    await db('devices').delete();
    // The engine does everything else meanwhile.
    const send = await sendNow(db, { mail: false });
    await reaches(db, send, 'sent');
  });

  it('a letter that cannot be written waits alone; the rest of its batch goes', async () => {
    const bad = await sendNow(db, { audience: { kind: 'person', id: people[2]! }, mail: true });
    await db.raw(
      'UPDATE announcement_versions v JOIN occurrences o ON o.version_id = v.id SET v.body = ? WHERE o.id = ?',
      ['{"version":1,"sections":[{"id":"s1","heading":5}],"button":null,"event":null}', bad],
    );
    const good = await sendNow(db, { mail: true }, { title: 'The good one' });
    await reaches(db, good, 'sent');
    const [row] = await rows<{ state: string; reason: string }>(
      db,
      "SELECT state, reason FROM deliveries WHERE occurrence_id = ? AND method = 'mail'",
      [bad],
    );
    expect(row).toMatchObject({
      state: 'waiting',
      reason: expect.stringContaining('could not be written') as string,
    });
    await takeBack(db, coordinator, bad);
  });

  it('a plan that cannot be read fails alone, is shown, and can be tried again; the bucket beside it goes', async () => {
    const bad = await sendNow(db, { mail: false });
    await db.raw('UPDATE sends s JOIN occurrences o ON o.send_id = s.id SET s.plan = ? WHERE o.id = ?', [
      '{"version":99,"audience":null}',
      bad,
    ]);
    const good = await sendNow(db, { mail: false });
    await reaches(db, good, 'sent');
    await db.raw('UPDATE buckets SET attempts = 8, lease_until = NULL WHERE occurrence_id = ?', [bad]);
    await reaches(db, bad, 'failed');
    const aside = (await listAside(db, coordinator)).find((each) => each.occurrenceId === bad);
    expect(aside).toMatchObject({
      kind: 'sending',
      tryMs: null,
      reason: expect.stringContaining('cannot be read') as string,
    });
    expect(await listAside(db, { ...coordinator, id: 99, role: 'editor' })).toEqual([]);
    await db.raw('UPDATE sends s JOIN occurrences o ON o.send_id = s.id SET s.plan = ? WHERE o.id = ?', [
      storedPlan(plan({ mail: false })),
      bad,
    ]);
    await tryAgain(db, coordinator, 'sending', aside!.subjectId);
    await reaches(db, bad, 'sent');
    expect((await listAside(db, coordinator)).some((each) => each.occurrenceId === bad)).toBe(false);
  });

  it('a group whose rule cannot be read fails what names it, and nothing else', async () => {
    const group = await addGroup(db, 'Broken', { kind: 'role', role: 'member' });
    const named = await sendNow(db, { audience: { kind: 'group', id: group }, mail: false });
    await db('groups').where({ id: group }).update({ rule: '{"kind":"of another day"}' });
    const other = await sendNow(db, { mail: false });
    await reaches(db, other, 'sent');
    await db.raw('UPDATE buckets SET attempts = 8, lease_until = NULL WHERE occurrence_id = ?', [named]);
    await reaches(db, named, 'failed');
    // Sent anyway it would have reached nobody; left out of something, everybody.
    expect(await countOf(db, 'FROM deliveries WHERE occurrence_id = ?', [named])).toBe(0);
    await db('groups').where({ id: group }).delete();
  });

  it('a closing that fails is set aside with growing waits and given up; the others close', async () => {
    const ask: Ask = acknowledgement({ within: 1 });
    const [first, second] = [
      await sendNow(db, { ask, mail: false }),
      await sendNow(db, { ask, mail: false }),
    ];
    await reaches(db, first, 'sent');
    await reaches(db, second, 'sent');
    await engine.stop();
    const [kept] = await rows<{ plan: string }>(
      db,
      'SELECT s.plan FROM sends s JOIN occurrences o ON o.send_id = s.id WHERE o.id = ?',
      [first],
    );
    await db.raw("UPDATE sends s JOIN occurrences o ON o.send_id = s.id SET s.plan = '{}' WHERE o.id = ?", [
      first,
    ]);
    await db.raw(
      'UPDATE asks SET closed_at = NOW(3) - INTERVAL IF(occurrence_id = ?, 2, 1) SECOND, closed_why = ? WHERE occurrence_id IN (?, ?)',
      [first, 'time', first, second],
    );
    const failed: number[] = [];
    await closeAndSettle(db, (_, id) => failed.push(id));
    expect(failed).toEqual([first]);
    expect(await countOf(db, 'FROM asks WHERE occurrence_id = ? AND settled_at IS NOT NULL', [second])).toBe(
      1,
    );
    // It is not looked at again before its time, and after so many attempts not at all.
    await closeAndSettle(db, (_, id) => failed.push(id));
    expect(failed).toHaveLength(1);
    let waits: number[] = [];
    for (let i = 1; i < MOST_ATTEMPTS; i++) {
      const [row] = await rows<{ wait: number }>(
        db,
        "SELECT TIMESTAMPDIFF(SECOND, NOW(3), try_at) AS wait FROM set_aside WHERE kind = 'closing' AND subject_id = ?",
        [first],
      );
      waits = [...waits, row!.wait];
      await db.raw(
        "UPDATE set_aside SET try_at = NOW(3) - INTERVAL 1 SECOND WHERE kind = 'closing' AND subject_id = ?",
        [first],
      );
      await closeAndSettle(db, (_, id) => failed.push(id));
    }
    expect(failed).toHaveLength(MOST_ATTEMPTS);
    expect([...waits].sort((a, b) => a - b)).toEqual(waits);
    const given = (await listAside(db, coordinator)).find((each) => each.kind === 'closing');
    expect(given).toMatchObject({
      kind: 'closing',
      occurrenceId: first,
      attempts: MOST_ATTEMPTS,
      tryMs: null,
    });
    await closeAndSettle(db, (_, id) => failed.push(id));
    expect(failed).toHaveLength(MOST_ATTEMPTS);
    await db.raw('UPDATE sends s JOIN occurrences o ON o.send_id = s.id SET s.plan = ? WHERE o.id = ?', [
      kept!.plan,
      first,
    ]);
    await tryAgain(db, coordinator, 'closing', first);
    await closeAndSettle(db, () => undefined);
    expect(await countOf(db, 'FROM asks WHERE occurrence_id = ? AND settled_at IS NOT NULL', [first])).toBe(
      1,
    );
    engine = await startEngine(db, mail.url);
  });

  it('a recurring send that cannot be planned does not keep the others from being planned', async () => {
    const recurring = (title: string) =>
      sendNow(
        db,
        {
          timing: {
            kind: 'recurring',
            start: '2026-01-01T09:00',
            zone: 'UTC',
            passed: 'not',
            rule: {
              freq: 'daily',
              every: 1,
              weekdays: [],
              monthly: null,
              end: { kind: 'never' },
              except: [],
              added: [],
            },
          },
        },
        { title },
      );
    // An engine that looked in between would have set the bad one aside already.
    await engine.stop();
    const [bad, good] = [await recurring('Bad'), await recurring('Good')];
    const sendOf = async (id: number): Promise<number> =>
      (await rows<{ id: number }>(db, 'SELECT send_id AS id FROM occurrences WHERE id = ?', [id]))[0]!.id;
    const [badSend, goodSend] = [await sendOf(bad), await sendOf(good)];
    await db.raw("UPDATE sends SET plan = JSON_SET(plan, '$.version', 77) WHERE id = ?", [badSend]);
    await db.raw('DELETE b FROM buckets b JOIN occurrences o ON o.id = b.occurrence_id WHERE o.send_id = ?', [
      goodSend,
    ]);
    await db.raw('DELETE FROM occurrences WHERE send_id = ?', [goodSend]);
    await db.raw('UPDATE sends SET planned_until = NULL WHERE id IN (?, ?)', [badSend, goodSend]);
    const failed: number[] = [];
    await planAhead(db, (_, id) => failed.push(id));
    expect(failed).toEqual([badSend]);
    expect(await countOf(db, 'FROM occurrences WHERE send_id = ?', [goodSend])).toBeGreaterThan(15);
    await db.raw("UPDATE sends SET state = 'ended'");
    await db.raw("UPDATE buckets SET state = 'recalled' WHERE state = 'planned'");
    await db('set_aside').delete();
    engine = await startEngine(db, mail.url);
  });
});

it('a stored plan of an earlier shape is upgraded when it is read, and one of a later is refused', () => {
  const now = plan({ mail: false });
  expect(readPlan(storedPlan(now))).toEqual(now);
  const before: Record<string, unknown> = { ...now };
  delete before.contacts;
  expect(readPlan(JSON.stringify(before))).toEqual(now);
  expect(() => readPlan(JSON.stringify({ ...now, version: 2 }))).toThrow(/another version/);
});

it('digests that fail for the moment wait longer each time, together, and are not given up within minutes', async () => {
  await engine.stop();
  await db('notices').delete();
  const telling = { kind: 'reply', title: 'Re: Road', text: 'x', path: '/posts/1', why: 'x' } as const;
  for (const dedupeKey of ['a', 'b']) await notify(db, idList([people[4]!]), { ...telling, dedupeKey });
  await db.raw("UPDATE notices SET mail_state = 'daily', mail_try_at = NULL, at = NOW(3) - INTERVAL 26 HOUR");
  await mail.mood('busy');
  const { NoticeRun } = await import('../../src/server/engine/noticeRun.ts');
  const { mailTransport } = await import('../../src/server/mail/transport.ts');
  const transport = mailTransport(mail.url, 'desk@test.example', 2);
  const run = new NoticeRun(
    db,
    {
      transport,
      push: pushTransport(vapidKeys(SECRET), 'mailto:desk@test.example', null),
      secret: SECRET,
      publicUrl: 'http://bell.test',
      connections: 2,
      nowMs: () => Date.now(),
    },
    6,
  );
  const waits: number[] = [];
  for (let i = 0; i < 6; i++) {
    expect(await run.daily('mail')).toBe(1);
    // Not again before its time, however often it is looked.
    expect(await run.daily('mail')).toBe(0);
    const found = await rows<{ state: string; wait: number }>(
      db,
      'SELECT mail_state AS state, TIMESTAMPDIFF(MICROSECOND, NOW(3), mail_try_at) DIV 1000 AS wait FROM notices',
    );
    expect(found.map((row) => row.state)).toEqual(['daily', 'daily']);
    waits.push(Math.max(...found.map((row) => row.wait)));
    await db.raw('UPDATE notices SET mail_try_at = NOW(3) - INTERVAL 1 SECOND');
  }
  expect(waits.at(-1)!).toBeGreaterThan(waits[0]! * 4);
  await mail.mood('well');
  expect(await run.daily('mail')).toBe(1);
  expect(await countOf(db, "FROM notices WHERE mail_state = 'sent'")).toBe(2);
  transport.close();
  engine = await startEngine(db, mail.url);
});

it('what was taken back goes no more: mail that waits, copies, and what comes back from the wire', async () => {
  await mail.mood('busy');
  const before = (await mail.receipts()).length;
  const id = await sendNow(db, { mail: true });
  await until(
    async () =>
      // Refused for the moment, and waiting for its next turn.
      (await countOf(
        db,
        "FROM deliveries WHERE occurrence_id = ? AND method = 'mail' AND state = 'waiting' AND reason IS NOT NULL",
        [id],
      )) > 0,
    20_000,
  );
  await takeBack(db, coordinator, id);
  await mail.mood('well');
  expect(
    await until(
      async () =>
        (await countOf(
          db,
          "FROM deliveries WHERE occurrence_id = ? AND method = 'mail' AND state <> 'called off'",
          [id],
        )) === 0,
      30_000,
    ),
  ).toBe(true);
  await reaches(db, id, 'sent');
  expect((await mail.receipts()).length).toBe(before);
  await expect(takeBack(db, coordinator, id)).rejects.toMatchObject({ status: 409 });
  expect(await stateOf(db, id)).toBe('sent');
});

it('where all that is left is on the wire, taking back still keeps it from a second try', async () => {
  await engine.stop();
  const id = await sendNow(db, { mail: true });
  await expandNow(db, id);
  await db('deliveries')
    .where({ occurrence_id: id, method: 'mail' })
    .update({ state: 'sending', claimed_by: 'an engine', try_at: db.raw('NOW(3) + INTERVAL 1 HOUR') });
  expect(await takeBack(db, coordinator, id)).toEqual({ announcementId: null });
  // The claim ends without an answer from the mail server; whoever takes the row up calls it off.
  await db('deliveries')
    .where({ occurrence_id: id, method: 'mail' })
    .update({ try_at: db.raw('NOW(3)') });
  const before = (await mail.receipts()).length;
  engine = await startEngine(db, mail.url);
  await reaches(db, id, 'sent');
  expect(
    await countOf(
      db,
      "FROM deliveries WHERE occurrence_id = ? AND method = 'mail' AND state <> 'called off'",
      [id],
    ),
  ).toBe(0);
  expect((await mail.receipts()).length).toBe(before);
});

it('what rested in quiet hours is delivered and told of together, or neither', async () => {
  await engine.stop();
  const person = people[6]!;
  await db('devices').insert({
    person_id: person,
    label: 'x',
    endpoint: 'https://push.example/z',
    endpoint_hash: Buffer.alloc(32, 77),
    p256dh: 'x',
    auth: 'x',
  });
  await db('notice_choices').insert({
    person_id: person,
    kind: 'announcement',
    inbox: false,
    mail: 'no',
    push: 'at once',
  });
  const id = await sendNow(db, { audience: { kind: 'person', id: person }, mail: false });
  await db.raw("UPDATE occurrences SET state = 'going out' WHERE id = ?", [id]);
  await db.raw("UPDATE buckets SET state = 'expanded' WHERE occurrence_id = ?", [id]);
  await db.raw(
    "INSERT INTO deliveries (occurrence_id, person_id, method, state, due_at, try_at) VALUES (?, ?, 'inbox', 'resting', NOW(3), NOW(3))",
    [id, person],
  );
  // An engine that cannot write the notice does not deliver either: the next one does both.
  await db.raw('RENAME TABLE notices TO notices_away');
  let failures = 0;
  const heard = pino(
    { level: 'error' },
    { write: (line: string) => void (failures += line.includes('"rest"') ? 1 : 0) },
  );
  const lame = new Engine(db, heard, new (await import('../../src/server/metrics.ts')).EngineFigures(), {
    transport: { send: () => Promise.resolve(), close: () => undefined },
    push: pushTransport(vapidKeys(SECRET), 'mailto:desk@test.example', null),
    secret: SECRET,
    publicUrl: 'http://bell.test',
    connections: 1,
    bucketLeaseS: 2,
    mailLeaseS: 6,
  });
  await lame.start();
  expect(await until(() => failures > 0, 20_000)).toBe(true);
  expect(await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND state = 'resting'", [id])).toBe(1);
  await lame.stop();
  await db.raw('RENAME TABLE notices_away TO notices');
  engine = await startEngine(db, mail.url);
  expect(
    await until(
      async () =>
        (await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND state = 'delivered'", [id])) === 1,
      20_000,
    ),
  ).toBe(true);
  expect(
    await countOf(db, 'FROM notices WHERE person_id = ? AND about = ?', [person, `announcement:${id}`]),
  ).toBe(1);
});

it('counts attempts of what is set aside, and gives it up in the end', async () => {
  await db('set_aside').delete();
  for (let i = 0; i < MOST_ATTEMPTS; i++) await setAside(db, 'joiners', 5, null, new Error('no'));
  expect(await listAside(db, coordinator)).toMatchObject([
    { kind: 'joiners', attempts: MOST_ATTEMPTS, tryMs: null },
  ]);
  // It leaves the list of what needs somebody once somebody has it tried again, or, of a notice, has put it away.
  await giveUp(db, 'notice', 7, null, 'The push could not be written.');
  expect(await listAside(db, { ...coordinator, id: 2, role: 'editor' })).toEqual([]);
  for (const [kind, id] of [
    ['joiners', 5],
    ['notice', 7],
  ] as const)
    await tryAgain(db, coordinator, kind, id);
  expect(await listAside(db, coordinator)).toEqual([]);
  await db('set_aside').delete();
});
