import { RRuleTemporal } from 'rrule-temporal';
import { Temporal } from 'temporal-polyfill';
import type { Audience } from '../../src/core/audience/expression.ts';
import { simpleContent } from '../../src/core/content/announcement.ts';
import { percentile } from '../../src/core/delivery/lateness.ts';
import { EMPTY_PLAN } from '../../src/core/plan/plan.ts';
import { briefOf } from '../../src/core/sends/forecast.ts';
import { comingIn, occurrenceWalls } from '../../src/core/timing/recurrence.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { insertOne } from '../../src/server/database/insertMany.ts';
import { rehearse, rehearsedPeople } from '../../src/server/rehearsal/service.ts';
import { forecast, quickCount } from '../../src/server/sends/forecast.ts';
import { coordinator, median, now, send, timed } from './data.ts';
import { sized, times } from './size.ts';

const COUNTS = times(60);
const PAIRS = times(7);
const MANY = sized(10_000);

const ms = (value: number | null): string => `${(value ?? Number.NaN).toFixed(1)} ms`;

/**
 * Gives people zones, attributes and quiet hours, and groups with a tenth of them each.
 *
 * @param more those from this id on are given the same, and belong to these groups
 * @returns the groups
 */
export async function layVariety(
  db: Database,
  more?: { from: number; groups: readonly number[] },
): Promise<number[]> {
  const from = more?.from ?? 1;
  await db.raw(`UPDATE people SET zone = ELT(1 + id % 9, 'Atlantic/Azores', 'Europe/London', 'Europe/Madrid',
    'Africa/Nairobi', 'Asia/Kathmandu', 'Australia/Adelaide', 'Pacific/Auckland', 'America/Denver', 'Pacific/Honolulu'),
    quiet_from = IF(id % 6 = 1, '21:00', NULL), quiet_to = IF(id % 6 = 1, '07:00', NULL) WHERE id > 1 AND id >= ${from}`);
  await db.raw(
    "INSERT INTO person_attributes (person_id, name, value) SELECT id, 'licence', IF(id % 2, 'van', 'lorry') FROM people WHERE id >= ?",
    [from],
  );
  const ids: number[] = [];
  for (let i = 0; i < 8; i++) {
    const id = more?.groups[i] ?? (await insertOne(db, 'groups', { name: `Group ${i}`, kind: 'fixed' }));
    await db.raw(
      'INSERT INTO group_members (group_id, person_id) SELECT ?, id FROM people WHERE id % 10 = ? AND id >= ?',
      [id, i, from],
    );
    ids.push(id);
  }
  return ids;
}

