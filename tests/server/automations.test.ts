import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { until } from '../../scripts/house/processes.ts';
import { newAutomation, type Automation, type When } from '../../src/core/automation/automation.ts';
import type { Condition } from '../../src/core/automation/condition.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import type { SheetColumn } from '../../src/core/sheets/sheet.ts';
import { runAutomations } from '../../src/server/automations/running.ts';
import { openRun, tryRunAgain } from '../../src/server/automations/runs.ts';
import { claimRuns, insertRun } from '../../src/server/automations/runStore.ts';
import { replay } from '../../src/server/automations/replay.ts';
import {
  deleteAutomation,
  makeAutomation,
  publish,
  saveDraft,
  switchAutomation,
} from '../../src/server/automations/service.ts';
import { automationById } from '../../src/server/automations/store.ts';
import { tryAutomation } from '../../src/server/automations/trial.ts';
import { lookAtGroup } from '../../src/server/automations/watching.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import { foldHandle } from '../../src/core/directory/identity.ts';
import { appointOwner } from '../../src/server/groups/service.ts';
import { insertIdentity } from '../../src/server/identities/store.ts';
import { addRecord, addRecords, alterRecord, makeSheet } from '../../src/server/sheets/service.ts';
import { unseal } from '../../src/server/sealing.ts';
import { addSource, alterSource } from '../../src/server/sources/service.ts';
import { insertSource, sourceById } from '../../src/server/sources/store.ts';
import { actIn, field, putToWork, runsIn, saidIn, says, type Said } from './automating.ts';
import {
  addGroup,
  addPeople,
  coordinator,
  countOf,
  followAll,
  freshDatabase,
  mailHouse,
  SECRET,
  startEngine,
  type MailHouse,
} from './world.ts';

let db: Database;
let mail: MailHouse;
const engines: { stop: () => Promise<void> }[] = [];
const engine = async (part = {}): Promise<void> => {
  engines.push(await startEngine(db, mail.url, part));
};

beforeAll(async () => {
  ({ db } = await freshDatabase('automations'));
  mail = await mailHouse();
});
beforeEach(async () => {
  await db.raw("UPDATE automations SET state = 'off'");
});
afterEach(async () => {
  await Promise.all(engines.splice(0).map((each) => each.stop()));
});
afterAll(async () => {
  await mail.stop();
  await db.destroy();
});

const test = (of: string, how: 'is filled in' | 'is over' | 'is', value = ''): Condition => ({
  kind: 'test',
  field: of,
  test: how,
  against: { kind: 'value', value },
});

const asking = { secret: SECRET, inside: [] as string[] };
const work = (when: When, part: Partial<Automation>, by: Actor = coordinator): Promise<number> =>
  putToWork(db, when, part, by);
const actAll = (inside: string[] = []): Promise<void> => actIn(db, inside);
const saidBy = (id: number): Promise<Said[]> => saidIn(db, id);
const runsOf = (id: number) => runsIn(db, id);

const COLUMNS: SheetColumn[] = [
  { id: 'c1', name: 'Station', kind: 'text', unit: '', choices: [] },
  { id: 'c2', name: 'Humidity', kind: 'number', unit: '%', choices: [] },
  { id: 'c3', name: 'Limit', kind: 'number', unit: '%', choices: [] },
  { id: 'c4', name: 'Curator', kind: 'person', unit: '', choices: [] },
];
let sheets = 0;
const sheet = (): Promise<number> =>
  makeSheet(db, coordinator, { name: `Readings ${++sheets}`, purpose: '', columns: COLUMNS, form: null });

