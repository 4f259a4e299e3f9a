import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { until } from '../../scripts/house/processes.ts';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { rows, transact, type Database } from '../../src/server/database/connection.ts';
import type { Engine } from '../../src/server/engine/engine.ts';
import { markCameBack } from '../../src/server/mail-in/store.ts';
import { mergePeople } from '../../src/server/people/merging.ts';
import { deliveryCounts, retryFailed } from '../../src/server/sends/occurrenceStore.ts';
import { recordCounts, recordCountsLately } from '../../src/server/sends/deliveryCountStore.ts';
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
let engine: Engine;
let people: number[];

beforeAll(async () => {
  ({ db } = await freshDatabase('settled_counts'));
  mail = await mailHouse();
  engine = await startEngine(db, mail.url);
  people = await addPeople(db, 12);
  await db('people').whereIn('id', people).update({ quiet_from: '00:00', quiet_to: '00:00' });
});
afterAll(async () => {
  await engine.stop();
  await mail.stop();
  await db.destroy();
});

const sent = async (of: number[]): Promise<{ occurrence: number; group: number }> => {
  const group = await addGroup(db, `Settled ${Math.random()}`, of);
  const occurrence = await sendNow(db, {
    audience: toGroups([group]),
    mail: true,
    ask: acknowledgement({ joiners: true }),
  });
  await reaches(db, occurrence, 'sent');
  // Right after it is marked as sent, in a transaction of its own.
  expect(await until(() => isSettled(occurrence), 20_000)).toBe(true);
  return { occurrence, group };
};

/** Whether what its deliveries came to is written down. */
const isSettled = async (occurrence: number): Promise<boolean> =>
  (await countOf(db, 'FROM occurrences WHERE id = ? AND settled_counts IS NOT NULL', [occurrence])) === 1;

const inOrder = (counts: readonly { method: string; state: string; n: number }[]) =>
  counts.map(({ method, state, n }) => `${n} ${method} ${state}`).sort();
const shown = async (occurrence: number) =>
  inOrder((await deliveryCounts(db, [occurrence])).get(occurrence) ?? []);
const counted = async (occurrence: number) =>
  inOrder(
    await rows(
      db,
      'SELECT method, state, COUNT(*) AS n FROM deliveries WHERE occurrence_id = ? GROUP BY method, state',
      [occurrence],
    ),
  );
/** What is shown is what there is, before and after it is written down anew. */
async function isTrue(occurrence: number): Promise<void> {
  expect(await shown(occurrence)).toEqual(await counted(occurrence));
  const before = (await deliveryCounts(db, [occurrence])).get(occurrence);
  await recordCountsLately(db);
  expect(await isSettled(occurrence)).toBe(true);
  expect(await shown(occurrence)).toEqual(await counted(occurrence));
  // How many were late, and the latest, too.
  expect((await deliveryCounts(db, [occurrence])).get(occurrence)).toEqual(before);
}

it('what a send came to is written down when it is sent, and read from there', async () => {
  const { occurrence } = await sent(people.slice(0, 5));
  expect(await isSettled(occurrence)).toBe(true);
  await isTrue(occurrence);
  const before = await shown(occurrence);
  // No statement of the application does this: what is shown comes from what was written down.
  await db('deliveries').where({ occurrence_id: occurrence, person_id: people[0]!, method: 'mail' }).delete();
  expect(await shown(occurrence)).toEqual(before);
  await db('occurrences').where({ id: occurrence }).update({ settled_counts: null });
  expect(await shown(occurrence)).not.toEqual(before);
});

it('mail that comes back, and is tried again, counts as what it is', async () => {
  const { occurrence } = await sent(people.slice(0, 5));
  const [person] = people;
  await transact(db, (trx) => markCameBack(trx, occurrence, person!, 'No such mailbox'));
  expect(await shown(occurrence)).toContain('1 mail failed');
  await isTrue(occurrence);
  await retryFailed(db, occurrence);
  await reaches(db, occurrence, 'sent');
  expect(await shown(occurrence)).not.toContain('1 mail failed');
  await isTrue(occurrence);
});

it('mail that comes back while the counts are being written is in them, or they are written anew', async () => {
  const { occurrence } = await sent(people.slice(0, 5));
  const [, person] = people;
  let writing: Promise<void> | undefined;
  let done = false;
  await transact(db, async (trx) => {
    await markCameBack(trx, occurrence, person!, 'No such mailbox');
    writing = recordCounts(db, occurrence).then(() => void (done = true));
    await wait(500);
    // It waits for what it cannot see yet.
    expect(done).toBe(false);
  });
  await writing;
  expect(await shown(occurrence)).toContain('1 mail failed');
  await isTrue(occurrence);
});

it('whoever joins later is counted', async () => {
  const { occurrence, group } = await sent(people.slice(0, 3));
  await db('group_members').insert({ group_id: group, person_id: people[4]! });
  await db('asks')
    .where({ occurrence_id: occurrence })
    .update({ joiners_at: db.raw('NOW(3)') });
  expect(await until(async () => (await shown(occurrence)).includes('4 inbox delivered'), 15_000)).toBe(true);
  expect(
    await until(
      async () =>
        (await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND state <> 'delivered'", [
          occurrence,
        ])) === 0,
      10_000,
    ),
  ).toBe(true);
  await isTrue(occurrence);
});

it('two entries made one change nothing in what went out', async () => {
  const [keep, other] = people.slice(6, 8) as [number, number];
  const { occurrence } = await sent([keep, other]);
  const [goes] = await rows<{ name: string }>(db, 'SELECT name FROM people WHERE id = ?', [other]);
  await mergePeople(db, coordinator, { keep, other, name: goes!.name });
  expect(await isSettled(occurrence)).toBe(true);
  await isTrue(occurrence);
});

it('is not written down while something is on its way', async () => {
  const { occurrence } = await sent(people.slice(8, 10));
  await db('occurrences').where({ id: occurrence }).update({ settled_counts: null });
  await db('deliveries')
    .where({ occurrence_id: occurrence, person_id: people[8]!, method: 'mail' })
    .update({ state: 'sending', claimed_by: 'another', try_at: db.raw('NOW(3) + INTERVAL 1 HOUR') });
  await recordCounts(db, occurrence);
  expect(await isSettled(occurrence)).toBe(false);
  expect(await shown(occurrence)).toContain('1 mail sending');
});
