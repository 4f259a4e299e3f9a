import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { until } from '../../scripts/house/processes.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { readItem } from '../../src/server/inbox/service.ts';
import { retry } from '../../src/server/sends/service.ts';
import { nextBatch } from '../../src/server/engine/store.ts';
import { needsYou } from '../../src/server/sends/runSheet.ts';
import { sendPage } from '../../src/server/sends/page.ts';
import {
  addGroup,
  addPeople,
  coordinator,
  countOf,
  freshDatabase,
  mailHouse,
  reaches,
  sendNow,
  startEngine,
  toGroups,
  type MailHouse,
} from './world.ts';

let db: Database;
let mail: MailHouse;
let people: number[];
const engines: { stop: () => Promise<void> }[] = [];

const engine = async (part = {}): Promise<void> => {
  engines.push(await startEngine(db, mail.url, part));
};
const inbox = (occurrence: number): Promise<number> =>
  countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox' AND state = 'delivered'", [
    occurrence,
  ]);

beforeAll(async () => {
  ({ db } = await freshDatabase('engine'));
  people = await addPeople(db, 40);
});
beforeEach(async () => {
  mail = await mailHouse();
});
afterEach(async () => {
  await Promise.all(engines.splice(0).map((each) => each.stop()));
  await mail.stop();
});
afterAll(() => db.destroy());

describe('batches of an audience', () => {
  it('hold everybody of an audience once, however thinly they are spread among all people', async () => {
    const all = (await rows<{ id: number }>(db, 'SELECT id FROM people ORDER BY id')).map(({ id }) => id);
    for (const [length, picked] of [
      [1, [...all.slice(0, 1), ...all.slice(-1)]],
      [2, all.filter((_, at) => at % 13 === 0)],
      [3, all],
      [5, []],
      [4, all.slice(-1)],
    ] satisfies [number, number[]][]) {
      const marks = picked.map(() => '?').join(', ') || 'NULL';
      const who = { sql: `p.id IN (${marks})`, bindings: picked };
      const found: number[] = [];
      let after = 0;
      for (let next = await nextBatch(db, after, length, who); next;) {
        const { to } = next;
        const held = picked.filter((id) => id > after && id <= to);
        expect(held.length).toBeLessThanOrEqual(length);
        found.push(...held);
        after = to;
        next = next.last ? null : await nextBatch(db, after, length, who, next.width);
      }
      expect(found).toEqual(picked);
    }
  });
});

describe('going out', () => {
  it('reaches each person once by each method, whatever groups they are in, and says why', async () => {
    const a = await addGroup(db, 'A', people.slice(0, 20));
    const b = await addGroup(db, 'B', people.slice(10, 30));
    const out = await addGroup(db, 'Out', people.slice(25, 40));
    await engine();
    const occurrence = await sendNow(db, {
      audience: toGroups([a, b], [out]),
      ask: acknowledgement(),
    });
    await reaches(db, occurrence, 'sent');
    expect(await inbox(occurrence)).toBe(25);
    const receipts = await mail.receipts();
    expect(receipts).toHaveLength(23);
    expect(new Set(receipts.map((each) => each.to)).size).toBe(23);
    expect(await countOf(db, 'FROM roll WHERE occurrence_id = ?', [occurrence])).toBe(25);
    expect((await readItem(db, people[12]!, occurrence)).why).toContain('A and B');
    await expect(readItem(db, people[30]!, occurrence)).rejects.toThrow('no such');
  });

  it('goes to whoever is in the audience then: one who left does not get it, one who joined does', async () => {
    const drivers = await addGroup(db, 'Drivers', { kind: 'occupation', occupation: 'driver' });
    const occurrence = await sendNow(db, { audience: toGroups([drivers]) });
    const expected = await countOf(db, "FROM people WHERE occupation = 'driver' AND standing <> 'left'");
    await db('people').where({ id: people[0]! }).update({ standing: 'left', left_at: new Date() });
    const [joined] = await addPeople(db, 1);
    await engine();
    await reaches(db, occurrence, 'sent');
    expect(await inbox(occurrence)).toBe(expected);
    const got = async (id: number): Promise<number> =>
      countOf(db, 'FROM deliveries WHERE occurrence_id = ? AND person_id = ?', [occurrence, id]);
    expect(await got(people[0]!)).toBe(0);
    expect(await got(joined!)).toBe(2);
  });

  it('writes to its boards, and fails with a reason where nobody is left', async () => {
    const board = await insertBoard(db, {
      name: 'News',
      about: 'News.',
      groupId: null,
      posting: 'moderators',
    });
    const lone = await addGroup(db, 'Lone', [people[3]!]);
    const onBoard = await sendNow(db, { audience: null, boards: [board] });
    const toNobody = await sendNow(db, { audience: toGroups([lone]) });
    await db('group_members').where({ group_id: lone }).delete();
    await engine();
    await reaches(db, onBoard, 'sent');
    expect(await countOf(db, 'FROM posts WHERE board_id = ?', [board])).toBe(1);
    await reaches(db, toNobody, 'failed');
    expect((await sendPage(db, coordinator, toNobody)).row.failure).toContain('Nobody was in the audience');
  });

  it('with two engines at once doubles nothing', async () => {
    await Promise.all([engine(), engine()]);
    const occurrences = await Promise.all(
      Array.from({ length: 12 }, () => sendNow(db, { audience: { kind: 'everyone' } })),
    );
    for (const occurrence of occurrences) await reaches(db, occurrence, 'sent');
    const expected = await countOf(db, "FROM people WHERE standing <> 'left'");
    for (const occurrence of occurrences) expect(await inbox(occurrence)).toBe(expected);
    const receipts = await mail.receipts();
    expect(new Set(receipts.map((each) => each.messageId)).size).toBe(receipts.length);
    expect(receipts).toHaveLength(
      12 * (await countOf(db, "FROM people WHERE standing <> 'left' AND mail IS NOT NULL")),
    );
  });
});