describe('a welcome', () => {
  it('greets whoever comes into a group, once with two engines, and nobody who was in it before', async () => {
    const [before, comes] = await addPeople(db, 2);
    const group = await addGroup(db, 'Welcomed', [before!]);
    const id = await work(
      { kind: 'joins', groupId: group },
      { content: says('Welcome, {their first name}', field('person.name')) },
    );
    await Promise.all([engine(), engine()]);
    await db('group_members').insert({ group_id: group, person_id: comes! });
    await db('events').insert({
      kind: 'group.membership changed',
      version: 1,
      subject: `group:${group}`,
      detail: JSON.stringify({ group, joined: [comes], left: [] }),
    });
    const inbox = (person: number): Promise<number> =>
      countOf(
        db,
        "FROM deliveries d JOIN occurrences o ON o.id = d.occurrence_id JOIN sends s ON s.id = o.send_id WHERE d.person_id = ? AND d.method = 'inbox' AND d.state = 'delivered' AND s.run_id IS NOT NULL",
        [person],
      );
    expect(await until(async () => (await inbox(comes!)) > 0, 20_000)).toBe(true);
    expect(await inbox(before!)).toBe(0);
    expect(await saidBy(id)).toHaveLength(1);
    expect(await saidBy(id)).toEqual([expect.objectContaining({ title: 'Welcome, Person' })]);
    // Out and in again is another coming, and is greeted anew.
    await db('group_members').where({ group_id: group, person_id: comes! }).delete();
    await lookAtGroup(db, group);
    await db('group_members').insert({ group_id: group, person_id: comes! });
    await lookAtGroup(db, group);
    expect(await until(async () => (await saidBy(id)).length === 2, 20_000)).toBe(true);
  });

  it('is one for each of several groups, or one in all where it goes by a live group of them', async () => {
    const [comes, later] = await addPeople(db, 2);
    const [one, other] = [
      await addGroup(db, 'One of two', []),
      await addGroup(db, 'The other of two', [later!]),
    ];
    const either = await addGroup(db, 'Either of two', {
      kind: 'any',
      of: [one, other].map((id) => ({ kind: 'group' as const, id })),
    });
    const greet = (groupId: number): Promise<number> =>
      work({ kind: 'joins', groupId }, { content: says('Welcome', field('person.group')) });
    const [forOne, forOther, inAll] = [await greet(one), await greet(other), await greet(either)];
    await db('group_members').insert([one, other].map((group_id) => ({ group_id, person_id: comes! })));
    // Whoever is in one of them already comes into the other by it, and not into all of them.
    await db('group_members').insert({ group_id: one, person_id: later! });
    for (const group of [one, other, either]) await lookAtGroup(db, group);
    await actAll();
    const said = await Promise.all([forOne, forOther, inAll].map(saidBy));
    expect(said.map((each) => each.length)).toEqual([2, 1, 1]);
  });

  it('waits for a civil hour on the clock of the one who came, and is not said to whoever is gone by then', async () => {
    const [comes] = await addPeople(db, 1, 2);
    const group = await addGroup(db, 'Of the south', []);
    const id = await work(
      { kind: 'joins', groupId: group },
      { content: says('Welcome', 'Read on.'), due: { kind: 'hour', time: '08:30' } },
    );
    await db('group_members').insert({ group_id: group, person_id: comes! });
    await lookAtGroup(db, group);
    await actAll();
    const [said] = await saidBy(id);
    const clock = new Intl.DateTimeFormat('en-GB', {
      timeZone: 'Pacific/Auckland',
      hour: '2-digit',
      minute: '2-digit',
    });
    expect(clock.format(said!.dueMs)).toBe('08:30');
    const ahead = said!.dueMs - (await databaseNow(db));
    expect(ahead).toBeGreaterThan(-1_000);
    expect(ahead).toBeLessThanOrEqual(86_400_000);
    await db('group_members').where({ group_id: group, person_id: comes! }).delete();
    await db.raw('UPDATE buckets SET due_at = NOW(3) WHERE due_at > NOW(3)');
    await engine();
    const ended = (): Promise<number> => countOf(db, "FROM buckets WHERE state IN ('planned', 'expanding')");
    expect(await until(async () => (await ended()) === 0, 20_000)).toBe(true);
    expect(await countOf(db, 'FROM deliveries WHERE person_id = ?', [comes!])).toBe(0);
  });

  it('lets an editor greet only in groups within their reach, as their reach is then', async () => {
    const [editorId, comes] = await addPeople(db, 2);
    await db('people').where({ id: editorId! }).update({ role: 'editor' });
    const [mine, other] = [await addGroup(db, 'Mine', []), await addGroup(db, 'Not mine', [])];
    await db('editor_reach').insert({ person_id: editorId!, group_id: mine });
    const editor: Actor = { id: editorId!, role: 'editor', moderates: new Set(), mayReach: new Set([mine]) };
    await expect(
      work({ kind: 'joins', groupId: other }, { content: says('Welcome', 'Here.') }, editor),
    ).rejects.toThrow(/cannot be put to work/);
    const id = await work({ kind: 'joins', groupId: mine }, { content: says('Welcome', 'Here.') }, editor);
    await db('editor_reach').where({ person_id: editorId! }).delete();
    await db('group_members').insert({ group_id: mine, person_id: comes! });
    await lookAtGroup(db, mine);
    await actAll();
    expect(await saidBy(id)).toHaveLength(0);
    expect((await runsOf(id))[0]).toMatchObject({
      state: 'held',
      reason: expect.stringContaining('groups you look after') as string,
    });
  });
});

