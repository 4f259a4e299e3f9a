import type { Audience } from '../../src/core/audience/expression.ts';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { EMPTY_PLAN } from '../../src/core/plan/plan.ts';
import { simpleContent } from '../../src/core/content/announcement.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';
import { insertAnnouncement } from '../../src/server/announcements/store.ts';
import { answer } from '../../src/server/asks/answering.ts';
import { listRoll, openRoll } from '../../src/server/asks/service.ts';
import { change, rows, type Database } from '../../src/server/database/connection.ts';
import { expand, readWorld } from '../../src/server/engine/expand.ts';
import { claimBuckets } from '../../src/server/engine/store.ts';
import { groupPage } from '../../src/server/groups/making.ts';
import { listPeople } from '../../src/server/people/service.ts';
import { rehearse, rehearsedPeople } from '../../src/server/rehearsal/service.ts';
import { quickCount } from '../../src/server/sends/forecast.ts';
import { occurrenceById } from '../../src/server/sends/occurrenceStore.ts';
import { asked } from './answering.ts';
import { coordinator, dueAtInstant, layMorePeople, median, now, send, timed } from './data.ts';
import { layVariety } from './planning.ts';
import { sized, times } from './size.ts';

const FEWER = sized(100_000);
const MANY = sized(1_000_000);
const RUNS = times(3);
const SECRET = 'a secret that the bench alone knows';

/** Milliseconds that each of some kinds of work takes, by what they are called. */
type Figures = Map<string, number>;

/** Writes one send to everybody into their inboxes. */
async function expandOnce(db: Database): Promise<number> {
  const occurrence = await send(db, {});
  await dueAtInstant(db, [occurrence], await now(db));
  const claimant = { engine: 'bench', seconds: 3_600 };
  const [bucket] = await claimBuckets(db, claimant, 1);
  const planned = await occurrenceById(db, occurrence);
  if (!bucket || !planned) throw new Error('Nothing is due');
  const took = await timed(async () => expand(db, bucket, planned, claimant, await readWorld(db)));
  await change(db, 'DELETE FROM deliveries WHERE occurrence_id = ?', [occurrence]);
  return took;
}

async function measured(db: Database, people: number, groups: readonly number[]): Promise<Figures> {
  const figures: Figures = new Map();
  const note = async (what: string, work: () => Promise<unknown>, runs = RUNS): Promise<void> => {
    const took: number[] = [];
    for (let i = 0; i < runs; i++) took.push(await timed(work));
    figures.set(what, median(took));
  };
  const everyone: Audience = { kind: 'everyone' };
  const group = (i: number): Audience => ({ kind: 'group', id: groups[i] ?? 0 });
  const draft = await insertAnnouncement(
    db,
    1,
    simpleContent('Rehearsed', { type: 'doc', content: [] }),
    {
      ...EMPTY_PLAN,
      audience: everyone,
      timing: {
        kind: 'local',
        wall: wallAt((await now(db)) + 3 * 86_400_000, 'UTC').replace(/T.*/, 'T09:00'),
        passed: 'at once',
      },
    },
    'draft',
  );
  const ask = await asked(db, acknowledgement(), people);
  await note('the bare SELECT COUNT(*) of all', () =>
    db.raw("SELECT COUNT(*) FROM people WHERE standing <> 'left'"),
  );
  await note('count and first rows: everyone', () => quickCount(db, coordinator, everyone));
  await note('count and first rows: any of three groups', () =>
    quickCount(db, coordinator, { kind: 'any', of: [group(0), group(1), group(2)] }),
  );
  await note('count and first rows: a group and an attribute', () =>
    quickCount(db, coordinator, {
      kind: 'all',
      of: [group(5), { kind: 'attribute', name: 'licence', value: 'lorry' }],
    }),
  );
  await note("rehearsal by readers' clocks", () =>
    rehearse(db, { actor: coordinator, zone: 'UTC' }, draft, 1, {
      links: false,
      publicUrl: 'http://localhost',
    }),
  );
  await note('a page of its people', () =>
    rehearsedPeople(db, coordinator, draft, {
      filter: 'all',
      search: '',
      after: { name: 'Person 050000', id: 50_000 },
    }),
  );
  const took: number[] = [];
  for (let i = 0; i < RUNS; i++) took.push(await expandOnce(db));
  figures.set('expansion into inbox deliveries', median(took));
  let next = 0;
  await note('one answer', () => answer(db, SECRET, ++next, ask, {}, 'page'), times(200));
  await change(
    db,
    'UPDATE roll SET answered_at = COALESCE(answered_at, NOW(3)) WHERE occurrence_id = ? AND person_id % 10 < 7',
    [ask],
  );
  await note('roll as a whole and by station', () => openRoll(db, coordinator, ask));
  await note('a page of the roll by name', () =>
    listRoll(db, coordinator, ask, { part: 'waiting', search: '', after: null }),
  );
  await note('the directory: first page', () => listPeople(db, coordinator, {}));
  await note('the directory: sought by name', () => listPeople(db, coordinator, { search: 'Person 0077' }));
  await note('a page of a group with a tenth of all', () => groupPage(db, coordinator, groups[0] ?? 0));
  return figures;
}

/** The same work over a hundred thousand people and over a million: what grows faster than what it works over is seen here. */
export async function oneMillion(db: Database): Promise<void> {
  const groups = await layVariety(db);
  const fewer = await measured(db, FEWER, groups);
  await layMorePeople(db, FEWER, MANY);
  await layVariety(db, { from: FEWER + 1, groups });
  await db.raw('ANALYZE TABLE people, group_members, person_attributes, roll, deliveries');
  const many = await measured(db, MANY, groups);
  const [counted] = await rows<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM people');
  console.log(
    `${FEWER.toLocaleString('en-GB')} people and ${(counted?.n ?? 0).toLocaleString('en-GB')}, medians of ${RUNS} (the work itself grows ${(MANY / FEWER).toFixed(0)} times where it is over all of them)`,
  );
  for (const [what, before] of fewer) {
    const after = many.get(what) ?? Number.NaN;
    console.log(
      `  ${what}: ${before.toFixed(1)} ms, ${after.toFixed(1)} ms, ${(after / before).toFixed(1)} times`,
    );
  }
  console.log('');
}
