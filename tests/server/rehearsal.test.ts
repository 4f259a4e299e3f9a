import { afterAll, beforeAll, expect, it } from 'vitest';
import { audienceOf } from '../../src/core/audience/form.ts';
import type { Plan } from '../../src/core/plan/plan.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import type { Engine } from '../../src/server/engine/engine.ts';
import { rehearse, rehearsedPeople, wholeRehearsal } from '../../src/server/rehearsal/service.ts';
import { confirmSend } from '../../src/server/sends/confirming.ts';
import type { RehearsedPerson } from '../../src/core/sends/rehearsal.ts';
import { expandNow } from './expandNow.ts';
import {
  addGroup,
  content,
  coordinator,
  countOf,
  freshDatabase,
  mailHouse,
  plan,
  reaches,
  startEngine,
  type MailHouse,
} from './world.ts';

/** The nine stations' zones, with :30 and :45 offsets and both hemispheres' clock changes. */
const ZONES = [
  'Atlantic/Azores',
  'Europe/London',
  'Europe/Madrid',
  'Africa/Nairobi',
  'Asia/Kathmandu',
  'Australia/Adelaide',
  'Pacific/Auckland',
  'America/Denver',
  'Pacific/Honolulu',
];
const PEOPLE = 5_000;
const HOUR_MS = 3_600_000;

let db: Database;
let engine: Engine | undefined;
let mail: MailHouse;
let night: number;
let late: number;

beforeAll(async () => {
  ({ db } = await freshDatabase('rehearsal'));
  const people = Array.from({ length: PEOPLE }, (_, i) => ({
    id: 100 + i,
    name: `Person ${String(i).padStart(5, '0')}`,
    mail: i % 10 === 9 ? null : `p${i}@test.example`,
    mail_stopped_at: i % 17 === 3 ? new Date() : null,
    standing: i % 50 === 7 ? 'left' : i % 23 === 2 ? 'on leave' : 'active',
    station_id: 1,
    occupation: 'driver',
    zone: ZONES[i % ZONES.length],
    joined_on: '2024-01-01',
    quiet_from: i % 6 === 1 ? '21:00' : i % 6 === 2 ? '00:00' : null,
    quiet_to: i % 6 === 1 ? '07:00' : i % 6 === 2 ? '00:00' : null,
  }));
  for (let i = 0; i < PEOPLE; i += 1000) await db('people').insert(people.slice(i, i + 1000));
  // Everybody who has chosen nothing is left in peace at noon.
  await db('organisation').update({ quiet_from: '12:00', quiet_to: '13:30' });
  night = await addGroup(db, 'On leave', { kind: 'standing', standing: 'on leave' });
  late = await addGroup(
    db,
    'Odd ones',
    people.filter((_, i) => i % 7 === 0).map((person) => person.id),
  );
  mail = await mailHouse();
});
afterAll(async () => {
  await engine?.stop();
  await mail.stop();
  await db.destroy();
});

async function draftWith(part: Partial<Plan>): Promise<number> {
  const audience = audienceOf({
    to: [{ kind: 'everyone' }],
    also: [{ kind: 'occupation', occupation: 'driver' }],
    except: [
      { kind: 'group', id: night },
      { kind: 'group', id: late },
    ],
  });
  return insertAnnouncement(db, coordinator.id, content(), plan({ audience, ...part }), 'draft');
}

async function all(draftId: number): Promise<RehearsedPerson[]> {
  const people: RehearsedPerson[] = [];
  for await (const page of wholeRehearsal(db, coordinator, draftId)) people.push(...page);
  return people;
}

/** What the rehearsal said and what the engine planned, as the same rows: person, method, instant. */
const asRows = (people: RehearsedPerson[]): string[] =>
  people
    .flatMap((person) => person.methods.map((method) => `${person.id} ${method} ${person.dueMs ?? ''}`))
    .sort();

async function deliveries(occurrenceId: number): Promise<string[]> {
  const found = await rows<{ personId: number; method: string; dueMs: number }>(
    db,
    `SELECT person_id AS personId, method, TIMESTAMPDIFF(MICROSECOND, '1970-01-01', due_at) DIV 1000 AS dueMs
     FROM deliveries WHERE occurrence_id = ?`,
    [occurrenceId],
  );
  return found.map((row) => `${row.personId} ${row.method} ${row.dueMs}`).sort();
}

/** A day on which some zone's clock changes: the next one, found from the zone data itself. */
function nextClockChange(nowMs: number): string {
  for (let day = 1; day < 370; day++) {
    const at = nowMs + day * 24 * HOUR_MS;
    const wall = (ms: number, zone: string): number => Date.parse(`${wallAt(ms, zone)}Z`);
    const moved = ZONES.some((zone) => wall(at + 24 * HOUR_MS, zone) - wall(at, zone) !== 24 * HOUR_MS);
    if (moved) return wallAt(at + 12 * HOUR_MS, 'UTC').slice(0, 10);
  }
  throw new Error('No clock changes in a year');
}