describe('records', () => {
  it('posts a table of just those past their limit, and nothing where there are none', async () => {
    const readings = await sheet();
    const board = await insertBoard(db, {
      name: 'Vaults',
      about: 'Vaults.',
      groupId: null,
      posting: 'moderators',
    });
    const start = new Date((await databaseNow(db)) + 3_600_000).toISOString().slice(0, 16);
    const id = await work(
      { kind: 'schedule', start, zone: 'UTC', rule: { ...WEEKLY, freq: 'daily' }, sheetId: readings },
      {
        if: {
          kind: 'test',
          field: 'record.c2',
          test: 'is over',
          against: { kind: 'field', field: 'record.c3', share: 90 },
        },
        each: { kind: 'once' },
        tell: { to: null, boards: [board], outside: [], boardField: null, mail: false, otherwise: null },
        content: says('{how many} past nine tenths of their limit', 'Look after these.'),
        table: {
          columns: ['record.c1', 'record.c2'],
          order: { field: 'record.c2', descending: true },
          most: 1,
        },
      },
    );
    const runNow = async (key: string): Promise<void> => {
      const row = await automationById(db, id);
      const now = await databaseNow(db);
      expect(
        await insertRun(db, {
          automationId: id,
          versionId: row!.liveVersionId!,
          causeKey: key,
          cause: { kind: 'time', wall: '' },
          dueMs: now,
        }),
      ).toBe(true);
      expect(
        await insertRun(db, {
          automationId: id,
          versionId: row!.liveVersionId!,
          causeKey: key,
          cause: { kind: 'time', wall: '' },
          dueMs: now,
        }),
      ).toBe(false);
      await actAll();
    };
    await addRecords(db, coordinator, readings, [
      { c1: 'North', c2: '30', c3: '60' },
      { c1: 'East', c3: '60' },
    ]);
    await runNow('none');
    expect((await runsOf(id))[0]).toMatchObject({ state: 'nothing', matched: 0, said: 0 });
    await addRecords(db, coordinator, readings, [
      { c1: 'South', c2: '55', c3: '60' },
      { c1: 'West', c2: '58.5 %', c3: '60' },
    ]);
    await runNow('two');
    const said = await saidBy(id);
    expect(said).toHaveLength(1);
    expect(said[0]!.title).toBe('2 past nine tenths of their limit');
    expect(said[0]!.body).toContain('West');
    expect(said[0]!.body).toContain('58.5%');
    expect(said[0]!.body).toContain('and 1 more.');
    expect(said[0]!.body).not.toContain('North');
    // A rule's time waits as well, and is what the list tells as next.
    expect(
      await countOf(db, "FROM automation_runs WHERE automation_id = ? AND state = 'waiting'", [id]),
    ).toBe(1);
  });

  it('tells the one a column names by an outside handle, else the others, and can be tried again once the handle is known', async () => {
    const loans = await sheet();
    const [curator] = await addPeople(db, 1);
    const desk = await addGroup(db, 'The loans desk', [curator!]);
    const complete: Condition = {
      kind: 'all',
      of: [test('record.c1', 'is filled in'), test('record.c4', 'is filled in')],
    };
    const part: Partial<Automation> = {
      if: complete,
      tell: {
        to: { kind: 'named', field: 'record.c4', system: 'loans' },
        boards: [],
        outside: [],
        boardField: null,
        mail: true,
        otherwise: null,
      },
      content: says('A loan for {Station}', field('record.c1')),
    };
    const id = await work({ kind: 'meets', sheetId: loans, again: false }, part);
    const other = await work(
      { kind: 'meets', sheetId: loans, again: false },
      {
        ...part,
        tell: { ...part.tell!, otherwise: { audience: { kind: 'group', id: desk }, boards: [] } },
      },
    );
    const record = await addRecord(db, coordinator, loans, { c1: 'North' });
    await actAll();
    expect(await runsOf(id)).toHaveLength(0);
    await alterRecord(db, coordinator, loans, record, { c4: '@K.Ferro' });
    await alterRecord(db, coordinator, loans, record, { c2: '4' });
    await actAll();
    const [run] = await runsOf(id);
    expect(run).toMatchObject({ state: 'held', said: 0, keptBack: 1 });
    expect((await openRun(db, coordinator, run!.id)).sayings[0]).toMatchObject({
      reason: 'Nobody is “@K.Ferro” in loans.',
      missing: { system: 'loans', value: '@K.Ferro' },
    });
    expect((await saidBy(other)).map((said) => JSON.parse(said.audience) as unknown)).toEqual([
      { kind: 'group', id: desk },
    ]);
    await insertIdentity(db, {
      personId: curator!,
      system: 'loans',
      value: 'k.ferro',
      folded: foldHandle('k.ferro'),
    });
    await tryRunAgain(db, coordinator, run!.id);
    await actAll();
    expect((await saidBy(id)).map((said) => JSON.parse(said.audience) as unknown)).toEqual([
      { kind: 'person', id: curator! },
    ]);
    expect((await runsOf(other)).filter((each) => each.said > 0)).toHaveLength(1);
  });

  it('tells of a record each time it comes to meet the condition anew, or once, as chosen', async () => {
    const readings = await sheet();
    const part: Partial<Automation> = {
      if: test('record.c2', 'is over', '50'),
      tell: {
        to: { kind: 'audience', audience: { kind: 'everyone' } },
        boards: [],
        outside: [],
        boardField: null,
        mail: false,
        otherwise: null,
      },
      content: says('Humid', 'Look.'),
    };
    const known = await addRecord(db, coordinator, readings, { c2: '90' });
    const once = await work({ kind: 'meets', sheetId: readings, again: false }, part);
    const anew = await work({ kind: 'meets', sheetId: readings, again: true }, part);
    await alterRecord(db, coordinator, readings, known, { c2: '91' });
    await actAll();
    expect(await saidBy(anew)).toHaveLength(0);
    const record = await addRecord(db, coordinator, readings, { c2: '10' });
    for (const value of ['60', '70', '20', '80']) {
      await alterRecord(db, coordinator, readings, record, { c2: value });
      await actAll();
    }
    expect(await saidBy(once)).toHaveLength(1);
    expect(await saidBy(anew)).toHaveLength(2);
  });

  it('says nothing of ten thousand at once: it pauses, tells whoever looks after it, and says why', async () => {
    const readings = await sheet();
    const id = await work(
      { kind: 'meets', sheetId: readings, again: false },
      {
        if: test('record.c1', 'is filled in'),
        tell: {
          to: { kind: 'audience', audience: { kind: 'everyone' } },
          boards: [],
          outside: [],
          boardField: null,
          mail: false,
          otherwise: null,
        },
        content: says('One more', field('record.c1')),
        ceiling: 5,
      },
    );
    await addRecords(
      db,
      coordinator,
      readings,
      Array.from({ length: 40 }, (_, at) => ({ c1: `Row ${at}` })),
    );
    await actAll();
    expect(await saidBy(id)).toHaveLength(0);
    expect(await automationById(db, id)).toMatchObject({
      state: 'paused',
      whyPaused: expect.stringContaining('ceiling is 5') as string,
    });
    expect(await countOf(db, 'FROM notices WHERE person_id = 1 AND path = ?', [`/automations/${id}`])).toBe(
      1,
    );
    await addRecord(db, coordinator, readings, { c1: 'Later' });
    await actAll();
    expect(await saidBy(id)).toHaveLength(0);
  });
});

