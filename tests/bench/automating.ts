import pMap from 'p-map';
import { newAutomation, type Automation, type When } from '../../src/core/automation/automation.ts';
import { simpleContent } from '../../src/core/content/announcement.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { Around } from '../../src/server/automations/around.ts';
import { prepare } from '../../src/server/automations/prepare.ts';
import { runAutomations } from '../../src/server/automations/running.ts';
import { runNow } from '../../src/server/automations/runs.ts';
import { makeAutomation, publish, saveDraft } from '../../src/server/automations/service.ts';
import { lookAtGroup } from '../../src/server/automations/watching.ts';
import { countPeople } from '../../src/server/audience/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { CONSUMERS } from '../../src/server/events/consumers.ts';
import { followEvents } from '../../src/server/events/follow.ts';
import { audienceContext } from '../../src/server/groups/directory.ts';
import { alterRecord, makeSheet } from '../../src/server/sheets/service.ts';
import { recountRecords } from '../../src/server/sheets/store.ts';
import { expand, readWorld } from '../../src/server/engine/expand.ts';
import { claimBuckets } from '../../src/server/engine/store.ts';
import { occurrenceById } from '../../src/server/sends/occurrenceStore.ts';
import { coordinator, dueAtInstant, median, now, one, send, timed } from './data.ts';
import { grid } from './grid.ts';
import { sized, times } from './size.ts';

const RECORDS = sized(500_000);
const CHANGES = sized(10_000);
const GROUPS = sized(200);
/** So many change records at the same time. */
const WRITERS = 4;
const asking = { secret: 'a secret that the bench alone knows', inside: [] };
const ms = (n: number): string => `${n.toFixed(n < 10 ? 1 : 0)} ms`;
const spoken = simpleContent('Past the limit', {
  type: 'doc',
  content: [{ type: 'paragraph', content: [{ type: 'text', text: 'Look at it.' }] }],
});

const written = (when: When): Automation => ({
  ...newAutomation('Of the bench', when),
  if: {
    kind: 'test',
    field: 'record.c2',
    test: 'is over',
    against: { kind: 'field', field: 'record.c3', share: 90 },
  },
  tell: {
    to: { kind: 'audience', audience: { kind: 'person', id: coordinator.id } },
    boards: [],
    outside: [],
    boardField: null,
    mail: false,
    otherwise: null,
  },
  content: spoken,
  ceiling: 5_000,
});

/** A condition over many records, records that change through one live automation, and groups that are looked at. */
export async function automating(db: Database): Promise<void> {
  await db.raw("UPDATE people SET role = 'coordinator' WHERE id = ?", [coordinator.id]);
  const sheetId = await makeSheet(db, coordinator, {
    name: 'Readings',
    purpose: '',
    columns: ['Vault', 'Humidity', 'Limit'].map((name, at) => ({
      id: `c${at + 1}`,
      name,
      kind: at === 0 ? 'text' : 'number',
      unit: '',
      choices: [],
    })),
    form: null,
  });
  for (let from = 0; from < RECORDS; from += 5_000)
    await db('records').insert(
      Array.from({ length: Math.min(5_000, RECORDS - from) }, (_, at) => ({
        sheet_id: sheetId,
        cells: JSON.stringify({ c1: `Vault ${from + at}`, c2: String((from + at) % 50), c3: '60' }),
      })),
    );
  await recountRecords(db);
  await condition(db, sheetId);
  await grid(db, sheetId, RECORDS);
  await changing(db, sheetId);
  await looking(db);
  await telling(db);
}

async function condition(db: Database, sheetId: number): Promise<void> {
  const start = new Date(Date.now() + 3_600_000).toISOString().slice(0, 16);
  const automation = written({
    kind: 'schedule',
    start,
    zone: 'UTC',
    rule: { ...WEEKLY, freq: 'daily' },
    sheetId,
  });
  const took: number[] = [];
  const bare: number[] = [];
  for (let round = 0; round < times(3); round++) {
    took.push(
      await timed(() =>
        prepare(db, coordinator, automation, { kind: 'time', wall: '' }, Date.now(), asking, new Around(db)),
      ),
    );
    bare.push(
      await timed(() =>
        rows(
          db,
          "SELECT id, cells FROM records WHERE sheet_id = ? AND JSON_VALUE(cells, '$.c2') > JSON_VALUE(cells, '$.c3') * 0.9",
          [sheetId],
        ),
      ),
    );
  }
  console.log(
    `a condition over ${RECORDS} records: ${ms(median(took))}; the bare SELECT ${ms(median(bare))}: ${(median(took) / median(bare)).toFixed(1)} times; aim 1.5`,
  );
}

