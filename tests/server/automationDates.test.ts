import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { personDatesDue, type OnPersonDate } from '../../src/core/automation/dates.ts';
import type { SheetColumn } from '../../src/core/sheets/sheet.ts';
import { dateAt, dayAfter, wallAt } from '../../src/core/timing/wallTime.ts';
import { lineUpDates } from '../../src/server/automations/dates.ts';
import { publishProblems } from '../../src/server/automations/publishProblems.ts';
import { changeAttribute } from '../../src/server/people/kinds.ts';
import { replay } from '../../src/server/automations/replay.ts';
import { switchAutomation } from '../../src/server/automations/service.ts';
import { automationById } from '../../src/server/automations/store.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import { addRecord, alterRecord, deleteRecord, makeSheet } from '../../src/server/sheets/service.ts';
import { actIn, field, putToWork, runsIn, saidIn, says } from './automating.ts';
import { runSheet } from '../../src/server/sends/runSheet.ts';
import { addGroup, addPeople, coordinator, followAll, freshDatabase } from './world.ts';

let db: Database;
beforeAll(async () => {
  ({ db } = await freshDatabase('automation_dates'));
});
beforeEach(() => db.raw("UPDATE automations SET state = 'off'"));
afterAll(() => db.destroy());

const COLUMNS: SheetColumn[] = [
  { id: 'c1', name: 'Loan', kind: 'text', unit: '', choices: [] },
  { id: 'c2', name: 'Back by', kind: 'moment', unit: '', choices: [] },
  { id: 'c3', name: 'Day', kind: 'date', unit: '', choices: [] },
  { id: 'c4', name: 'Status', kind: 'choice', unit: '', choices: ['asked', 'out', 'back'] },
];
let sheets = 0;
const sheet = (): Promise<number> =>
  makeSheet(db, coordinator, { name: `Loans ${++sheets}`, purpose: '', columns: COLUMNS, form: null });
const toCoordinator = {
  to: { kind: 'audience' as const, audience: { kind: 'person' as const, id: coordinator.id } },
  boards: [],
  outside: [],
  boardField: null,
  mail: false,
  otherwise: null,
};
const instant = (ms: number): string => `${new Date(ms).toISOString().slice(0, 16)}Z`;
const MINUTE = 60_000;
/** Lets the runs that wait for their time be taken now. */
const timePasses = (id: number) =>
  db.raw("UPDATE automation_runs SET try_at = NOW(3) WHERE automation_id = ? AND state = 'waiting'", [id]);

const onMoment = (sheetId: number, part = {}) => ({
  kind: 'date' as const,
  sheetId,
  column: 'c2',
  span: -2,
  unit: 'hours' as const,
  time: '09:00',
  zone: 'UTC',
  ...part,
});