it('foretells exactly what is delivered to 5,000 people over nine zones, on a day with a clock change', async () => {
  const nowMs = await databaseNow(db);
  const date = nextClockChange(nowMs);
  // Half past two in the night: skipped or repeated where the clock changes, quiet for a sixth, ordinary elsewhere.
  const draftId = await draftWith({ timing: { kind: 'local', wall: `${date}T02:30`, passed: 'at once' } });
  const foretold = await all(draftId);
  expect(new Set(foretold.map((person) => person.zone)).size).toBe(9);
  expect(new Set(foretold.map((person) => person.dueMs)).size).toBeGreaterThan(9);
  expect(foretold.some((person) => person.quietFromMs !== null)).toBe(true);

  const { occurrenceId } = await confirmSend(db, coordinator, draftId, { revision: 1 }, 'rehearsal-key-1');
  await expandNow(db, occurrenceId);
  expect(await deliveries(occurrenceId)).toEqual(asRows(foretold));
  // Each person's instant is half past two, or the end of their quiet hours, on their own clock.
  for (const person of foretold.slice(0, 200))
    expect(wallAt(person.dueMs ?? 0, person.zone).slice(11)).toMatch(
      person.quietFromMs === null ? /^0[23]:30$/ : /^07:00$/,
    );
});

it('foretells what is sent now, and the engine delivers that', async () => {
  const draftId = await draftWith({ timing: { kind: 'now' }, mail: true });
  const foretold = await all(draftId);
  const { occurrenceId } = await confirmSend(db, coordinator, draftId, { revision: 1 }, 'rehearsal-key-2');
  engine = await startEngine(db, mail.url);
  const awake = foretold.filter((person) => person.quietFromMs === null);
  await expect
    .poll(
      () =>
        countOf(db, "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox' AND state = 'delivered'", [
          occurrenceId,
        ]),
      { timeout: 40_000 },
    )
    .toBe(awake.length);
  const who = (list: string[]): string[] => list.map((row) => row.split(' ').slice(0, 2).join(' '));
  expect(who(await deliveries(occurrenceId)).sort()).toEqual(who(asRows(foretold)).sort());
  // Whoever rests gets it when their quiet hours end, and the send is not called sent before.
  const resting = foretold.length - awake.length;
  expect(
    await countOf(db, "FROM deliveries WHERE occurrence_id = ? AND state = 'resting'", [occurrenceId]),
  ).toBe(resting);
  await db.raw(
    "UPDATE deliveries SET try_at = NOW(3) WHERE occurrence_id = ? AND state IN ('resting', 'waiting')",
    [occurrenceId],
  );
  await reaches(db, occurrenceId, 'sent', 60_000);
  expect(
    await countOf(
      db,
      "FROM deliveries WHERE occurrence_id = ? AND method = 'inbox' AND state = 'delivered'",
      [occurrenceId],
    ),
  ).toBe(foretold.length);
}, 120_000);

it('finds by name, filters, and pages without missing or repeating anybody', async () => {
  const draftId = await draftWith({ timing: { kind: 'now' } });
  const everybody = await all(draftId);
  const seen: number[] = [];
  let after: { name: string; id: number } | null = null;
  do {
    const page = await rehearsedPeople(db, coordinator, draftId, { filter: 'all', search: '', after });
    seen.push(...page.people.map((person) => person.id));
    after = page.next;
  } while (after && seen.length < 1000);
  expect(seen).toEqual(everybody.slice(0, seen.length).map((person) => person.id));
  const [first] = everybody;
  const found = await rehearsedPeople(db, coordinator, draftId, {
    filter: 'all',
    search: first?.name ?? '',
    after: null,
  });
  expect(found.people.map((person) => person.id)).toEqual([first?.id]);
  const noMail = await rehearsedPeople(db, coordinator, draftId, {
    filter: 'without mail',
    search: '',
    after: null,
  });
  expect(noMail.people.every((person) => !person.methods.includes('mail'))).toBe(true);
  expect(noMail.people.length).toBeGreaterThan(100);
});

it('tells what else reaches the same people, and their load that day', async () => {
  const session = { actor: coordinator, zone: 'UTC' };
  const at = wallAt((await databaseNow(db)) + 30 * HOUR_MS, 'UTC');
  const other = await draftWith({ timing: { kind: 'at', wall: at, zone: 'UTC' } });
  await confirmSend(db, coordinator, other, { revision: 1 }, 'rehearsal-key-3');
  const draftId = await insertAnnouncement(
    db,
    coordinator.id,
    content({ title: 'x'.repeat(80) }),
    plan({ audience: { kind: 'everyone' }, timing: { kind: 'at', wall: at, zone: 'UTC' } }),
    'draft',
  );
  const found = await rehearse(db, session, draftId, 1, { links: false, publicUrl: 'http://localhost' });
  const shared = (await all(other)).length;
  expect(found.collisions.map((each) => each.people)).toContain(shared);
  expect(found.load.find((row) => row.things === 2)?.people).toBe(shared);
  expect(found.load.reduce((sum, row) => sum + row.people, 0)).toBe(found.forecast.people);
  expect(found.warnings.map((warning) => warning.field)).toContain('title');
  expect(found.problems).toEqual([]);
});