async function changing(db: Database, sheetId: number): Promise<void> {
  const id = await makeAutomation(db, coordinator, {
    name: 'Of the bench',
    when: { kind: 'meets', sheetId, again: true },
  });
  const revision = await saveDraft(db, coordinator, id, {
    revision: 1,
    automation: written({ kind: 'meets', sheetId, again: true }),
  });
  const publishing = await timed(() => publish(db, coordinator, id, revision));
  const records = await rows<{ id: number }>(
    db,
    'SELECT id FROM records WHERE sheet_id = ? ORDER BY id LIMIT ?',
    [sheetId, CHANGES],
  );
  const ended = { is: false };
  const failed = (error: unknown): never => {
    throw error;
  };
  const loops = Promise.all([
    (async () => {
      while (!ended.is)
        if ((await followEvents(db, CONSUMERS, failed)) === 0) await new Promise((r) => setTimeout(r, 20));
    })(),
    (async () => {
      while (!ended.is)
        if ((await runAutomations(db, 'bench', asking, () => Date.now(), failed)) === 0)
          await new Promise((r) => setTimeout(r, 20));
    })(),
  ]);
  const began = performance.now();
  // Every other one comes to meet the condition: an automation says 5,000 things an hour at most.
  await pMap(
    records,
    async (record, at) => {
      const wait = began + (at * 60_000) / 10_000 - performance.now();
      if (wait > 0) await new Promise((resolve) => setTimeout(resolve, wait));
      await alterRecord(db, coordinator, sheetId, record.id, { c2: at % 2 === 0 ? '59' : '11' });
    },
    { concurrency: WRITERS },
  );
  const changed = performance.now();
  const done = async (): Promise<number> => {
    const [row] = await rows<{ n: number }>(
      db,
      'SELECT COUNT(*) AS n FROM automation_sayings y JOIN automation_runs r ON r.id = y.run_id WHERE r.automation_id = ? AND y.occurrence_id IS NOT NULL',
      [id],
    );
    return row?.n ?? 0;
  };
  while ((await done()) < Math.ceil(records.length / 2)) await new Promise((r) => setTimeout(r, 50));
  const last = performance.now();
  ended.is = true;
  await loops;
  console.log(
    `${records.length} records changed in ${((changed - began) / 1000).toFixed(1)} s, ${WRITERS} at once, through a live automation (put to work in ${ms(publishing)}): ` +
      `said ${await done()}, as many as came to meet its condition, none lost, none twice; the last ${ms(last - changed)} after the last change; aim 10,000 in a minute and under 5 s`,
  );
}

/** Expands what is due of an occurrence into inbox deliveries. */
async function expandAll(db: Database, occurrence: number): Promise<void> {
  const claimant = { engine: 'bench', seconds: 300 };
  const [bucket] = await claimBuckets(db, claimant, 1);
  const planned = await occurrenceById(db, occurrence);
  if (bucket?.occurrenceId !== occurrence || !planned) throw new Error('Something else is due');
  await expand(db, bucket, planned, claimant, await readWorld(db));
}

/** An automation that a clock sets off, telling everybody, from its run to the last delivery; beside a plain send of the same. */
async function telling(db: Database): Promise<void> {
  const when: When = {
    kind: 'schedule',
    start: new Date(Date.now() + 86_400_000).toISOString().slice(0, 16),
    zone: 'UTC',
    rule: { ...WEEKLY, freq: 'daily' },
    sheetId: null,
  };
  const id = await makeAutomation(db, coordinator, { name: 'To everybody', when });
  const automation = written(when);
  const revision = await saveDraft(db, coordinator, id, {
    revision: 1,
    automation: {
      ...automation,
      if: { kind: 'all', of: [] },
      tell: { ...automation.tell, to: { kind: 'audience', audience: { kind: 'everyone' } } },
    },
  });
  await publish(db, coordinator, id, revision);
  // What was said before is not delivered here.
  await db.raw("UPDATE buckets SET due_at = NOW(3) + INTERVAL 1 DAY WHERE state = 'planned'");
  const failed = (error: unknown): never => {
    throw error;
  };
  const ours: number[] = [];
  const plain: number[] = [];
  // The first pair warms the buffer pool.
  for (let round = 0; round <= times(5); round++) {
    const took = await timed(async () => {
      await runNow(db, coordinator, id, `round-${round}`);
      await runAutomations(db, 'bench', asking, () => Date.now(), failed);
      const { occurrenceId } = await one<{ occurrenceId: number }>(
        db,
        `SELECT MAX(y.occurrence_id) AS occurrenceId FROM automation_sayings y JOIN automation_runs r ON r.id = y.run_id
         WHERE r.automation_id = ?`,
        [id],
      );
      await expandAll(db, occurrenceId);
    });
    const beside = await timed(async () => {
      const occurrence = await send(db, {});
      await dueAtInstant(db, [occurrence], await now(db));
      await expandAll(db, occurrence);
    });
    if (round > 0 || times(5) === 1) {
      ours.push(took);
      plain.push(beside);
    }
  }
  const { n } = await one<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM people');
  console.log(
    `an automation that a clock sets off tells each of ${n} people: ${ms(median(ours))}; a plain send of the same ${ms(median(plain))}: ${(median(ours) / median(plain)).toFixed(2)} times`,
  );
}

async function looking(db: Database): Promise<void> {
  const [people] = await rows<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM people');
  const groups: number[] = [];
  for (let at = 0; at < GROUPS; at++) {
    const [groupId = 0] = await db('groups').insert({
      name: `Live ${at}`,
      kind: 'live',
      rule: JSON.stringify({
        kind: 'joined since',
        date: `2020-01-${String(1 + (at % 28)).padStart(2, '0')}`,
      }),
    });
    groups.push(groupId);
  }
  const some = groups.slice(0, times(20));
  for (const groupId of some) await lookAtGroup(db, groupId);
  const took: number[] = [];
  const bare: number[] = [];
  const now = await audienceContext(db);
  for (const groupId of some) {
    took.push(await timed(() => lookAtGroup(db, groupId)));
    bare.push(await timed(() => countPeople(db, { kind: 'group', id: groupId }, now)));
  }
  console.log(
    `a live group looked at again among ${people?.n ?? 0} people (with ${GROUPS} groups): ${ms(median(took))}; the bare recount ${ms(median(bare))}: ${(median(took) / median(bare)).toFixed(1)} times`,
  );
}
