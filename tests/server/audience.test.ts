import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { ROLES, STANDINGS, type Audience } from '../../src/core/audience/expression.ts';
import type { Importance } from '../../src/core/content/announcement.ts';
import { briefOf, type Brief } from '../../src/core/sends/forecast.ts';
import { includes } from '../../src/core/audience/includes.ts';
import { countPeople, factsOf, isIn } from '../../src/server/audience/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { audienceContext } from '../../src/server/groups/directory.ts';
import { forecast } from '../../src/server/sends/forecast.ts';
import { addGroup, addPeople, content, coordinator, freshDatabase, plan, toGroups } from './world.ts';

let db: Database;
let people: number[];
let groups: number[];

beforeAll(async () => {
  ({ db } = await freshDatabase('audience'));
  people = [...(await addPeople(db, 30, 1)), ...(await addPeople(db, 20, 2))];
  await db('people').where('id', '>', 40).update({ station_id: null });
  await db('people').where('id', '<', 8).update({ standing: 'on leave', occupation: '' });
  await db('people').whereIn('id', [12, 13, 50]).update({ standing: 'left', left_at: new Date() });
  await db('people')
    .whereIn('id', [20, 21])
    .update({ joined_on: db.raw('UTC_DATE() - INTERVAL 30 DAY') });
  groups = [
    await addGroup(db, 'Drivers', { kind: 'occupation', occupation: 'driver' }),
    await addGroup(db, 'New', { kind: 'joined within', days: 30 }),
    await addGroup(
      db,
      'Odd ones',
      people.filter((id) => id % 3 === 0),
    ),
    await addGroup(db, 'Few', people.slice(5, 15)),
    await addGroup(db, 'Empty', []),
  ];
  // Made of others, one of them of others again.
  const [drivers = 0, fresh = 0, odd = 0, few = 0] = groups;
  const group = (id: number): Audience => ({ kind: 'group', id });
  groups.push(await addGroup(db, 'Drivers who are odd', { kind: 'all', of: [group(drivers), group(odd)] }));
  groups.push(
    await addGroup(db, 'All but few', {
      kind: 'except',
      from: { kind: 'any', of: [group(groups.at(-1) ?? 0), group(fresh)] },
      minus: group(few),
    }),
  );
  await db('person_attributes').insert(
    people.flatMap((id) => [
      { person_id: id, name: 'licence', value: id % 2 ? 'lorry' : 'van' },
      ...(id % 5 === 0 ? [{ person_id: id, name: 'shift', value: 'late' }] : []),
    ]),
  );
  await db('roll').insert(
    people.slice(0, 25).map((id, i) => ({
      occurrence_id: 7,
      person_id: id,
      answered_at: i % 3 === 0 ? new Date() : null,
    })),
  );
  await db('deliveries').insert(
    people.slice(0, 30).map((id, i) => ({
      occurrence_id: 7,
      person_id: id,
      method: 'inbox',
      state: 'delivered',
      due_at: new Date(),
      read_at: i % 4 === 0 ? new Date() : null,
    })),
  );
  // Some sign up under the address mail goes to, some under a further one, one under nobody's.
  await db.transaction(async (trx) => {
    await trx.raw('SET FOREIGN_KEY_CHECKS = 0');
    await trx('person_addresses').insert({ person_id: people[8], mail: 'further@home.example' });
    const [own] = await trx('people')
      .where({ id: people[11] ?? 0 })
      .pluck<string[]>('mail');
    for (const mail of [own, 'further@home.example', 'nobody@home.example'])
      await trx('sign_ups').insert({ occurrence_id: 7, shared_by: 1, name: 'Somebody', mail });
    await trx.raw('SET FOREIGN_KEY_CHECKS = 1');
  });
  // Some are guests from outside, in groups and out of them.
  await db('people').where('id', '>', 1).whereRaw('id % 4 = 2').update({ guest_until: '2030-01-31' });
  // A linked contact is in no audience, not even everyone.
  await db('people').insert({
    id: 60,
    name: 'A linked contact',
    mail: 'linked@test.example',
    zone: 'UTC',
    joined_on: '2024-01-01',
    linked_to: 5,
  });
});
afterAll(() => db.destroy());

const brief = (importance: Importance): Brief => briefOf({ ...content(), importance });

/** What the plain reading needs to have looked up beforehand. */
const LEAVES: Audience[] = [
  { kind: 'attribute', name: 'licence', value: 'lorry' },
  { kind: 'attribute', name: 'licence', value: 'Lorry' },
  { kind: 'attribute', name: 'shift', value: 'late' },
  { kind: 'answered', occurrenceId: 7, answered: true },
  { kind: 'answered', occurrenceId: 7, answered: false },
  { kind: 'answered', occurrenceId: 8, answered: false },
  { kind: 'reached', occurrenceId: 7 },
  { kind: 'read', occurrenceId: 7 },
  { kind: 'signed up', occurrenceId: 7 },
];