describe('looking up', () => {
  let source: Server;
  let asked: string[] = [];
  let answer: (path: string) => { status: number; body: string };
  let origin = '';
  beforeAll(async () => {
    source = createServer((request, response) => {
      asked.push(request.url ?? '');
      const { status, body } = answer(request.url ?? '');
      response.writeHead(status, { 'content-type': 'application/json' }).end(body);
    });
    await new Promise<void>((resolve) => source.listen(0, '127.0.0.1', resolve));
    origin = `http://127.0.0.1:${(source.address() as AddressInfo).port}`;
  });
  afterAll(() => new Promise((resolve) => source.close(resolve)));

  const conditions = async (): Promise<{ sheetId: number; sourceId: number }> => ({
    sheetId: await sheet(),
    sourceId: await insertSource(
      db,
      {
        name: `Conditions ${++sheets}`,
        url: `${origin}/at?place={place}`,
        header: '',
        fields: [{ name: 'river', pointer: '/river/level', kind: 'number', unit: 'm' }],
        keepMinutes: 0,
      },
      null,
      1,
    ),
  });

  it('keeps a secret sealed, and lets go of it where the source moves to another origin', async () => {
    const at = (url: string) => ({
      name: 'Sealed',
      url,
      header: 'X-Key',
      fields: [{ name: 'river', pointer: '/river', kind: 'number' as const, unit: '' }],
      keepMinutes: 0,
    });
    const first = { source: at('https://one.example/a'), secret: 'hush' };
    const id = await addSource(db, coordinator, first, SECRET);
    const sealed = async (): Promise<Buffer | null> => (await sourceById(db, id))?.sealed ?? null;
    expect((await sealed())?.includes('hush')).toBe(false);
    await alterSource(db, coordinator, id, { source: at('https://one.example/b'), secret: '' }, SECRET);
    expect(unseal(SECRET, (await sealed())!)).toBe('hush');
    await alterSource(db, coordinator, id, { source: at('https://two.example/b'), secret: '' }, SECRET);
    expect(await sealed()).toBeNull();
  });

  it('asks once for each distinct value, says what was found, and keeps back what could not be asked', async () => {
    const { sheetId, sourceId } = await conditions();
    answer = (path) =>
      path.includes('East')
        ? { status: 200, body: '<html>' }
        : { status: 200, body: '{"river":{"level":2.4}}' };
    asked = [];
    await addRecords(
      db,
      coordinator,
      sheetId,
      ['North', 'North', 'South', 'East', 'North'].map((c1) => ({ c1 })),
    );
    const part: Partial<Automation> = {
      each: { kind: 'group', field: 'record.c1' },
      if: test('record.c1', 'is filled in'),
      lookup: { sourceId, inputs: { place: 'record.c1' } },
      tell: {
        to: { kind: 'audience', audience: { kind: 'everyone' } },
        boards: [],
        outside: [],
        boardField: null,
        mail: false,
        otherwise: null,
      },
      content: says('{Station}', 'The river stands at ', field('found.river', 'an unknown level')),
    };
    const start = new Date((await databaseNow(db)) + 3_600_000).toISOString().slice(0, 16);
    const id = await work(
      { kind: 'schedule', start, zone: 'UTC', rule: { ...WEEKLY, freq: 'daily' }, sheetId },
      part,
    );
    const row = await automationById(db, id);
    const due = (key: string): Promise<boolean> =>
      insertRun(db, {
        automationId: id,
        versionId: row!.liveVersionId!,
        causeKey: key,
        cause: { kind: 'time', wall: '' },
        dueMs: 1,
      });
    await db.raw(
      "UPDATE automation_versions SET automation = JSON_SET(automation, '$.lapseMinutes', NULL) WHERE automation_id = ?",
      [id],
    );
    await due('inside');
    await actAll();
    expect(asked).toEqual([]);
    expect((await runsOf(id))[0]).toMatchObject({ said: 0, keptBack: 5 });
    await due('listed');
    await actAll([origin]);
    const said = await saidBy(id);
    expect(said.map((each) => each.title)).toEqual(['North', 'South']);
    expect(said[0]!.body).toContain('2.4 m');
    expect(asked.filter((each) => each.includes('North'))).toHaveLength(1);
    expect((await runsOf(id))[0]).toMatchObject({ state: 'said', said: 2, keptBack: 1 });
  });
});