describe('a date in a record', () => {
  it('sets a reminder off at its time, reads records as they are then, and is none of its business before it was put to work', async () => {
    const of = await sheet();
    const now = await databaseNow(db);
    const due = now - (now % MINUTE) + 122 * MINUTE;
    await addRecord(db, coordinator, of, { c1: 'Long past', c2: instant(now - 60 * MINUTE) });
    const [kept, moved, gone] = [
      await addRecord(db, coordinator, of, { c1: 'Kept', c2: instant(due) }),
      await addRecord(db, coordinator, of, { c1: 'Moved', c2: instant(due) }),
      await addRecord(db, coordinator, of, { c1: 'Gone', c2: instant(due) }),
    ];
    const id = await putToWork(db, onMoment(of), {
      content: says('A loan is due', field('record.c1', 'A loan')),
      each: { kind: 'each' },
      tell: toCoordinator,
    });
    // Lined up when it is put to work, and not again by other engines.
    await Promise.all([lineUpDates(db), lineUpDates(db)]);
    expect((await runsIn(db, id)).map(({ dueMs, state }) => ({ dueMs, state }))).toEqual([
      { dueMs: due - 120 * MINUTE, state: 'waiting' },
    ]);
    await alterRecord(db, coordinator, of, moved, { c2: instant(due + 5 * MINUTE) });
    await deleteRecord(db, coordinator, of, gone);
    await followAll(db);
    expect(await runsIn(db, id)).toHaveLength(2);
    await timePasses(id);
    await actIn(db);
    expect((await saidIn(db, id)).map((each) => each.dueMs).sort()).toEqual([
      due - 120 * MINUTE,
      due - 115 * MINUTE,
    ]);
    expect(kept).toBeGreaterThan(0);
    expect((await saidIn(db, id)).map((each) => /Kept|Moved|Gone|past/.exec(each.body)?.[0]).sort()).toEqual([
      'Kept',
      'Moved',
    ]);
  });

  it('is made up for after an outage by its own rule, and not for what came due while it was off', async () => {
    const of = await sheet();
    const now = await databaseNow(db);
    await addRecord(db, coordinator, of, { c1: 'In the outage', c2: instant(now - 30 * MINUTE) });
    const id = await putToWork(db, onMoment(of, { span: 0 }), {
      content: says('Due', field('record.c1', 'A loan')),
      tell: toCoordinator,
      lapseMinutes: 60,
    });
    expect(await runsIn(db, id)).toEqual([]);
    // As if no engine had looked for an hour.
    await db.raw('UPDATE automations SET looked_until = NOW(3) - INTERVAL 1 HOUR WHERE id = ?', [id]);
    expect(await lineUpDates(db)).toBe(1);
    await actIn(db);
    expect(await saidIn(db, id)).toHaveLength(1);
    await addRecord(db, coordinator, of, { c1: 'Too late', c2: instant(now - 10 * MINUTE) });
    await switchAutomation(db, coordinator, id, false);
    await db.raw('UPDATE automations SET looked_until = NOW(3) - INTERVAL 1 HOUR WHERE id = ?', [id]);
    await switchAutomation(db, coordinator, id, true);
    await actIn(db);
    expect(await saidIn(db, id)).toHaveLength(1);
    expect((await automationById(db, id))?.lookedUntilMs).toBeGreaterThanOrEqual(now);
  });

  it('of a day goes by its hour in its zone, once for all records of that day', async () => {
    const of = await sheet();
    const zone = 'Pacific/Auckland';
    const now = await databaseNow(db);
    const wall = wallAt(now + 3 * MINUTE, zone);
    for (const name of ['One', 'Two'])
      await addRecord(db, coordinator, of, { c1: name, c3: dayAfter(wall.slice(0, 10), 3) });
    const id = await putToWork(
      db,
      onMoment(of, { column: 'c3', span: -3, unit: 'days', time: wall.slice(11), zone }),
      {
        content: says('Loans', 'There are ', field('run.count'), ' of them.'),
        each: { kind: 'once' },
        tell: toCoordinator,
      },
    );
    const ahead = async (): Promise<string[]> =>
      (await runSheet(db, coordinator, now, now + 60 * MINUTE))
        .filter((row) => row.automationId === id)
        .map((row) => wallAt(row.dueMs, zone));
    expect(await ahead()).toEqual([wall]);
    await timePasses(id);
    await actIn(db);
    const [said, ...more] = await saidIn(db, id);
    expect(more).toEqual([]);
    expect(said?.body).toContain('2');
    expect(wallAt(said?.dueMs ?? 0, zone)).toBe(wall);
    // What it has said stands there as a send, and no longer as what is to come.
    expect(await ahead()).toEqual([]);
    const [reader] = await addPeople(db, 1);
    const editor = { ...coordinator, id: reader!, role: 'editor' as const };
    expect(
      (await runSheet(db, editor, now, now + 60 * MINUTE)).filter((row) => row.automationId !== null),
    ).toEqual([]);
    const past = await replay(db, coordinator, id, (await automationById(db, id))!.draft);
    expect(past.runs).toBe(0);
  });
});

describe('a column that changes', () => {
  it('is told of with what it held before, and not where another column changed or a record is new', async () => {
    const of = await sheet();
    const id = await putToWork(
      db,
      { kind: 'changes', sheetId: of, column: 'c4' },
      {
        if: { kind: 'test', field: 'record.c4', test: 'is', against: { kind: 'value', value: 'out' } },
        content: says('It moved', field('run.before', 'nothing'), ' to ', field('record.c4')),
        tell: toCoordinator,
      },
    );
    const record = await addRecord(db, coordinator, of, { c1: 'Poppy', c4: 'out' });
    await alterRecord(db, coordinator, of, record, { c1: 'Blue poppy' });
    await alterRecord(db, coordinator, of, record, { c4: 'back' });
    await alterRecord(db, coordinator, of, record, { c4: 'out' });
    await actIn(db);
    const said = await saidIn(db, id);
    expect(said).toHaveLength(1);
    expect(said[0]?.body).toMatch(/back.*out/s);
    expect((await runsIn(db, id)).map((run) => run.state).sort()).toEqual(['nothing', 'said']);
  });
});