/** The count beside the sentence as it changes, a rehearsal, and ten thousand occurrences of a rule. */
export async function planning(db: Database): Promise<void> {
  const groups = await layVariety(db);
  const group = (i: number): Audience => ({ kind: 'group', id: groups[i] ?? 0 });
  const audiences: Audience[] = [
    { kind: 'everyone' },
    { kind: 'any', of: [group(0), group(1), group(2)] },
    { kind: 'except', from: { kind: 'everyone' }, minus: { kind: 'any', of: [group(3), group(4)] } },
    { kind: 'all', of: [group(5), { kind: 'attribute', name: 'licence', value: 'lorry' }] },
    { kind: 'all', of: [{ kind: 'everyone' }, { kind: 'joined since', date: '2024-01-01' }] },
    {
      kind: 'except',
      from: { kind: 'any', of: [group(6), group(7)] },
      minus: { kind: 'role', role: 'editor' },
    },
  ];
  console.log('The count and the first rows of an audience of 100,000 people, as it changes');
  const bare: number[] = [];
  const counts: number[] = [];
  const whole: number[] = [];
  for (let i = 0; i < COUNTS; i++) {
    const audience = audiences[i % audiences.length] ?? { kind: 'everyone' };
    bare.push(await timed(async () => db.raw("SELECT COUNT(*) FROM people WHERE standing <> 'left'")));
    counts.push(
      await timed(async () => {
        await quickCount(db, coordinator, audience);
      }),
    );
    const plan = { ...EMPTY_PLAN, audience };
    const brief = briefOf(simpleContent('Count', { type: 'doc', content: [] }));
    whole.push(await timed(async () => forecast(db, coordinator, plan, brief)));
  }
  const line = (name: string, values: number[]): string =>
    `  ${name}: 50th ${ms(percentile(values, 0.5))}, 95th ${ms(percentile(values, 0.95))}`;
  console.log(line('bare SELECT COUNT(*) of all', bare));
  console.log(`${line('count and first rows', counts)} (aim 95th under 100 ms)`);
  console.log(`${line('whole forecast, with who would be missed', whole)}\n`);

  console.log(`A rehearsal of a send to 100,000 people by readers' clocks, ${PAIRS} runs`);
  const nowMs = await now(db);
  const wall = wallAt(nowMs + 3 * 86_400_000, 'UTC').replace(/T.*/, 'T09:00');
  for (const i of [0, 1, 2])
    await send(db, { audience: group(i), timing: { kind: 'at', wall, zone: 'UTC' } });
  const draftId = await insertAnnouncement(
    db,
    1,
    simpleContent('Rehearsed', {
      type: 'doc',
      content: [{ type: 'paragraph', content: [{ type: 'text', text: 'Words.' }] }],
    }),
    { ...EMPTY_PLAN, audience: { kind: 'everyone' }, timing: { kind: 'local', wall, passed: 'at once' } },
    'draft',
  );
  const rehearsals: number[] = [];
  const pages: number[] = [];
  for (let i = 0; i < PAIRS; i++) {
    rehearsals.push(
      await timed(async () =>
        rehearse(db, { actor: coordinator, zone: 'UTC' }, draftId, 3, {
          links: false,
          publicUrl: 'http://localhost',
        }),
      ),
    );
    pages.push(
      await timed(async () =>
        rehearsedPeople(db, coordinator, draftId, {
          filter: 'all',
          search: '',
          after: { name: 'Person 050000', id: 50_000 },
        }),
      ),
    );
  }
  console.log(
    `  rehearsal ${ms(median(rehearsals))} (aim under 2,000 ms), ${(median(rehearsals) / median(bare)).toFixed(1)} times the bare count; a page of its people ${ms(median(pages))}\n`,
  );

  console.log(`${MANY.toLocaleString('en-GB')} occurrences of a daily rule, ${PAIRS} pairs`);
  const rule = { ...WEEKLY, freq: 'daily' as const, end: { kind: 'count' as const, count: MANY } };
  const ours: number[] = [];
  const limit: number[] = [];
  const settled: number[] = [];
  for (let i = 0; i < PAIRS; i++) {
    limit.push(
      await timed(() => {
        new RRuleTemporal<Temporal.ZonedDateTime>({
          temporal: Temporal,
          freq: 'DAILY',
          count: MANY,
          cache: false,
          tzid: 'UTC',
          dtstart: Temporal.PlainDateTime.from('2026-01-01T09:00').toZonedDateTime('UTC'),
        }).all();
        return Promise.resolve();
      }),
    );
    let walls: string[] = [];
    ours.push(
      await timed(() => {
        walls = occurrenceWalls('2026-01-01T09:00', rule, { most: MANY });
        return Promise.resolve();
      }),
    );
    settled.push(
      await timed(() => {
        comingIn('Europe/London', walls);
        return Promise.resolve();
      }),
    );
  }
  const ratio = median(ours.map((mine, i) => mine / (limit[i] ?? Number.NaN)));
  console.log(
    `  ours ${ms(median(ours))}, bare library ${ms(median(limit))}, ratio ${ratio.toFixed(2)}; settled in a zone with its clock changes ${ms(median(settled))}\n`,
  );
}