describe('guards', () => {
  it('does a cause once, also where an engine dies between taking it and saying it', async () => {
    const group = await addGroup(db, 'Guarded', []);
    const people = await addPeople(db, 6);
    const id = await work({ kind: 'joins', groupId: group }, { content: says('Welcome', 'Here.') });
    await db('group_members').insert(people.map((person) => ({ group_id: group, person_id: person })));
    await Promise.all([lookAtGroup(db, group), lookAtGroup(db, group), lookAtGroup(db, group)]);
    await followAll(db);
    expect(await claimRuns(db, 'dead', 60, 3)).toHaveLength(3);
    await actAll();
    expect(await saidBy(id)).toHaveLength(3);
    await db.raw("UPDATE automation_runs SET try_at = NOW(3) - INTERVAL 1 SECOND WHERE lease_owner = 'dead'");
    await Promise.all([actAll(), actAll()]);
    expect(await saidBy(id)).toHaveLength(6);
    expect(new Set((await saidBy(id)).map((said) => said.audience)).size).toBe(6);
  });

  it('lets what could not be said in time lapse, and says nothing once it is off or its owner has left', async () => {
    const group = await addGroup(db, 'Late', []);
    const [late, off, orphan, owner] = await addPeople(db, 4);
    await db('people').where({ id: owner! }).update({ role: 'coordinator' });
    const by: Actor = { ...coordinator, id: owner! };
    const id = await work(
      { kind: 'joins', groupId: group },
      { content: says('Welcome', 'Here.'), lapseMinutes: 30 },
      by,
    );
    const comes = async (person: number): Promise<void> => {
      await db('group_members').insert({ group_id: group, person_id: person });
      await lookAtGroup(db, group);
      await followAll(db);
    };
    await comes(late!);
    await db.raw('UPDATE automation_runs SET due_at = NOW(3) - INTERVAL 2 HOUR WHERE automation_id = ?', [
      id,
    ]);
    await actAll();
    expect((await runsOf(id))[0]).toMatchObject({ state: 'lapsed' });
    await comes(off!);
    await switchAutomation(db, by, id, false);
    await actAll();
    expect(await saidBy(id)).toHaveLength(0);
    await switchAutomation(db, by, id, true);
    await comes(orphan!);
    await db('people').where({ id: owner! }).update({ standing: 'left', left_at: new Date() });
    await actAll();
    expect(await saidBy(id)).toHaveLength(0);
    expect(await automationById(db, id)).toMatchObject({ state: 'paused' });
    expect(await countOf(db, 'FROM notices WHERE person_id = 1 AND path = ?', [`/automations/${id}`])).toBe(
      1,
    );
  });

  it('tries again what cannot be worked out, pauses where that fails three times over, and says each once when it is mended', async () => {
    const group = await addGroup(db, 'Unlucky', []);
    const id = await work({ kind: 'joins', groupId: group }, { content: says('Welcome', 'Here.') });
    const [zone] = await rows<{ zone: string }>(db, 'SELECT zone FROM organisation');
    const people = await addPeople(db, 3);
    const failures: unknown[] = [];
    const tryNow = async (): Promise<void> => {
      await db.raw('UPDATE automation_runs SET try_at = NOW(3) WHERE automation_id = ?', [id]);
      const now = await databaseNow(db);
      await runAutomations(
        db,
        'tests',
        { secret: SECRET, inside: [] },
        () => now,
        (error) => failures.push(error),
      );
    };
    for (const person of people) {
      await db('group_members').insert({ group_id: group, person_id: person });
      await lookAtGroup(db, group);
      await followAll(db);
    }
    await db.raw("UPDATE organisation SET zone = 'Nowhere/Land'");
    await tryNow();
    expect((await runsOf(id)).map(({ state }) => state)).toEqual(['waiting', 'waiting', 'waiting']);
    for (let i = 0; i < 4; i++) await tryNow();
    await db.raw('UPDATE organisation SET zone = ?', [zone!.zone]);
    expect(failures).toHaveLength(15);
    expect((await runsOf(id)).map(({ state, again }) => [state, again])).toEqual(
      Array.from({ length: 3 }, () => ['failed', true]),
    );
    const paused = await automationById(db, id);
    expect([paused?.state, paused?.whyPaused]).toEqual([
      'paused',
      expect.stringMatching(/^It failed 3 times in a row: .*Nowhere\/Land/i),
    ]);
    expect(await countOf(db, 'FROM notices WHERE path = ?', [`/automations/${id}`])).toBe(1);
    await switchAutomation(db, coordinator, id, true);
    for (const run of await runsOf(id)) await tryRunAgain(db, coordinator, run.id);
    await actAll();
    await actAll();
    expect((await saidBy(id)).map(({ title }) => title)).toEqual(['Welcome', 'Welcome', 'Welcome']);
  });

  it('tells others of whoever went, also out of the organisation; says what is tried again by what is at work then', async () => {
    const [goes, told] = await addPeople(db, 2);
    const group = await addGroup(db, 'Left behind', [goes!]);
    const watchers = await addGroup(db, 'Watchers', [told!]);
    const when: When = { kind: 'leaves', groupId: group };
    const part: Partial<Automation> = {
      tell: {
        to: { kind: 'owner', groupId: watchers },
        boards: [],
        outside: [],
        boardField: null,
        mail: false,
        otherwise: null,
      },
      content: says('{their name} has gone', 'Take over what they did.'),
    };
    const id = await work(when, part);
    await db('people').where({ id: goes! }).update({ standing: 'left', left_at: new Date() });
    await lookAtGroup(db, group);
    await actAll();
    const [kept] = await runsOf(id);
    expect(kept).toMatchObject({ state: 'held', reason: 'Nobody looks after Watchers.' });
    const row = await automationById(db, id);
    const revision = await saveDraft(db, coordinator, id, {
      revision: row!.revision,
      automation: {
        ...row!.draft,
        tell: { ...part.tell!, to: { kind: 'audience', audience: { kind: 'group', id: watchers } } },
      },
    });
    await publish(db, coordinator, id, revision);
    await tryRunAgain(db, coordinator, kept!.id);
    await actAll();
    const [name] = await rows<{ name: string }>(db, 'SELECT name FROM people WHERE id = ?', [goes!]);
    expect((await saidBy(id)).map((said) => said.title)).toEqual([`${name!.name} has gone`]);
    // With all it did it can be deleted; what it said stays.
    const sends = await countOf(db, 'FROM sends');
    await switchAutomation(db, coordinator, id, false);
    await deleteAutomation(db, coordinator, id);
    expect(await automationById(db, id)).toBeUndefined();
    expect(await countOf(db, 'FROM sends')).toBe(sends);
  });

  it('tells all who look after a group, in one announcement to each of them', async () => {
    const [comes, ...owners] = await addPeople(db, 3);
    const group = await addGroup(db, 'Looked after by two', []);
    for (const owner of owners) await appointOwner(db, coordinator, group, owner, true);
    const id = await work(
      { kind: 'joins', groupId: group },
      {
        tell: {
          to: { kind: 'owner', groupId: group },
          boards: [],
          outside: [],
          boardField: null,
          mail: false,
          otherwise: null,
        },
        content: says('{their name} has come', 'Say hello.'),
      },
    );
    await db('group_members').insert({ group_id: group, person_id: comes! });
    await lookAtGroup(db, group);
    await actAll();
    expect(await saidBy(id)).toHaveLength(1);
    const [send] = await rows<{ audience: string }>(
      db,
      `SELECT JSON_EXTRACT(s.plan, '$.audience') AS audience FROM sends s JOIN automation_runs r ON r.id = s.run_id
       WHERE r.automation_id = ?`,
      [id],
    );
    expect(JSON.parse(send!.audience)).toEqual({
      kind: 'any',
      of: owners.map((owner) => ({ kind: 'person', id: owner })),
    });
  });

  it('is not put to work while its text may be empty, or before a second person where a group asks for one', async () => {
    const readings = await sheet();
    const guarded = await addGroup(db, 'Vault keyholders', await addPeople(db, 3));
    await db('groups').where({ id: guarded }).update({ needs_clearance: true });
    const when: When = { kind: 'meets', sheetId: readings, again: false };
    const id = await makeAutomation(db, coordinator, { name: 'Guarded', when });
    const automation: Automation = {
      ...newAutomation('Guarded', when),
      tell: {
        to: { kind: 'audience', audience: { kind: 'group', id: guarded } },
        boards: [],
        outside: [],
        boardField: null,
        mail: true,
        otherwise: null,
      },
      content: says('Of {Station}', field('record.c2')),
    };
    const revision = await saveDraft(db, coordinator, id, { revision: 1, automation });
    await expect(publish(db, coordinator, id, revision)).rejects.toMatchObject({
      errors: [
        { field: 'content', detail: expect.stringContaining('Station and Humidity may be empty') as string },
        { field: 'tell', detail: expect.stringContaining('second person') as string },
      ],
    });
    const mended = await saveDraft(db, coordinator, id, {
      revision,
      automation: {
        ...automation,
        if: { kind: 'all', of: [test('record.c1', 'is filled in'), test('record.c2', 'is over', '1')] },
      },
    });
    const [second] = await addPeople(db, 1);
    await db('people').where({ id: second! }).update({ role: 'coordinator' });
    await publish(db, { ...coordinator, id: second! }, id, mended);
    expect((await automationById(db, id))?.state).toBe('on');
  });
});