describe('the day somebody joined', () => {
  it('comes round each year at an hour of their own clock, for who is in the group then', async () => {
    const [east, west, out] = await addPeople(db, 3);
    const group = await addGroup(db, 'Anniversaries', [east!, west!]);
    const now = await databaseNow(db);
    const soon = now + 5 * MINUTE;
    const place = async (id: number, zone: string, years: number): Promise<void> => {
      const day = dateAt(soon, zone);
      await db('people')
        .where({ id })
        .update({ zone, joined_on: `${Number(day.slice(0, 4)) - years}${day.slice(4)}` });
    };
    await place(east!, 'Pacific/Auckland', 3);
    await place(west!, 'America/Los_Angeles', 1);
    await place(out!, 'Pacific/Auckland', 2);
    const at = (zone: string): string => wallAt(soon, zone).slice(11);
    const id = await putToWork(
      db,
      { kind: 'person date', groupId: group, span: 0, time: at('Pacific/Auckland'), yearly: true },
      {
        content: says('Thank you', field('person.years'), ' years, ', field('person.name')),
        tell: { ...toCoordinator, to: { kind: 'person' } },
      },
    );
    await timePasses(id);
    await actIn(db);
    const said = await saidIn(db, id);
    expect(said).toHaveLength(1);
    expect(said[0]?.body).toContain('3');
    expect(JSON.parse(said[0]?.audience ?? '{}')).toEqual({
      kind: 'all',
      of: [
        { kind: 'group', id: group },
        { kind: 'person', id: east },
      ],
    });
    expect(wallAt(said[0]?.dueMs ?? 0, 'Pacific/Auckland').slice(11)).toBe(at('Pacific/Auckland'));
    const runs = await rows<{ n: number }>(
      db,
      'SELECT COUNT(*) AS n FROM automation_runs WHERE automation_id = ?',
      [id],
    );
    expect(runs[0]?.n).toBe(1);
  });

  it('may be another date that is known of somebody, whatever that is called later, on the day before in years without it', async () => {
    const [one, two, out] = (await addPeople(db, 3)) as [number, number, number];
    const group = await addGroup(db, 'Keys', [one, two]);
    await changeAttribute(db, coordinator, { from: null, name: 'Key until', kind: 'date', choices: [] });
    const soon = (await databaseNow(db)) + 5 * MINUTE;
    const today = dateAt(soon, 'UTC');
    await db('people').whereIn('id', [one, two, out]).update({ zone: 'UTC' });
    await db('person_attributes').insert([
      { person_id: one, name: 'Key until', value: dayAfter(today, 7) },
      { person_id: two, name: 'Key until', value: dayAfter(today, 8) },
      { person_id: out, name: 'Key until', value: dayAfter(today, 7) },
    ]);
    const when: OnPersonDate = {
      kind: 'person date',
      groupId: group,
      of: { kind: 'attribute', name: 'Key until' },
      span: -7,
      time: wallAt(soon, 'UTC').slice(11),
      yearly: false,
    };
    const id = await putToWork(db, when, {
      content: says('Your key', field('person.date'), ' ', field('person.name')),
      tell: { ...toCoordinator, to: { kind: 'person' } },
    });
    await changeAttribute(db, coordinator, {
      from: 'Key until',
      name: 'Keyholder until',
      kind: 'date',
      choices: [],
    });
    await timePasses(id);
    await actIn(db);
    const said = await saidIn(db, id);
    expect(said.map(({ audience }) => JSON.parse(audience) as unknown)).toEqual([
      {
        kind: 'all',
        of: [
          { kind: 'group', id: group },
          { kind: 'person', id: one },
        ],
      },
    ]);
    expect(said[0]?.body).toContain(String(Number(dayAfter(today, 7).slice(8))));
    const row = (await automationById(db, id))!;
    expect(row.live?.when).toMatchObject({ of: { name: 'Keyholder until' } });
    const published = async (): Promise<string[]> =>
      (await publishProblems(db, coordinator, row.draft, coordinator.id)).map(({ detail }) => detail);
    expect(await published()).toEqual([]);
    await changeAttribute(db, coordinator, {
      from: 'Keyholder until',
      name: 'Keyholder until',
      kind: 'text',
      choices: [],
    });
    expect((await published())[0]).toMatch(/“Keyholder until” and holds dates/);
    // 29 February comes round on the 28th.
    const leap = personDatesDue(
      { ...when, span: 0, yearly: true },
      '2024-02-29',
      'UTC',
      Date.UTC(2027, 0),
      Date.UTC(2029, 0),
    );
    expect(leap.map((ms) => new Date(ms).toISOString().slice(0, 10))).toEqual(['2027-02-28', '2028-02-29']);
  });
});