describe('mail', () => {
  it('is a proper letter: both parts, a steady Message-ID, one-click unsubscribing where that may be', async () => {
    const one = await addGroup(db, 'One', [people[1]!]);
    await engine();
    const routine = await sendNow(
      db,
      { audience: toGroups([one]) },
      { title: 'Grüße, <b>世界</b> 🌱', byline: 'from "the" desk' },
    );
    const asking = await sendNow(db, {
      audience: toGroups([one]),
      ask: acknowledgement({ deadline: { wall: '2031-03-30T01:30', zone: 'Europe/London' } }),
    });
    await reaches(db, routine, 'sent');
    await reaches(db, asking, 'sent');
    const letters = await mail.mails();
    const unfolded = (raw: string): string => raw.replace(/\r?\n[ \t]+/g, ' ');
    const letter = letters.find((each) => each.subject.startsWith('Grüße'))!;
    expect(letter.subject).toBe('Grüße, <b>世界</b> 🌱');
    expect(letter.messageId).toBe(`<${routine}.${people[1]!}.mail@bell.test>`);
    expect(letter.raw).toMatch(/multipart\/alternative/);
    expect(unfolded(letter.raw)).toMatch(/^List-Unsubscribe: <http:\/\/bell\.test\/m\/unsubscribe\/u-/m);
    expect(letter.raw).toMatch(/^List-Unsubscribe-Post: List-Unsubscribe=One-Click/m);
    expect(letter.html).toContain('&lt;b&gt;世界');
    expect(letter.text).toContain('Take the ridge road.');
    expect(letter.text).toContain('It went to One');
    const asked = letters.find((each) => each.subject === 'Road closed')!;
    expect(asked.raw).not.toMatch(/^List-Unsubscribe/m);
    expect(asked.text).toMatch(/http:\/\/bell\.test\/m\/acknowledge\/a-/);
    expect(asked.html).toContain('Please acknowledge by');
    // Half past one does not exist in London on 30 March 2031; it counts as half past two.
    expect(asked.text).toContain('02:30 on Sunday 30 March 2031 (London time)');
  });

  it('waits for a server that is down, says so, and loses nothing', async () => {
    await mail.mood('down');
    await engine();
    const occurrence = await sendNow(db, { audience: { kind: 'everyone' } });
    const said = await until(
      async () => (await needsYou(db, coordinator)).some((need) => need.occurrenceId === occurrence),
      15_000,
    );
    expect(said).toBe(true);
    const [need] = await needsYou(db, coordinator);
    expect(need).toMatchObject({ state: 'waiting' });
    expect(need!.reason).toContain('cannot be reached');
    const expected = await countOf(db, "FROM people WHERE standing <> 'left'");
    expect(await inbox(occurrence)).toBe(expected);
    await mail.mood('well');
    await reaches(db, occurrence, 'sent');
    const receipts = await mail.receipts();
    expect(new Set(receipts.map((each) => each.to)).size).toBe(receipts.length);
    expect(receipts).toHaveLength(
      await countOf(db, "FROM people WHERE standing <> 'left' AND mail IS NOT NULL"),
    );
  });

  it('that is refused for good fails with what the server said, and can be tried again by hand', async () => {
    const one = await addGroup(db, 'Refused', [people[2]!]);
    await mail.mood('refusing');
    await engine();
    const occurrence = await sendNow(db, { audience: toGroups([one]) });
    await reaches(db, occurrence, 'sent');
    const page = await sendPage(db, coordinator, occurrence);
    expect(page.troubles[0]).toMatchObject({ state: 'failed', attempts: 1 });
    expect(page.troubles[0]!.reason).toContain('550');
    await mail.mood('well');
    expect(await retry(db, coordinator, occurrence)).toEqual({ again: 1 });
    await until(async () => (await mail.receipts()).length === 1, 10_000);
    await reaches(db, occurrence, 'sent');
    expect((await sendPage(db, coordinator, occurrence)).troubles).toEqual([]);
  });

  it('is tried again when the server is busy', async () => {
    const one = await addGroup(db, 'Busy', [people[4]!]);
    await mail.mood('busy');
    await engine();
    const occurrence = await sendNow(db, { audience: toGroups([one]) });
    const tried = (): Promise<number> =>
      countOf(db, "FROM deliveries WHERE occurrence_id = ? AND attempts >= 1 AND reason LIKE '%451%'", [
        occurrence,
      ]);
    expect(await until(async () => (await tried()) === 1, 10_000)).toBe(true);
    await mail.mood('well');
    await reaches(db, occurrence, 'sent');
    expect(await mail.receipts()).toHaveLength(1);
  });
});

it('keeps how late each delivery was', async () => {
  await engine();
  const occurrence = await sendNow(db, { audience: { kind: 'everyone' } });
  await reaches(db, occurrence, 'sent');
  const late = await rows<{ late: number; due: Date; went: Date }>(
    db,
    'SELECT late_ms AS late, due_at AS due, went_at AS went FROM deliveries WHERE occurrence_id = ?',
    [occurrence],
  );
  expect(late.length).toBeGreaterThan(50);
  for (const row of late) expect(row.late).toBe(row.went.getTime() - row.due.getTime());
});