describe('before it says anything', () => {
  it('is tried on what is real and run over the past weeks, and nothing leaves', async () => {
    const readings = await sheet();
    const when: When = { kind: 'meets', sheetId: readings, again: true };
    const id = await makeAutomation(db, coordinator, { name: 'Tried', when });
    const automation: Automation = {
      ...newAutomation('Tried', when),
      if: test('record.c2', 'is over', '50'),
      tell: {
        to: { kind: 'audience', audience: { kind: 'everyone' } },
        boards: [],
        outside: [],
        boardField: null,
        mail: true,
        otherwise: null,
      },
      content: says('{Station|Somewhere} is humid', field('record.c2')),
    };
    const record = await addRecord(db, coordinator, readings, { c1: 'North', c2: '40' });
    for (const value of ['60', '20', '75'])
      await alterRecord(db, coordinator, readings, record, { c2: value });
    await addRecord(db, coordinator, readings, { c2: '55' });
    const sends = await countOf(db, 'FROM sends');
    const tried = await tryAutomation(
      db,
      coordinator,
      id,
      { automation, personId: null, recordId: null },
      asking,
    );
    expect(tried).toMatchObject({ considered: 2, matched: 2, problem: null });
    expect(tried.sayings.map((each) => each.title).sort()).toEqual(['North is humid', 'Somewhere is humid']);
    expect(tried.sayings[0]!.html).toContain('75%');
    const past = await replay(db, coordinator, id, automation);
    expect(past).toMatchObject({ runs: 3, said: 3, keptBack: 0, reallySaid: 0 });
    expect(past.people).toBe(tried.sayings[0]!.people);
    expect(await countOf(db, 'FROM sends')).toBe(sends);
  });
});