const leaf = (): fc.Arbitrary<Audience> =>
  fc.oneof(
    fc.constantFrom<Audience>({ kind: 'everyone' }, { kind: 'guests' }),
    fc.nat(8).map((i): Audience => ({ kind: 'group', id: groups[i] ?? 999 })),
    fc.integer({ min: 1, max: 3 }).map((id): Audience => ({ kind: 'station', id })),
    fc.constantFrom(...ROLES).map((role): Audience => ({ kind: 'role', role })),
    fc.constantFrom(...STANDINGS).map((standing): Audience => ({ kind: 'standing', standing })),
    fc
      .constantFrom('driver', 'Driver', 'curator')
      .map((occupation): Audience => ({ kind: 'occupation', occupation })),
    fc.constantFrom(1, 29, 30, 31, 3660).map((days): Audience => ({ kind: 'joined within', days })),
    fc.integer({ min: 1, max: 52 }).map((id): Audience => ({ kind: 'person', id })),
    fc
      .constantFrom('2023-12-31', '2024-01-01', '2024-01-02')
      .map((date): Audience => ({ kind: 'joined since', date })),
    fc.constantFrom(...LEAVES),
  );
const tree = (depth: number): fc.Arbitrary<Audience> =>
  depth === 0
    ? leaf()
    : fc.oneof(
        leaf(),
        fc.record({
          kind: fc.constantFrom('any' as const, 'all' as const),
          of: fc.array(tree(depth - 1), { maxLength: 4 }),
        }),
        fc.record({ kind: fc.constant('except' as const), from: tree(depth - 1), minus: tree(depth - 1) }),
      );

it('is read alike by the database and in plain code, nobody twice', async () => {
  const now = await audienceContext(db);
  const everybody = await factsOf(
    db,
    [1, ...people],
    { kind: 'any', of: [...groups.map((id): Audience => ({ kind: 'group', id })), ...LEAVES] },
    now,
  );
  await fc.assert(
    fc.asyncProperty(tree(3), async (whom) => {
      const who = isIn(whom, now);
      const found = await rows<{ id: number }>(
        db,
        `SELECT p.id FROM people p WHERE ${who.sql} ORDER BY p.id`,
        who.bindings,
      );
      const plain = [...everybody.values()]
        .filter((person) => includes(whom, person, now))
        .map((person) => person.id);
      expect(found.map((row) => row.id)).toEqual(plain.sort((a, b) => a - b));
      expect(await countPeople(db, whom, now)).toBe(plain.length);
    }),
    { numRuns: 300 },
  );
});

it('foretells who is reached, who is not, and why', async () => {
  const [drivers = 0, , , few = 0] = groups;
  await db('people').where({ id: 10 }).update({ mail_stopped_at: new Date() });
  const outlook = await forecast(
    db,
    coordinator,
    plan({ audience: toGroups([drivers, few]) }),
    brief('routine'),
  );
  const now = await audienceContext(db);
  const all = await factsOf(db, people, toGroups([drivers, few])!, now);
  const plain = [...all.values()].filter((person) => includes(toGroups([drivers, few])!, person, now));
  expect(outlook.people).toBe(plain.length);
  expect(outlook.missed.map((missed) => missed.kind).sort()).toEqual([
    'left',
    'mail stopped',
    'no mail address',
  ]);
  expect(outlook.missed.find((missed) => missed.kind === 'left')?.names).toEqual([
    'Person 00012',
    'Person 00013',
  ]);
  const noMail = outlook.missed.find((missed) => missed.kind === 'no mail address')?.n ?? 0;
  expect(outlook.byMail).toBe(outlook.people - noMail - 1);
  // What is urgent comes by mail even to those who stopped the rest.
  const urgent = await forecast(
    db,
    coordinator,
    plan({ audience: toGroups([drivers, few]) }),
    brief('urgent'),
  );
  expect(urgent.byMail).toBe(outlook.byMail + 1);
});

it('points out an empty audience and a group that is gone', async () => {
  const fields = async (whom: Audience | null): Promise<string[]> =>
    (await forecast(db, coordinator, plan({ audience: whom }), brief('routine'))).problems.map(
      (problem) => problem.field,
    );
  expect(await fields(toGroups([groups[4] ?? 0]))).toEqual(['audience']);
  expect(await fields(toGroups([groups[0] ?? 0, 999]))).toEqual(['audience']);
  expect(await fields(toGroups([groups[0] ?? 0]))).toEqual([]);
});
