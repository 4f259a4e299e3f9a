import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Automation } from '../../src/core/automation/automation.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { lookAhead } from '../../src/server/automations/runAhead.ts';
import { runAutomations } from '../../src/server/automations/running.ts';
import { listRuns } from '../../src/server/automations/runs.ts';
import { saveDraft, switchAutomation } from '../../src/server/automations/service.ts';
import { automationById } from '../../src/server/automations/store.ts';
import { change, databaseNow, rows, transact, type Database } from '../../src/server/database/connection.ts';
import { insertMany } from '../../src/server/database/insertMany.ts';
import { onceIn } from '../../src/server/database/onceIn.ts';
import { addRecord, makeSheet } from '../../src/server/sheets/service.ts';
import { field, putToWork, runsIn, saidIn, says } from './automating.ts';
import { addPeople, coordinator, countOf, followAll, freshDatabase, refusal, SECRET } from './world.ts';

let db: Database;
beforeAll(async () => {
  ({ db } = await freshDatabase('automation_turns'));
});
beforeEach(() => db.raw("UPDATE automations SET state = 'off'"));
afterAll(() => db.destroy());

let sheets = 0;
const sheet = (): Promise<number> =>
  makeSheet(db, coordinator, {
    name: `Rows ${++sheets}`,
    purpose: '',
    columns: [{ id: 'c1', name: 'What', kind: 'text', unit: '', choices: [] }],
    form: null,
  });
const each = (of: Partial<Automation> = {}): Partial<Automation> => ({
  if: { kind: 'test', field: 'record.c1', test: 'is filled in', against: { kind: 'value', value: '' } },
  tell: {
    to: { kind: 'audience', audience: { kind: 'person', id: coordinator.id } },
    boards: [],
    outside: [],
    boardField: null,
    mail: false,
    otherwise: null,
  },
  content: says('{What}', field('record.c1')),
  ...of,
});
const turn = async (engine = 'tests'): Promise<number> => {
  const now = await databaseNow(db);
  return runAutomations(
    db,
    engine,
    { secret: SECRET, inside: [] },
    () => now + 0.5,
    (error) => {
      throw error;
    },
  );
};

describe('what one automation says in a turn', () => {
  it('is written together, each with its own text, send, event and line of its run', async () => {
    const sheetId = await sheet();
    const id = await putToWork(db, { kind: 'meets', sheetId, again: false }, each());
    const names = Array.from({ length: 60 }, (_, at) => `Row ${at}`);
    for (const name of names) await addRecord(db, coordinator, sheetId, { c1: name });
    await followAll(db);
    expect(await turn()).toBe(names.length);
    const said = await saidIn(db, id);
    expect(said.map(({ title }) => title).sort()).toEqual([...names].sort());
    for (const { title, body } of said) expect(body).toContain(`"${title}"`);
    // Every part of each belongs together: its text, its plan, its occurrence with a bucket, and the line that tells of it.
    const whole = await rows<{ title: string; content: string; about: string; buckets: number }>(
      db,
      `SELECT v.title, JSON_VALUE(n.content, '$.title') AS content, y.about, (SELECT COUNT(*) FROM buckets b WHERE b.occurrence_id = o.id) AS buckets
       FROM automation_runs r JOIN automation_sayings y ON y.run_id = r.id JOIN occurrences o ON o.id = y.occurrence_id
         JOIN sends s ON s.id = o.send_id AND s.run_id = r.id AND s.version_id = o.version_id
         JOIN announcement_versions v ON v.id = o.version_id AND v.announcement_id = s.announcement_id
         JOIN announcements n ON n.id = s.announcement_id
       WHERE r.automation_id = ?`,
      [id],
    );
    expect(whole).toHaveLength(names.length);
    for (const row of whole)
      expect(row).toEqual({ title: row.title, content: row.title, about: row.title, buckets: 1 });
    expect(await turn()).toBe(0);
  });

  it('stops at its ceiling: what was within it is said, the one too many pauses it, and the rest is held', async () => {
    const sheetId = await sheet();
    const id = await putToWork(db, { kind: 'meets', sheetId, again: false }, each({ ceiling: 4 }));
    for (let at = 0; at < 7; at++) await addRecord(db, coordinator, sheetId, { c1: `Row ${at}` });
    await followAll(db);
    await turn();
    expect(await saidIn(db, id)).toHaveLength(4);
    const runs = await runsIn(db, id);
    expect(runs.map(({ state }) => state).sort()).toEqual([
      'held',
      'held',
      'held',
      'said',
      'said',
      'said',
      'said',
    ]);
    expect(runs.filter(({ reason }) => reason?.includes('its ceiling is 4 an hour'))).toHaveLength(1);
    expect((await automationById(db, id))?.state).toBe('paused');
  });

  it('is said for the others where the claim of one was lost, and that one by whoever has it', async () => {
    const sheetId = await sheet();
    const id = await putToWork(db, { kind: 'meets', sheetId, again: false }, each());
    for (let at = 0; at < 5; at++) await addRecord(db, coordinator, sheetId, { c1: `Row ${at}` });
    await followAll(db);
    // Another engine takes one over while this one prepares them.
    const now = await databaseNow(db);
    let asked = 0;
    await runAutomations(
      db,
      'slow',
      { secret: SECRET, inside: [] },
      () => {
        if (asked++ === 0)
          void change(
            db,
            "UPDATE automation_runs SET lease_owner = 'other' WHERE automation_id = ? ORDER BY id LIMIT 1",
            [id],
          );
        return now + 0.5;
      },
      () => undefined,
    );
    expect(await saidIn(db, id)).toHaveLength(4);
    await db.raw("UPDATE automation_runs SET try_at = NOW(3) - INTERVAL 1 SECOND WHERE state = 'running'");
    await turn('other');
    const titles = (await saidIn(db, id)).map(({ title }) => title).sort();
    expect(titles).toEqual(['Row 0', 'Row 1', 'Row 2', 'Row 3', 'Row 4']);
  });
});

describe('a run by hand', () => {
  const daily = (sheetId: number | null) => ({
    kind: 'schedule' as const,
    start: '2030-01-01T09:00',
    zone: 'UTC',
    rule: { ...WEEKLY, freq: 'daily' as const, weekdays: [] },
    sheetId,
  });
  const asking = { secret: SECRET, inside: [] };

  it('is asked about before with what it would say now, by what is at work and to how many', async () => {
    const sheetId = await sheet();
    const people = await addPeople(db, 3);
    const id = await putToWork(db, daily(sheetId), {
      ...each({ each: { kind: 'each' } }),
      tell: {
        ...each().tell!,
        to: {
          kind: 'audience',
          audience: { kind: 'any', of: people.map((person) => ({ kind: 'person' as const, id: person })) },
        },
        mail: true,
      },
    });
    expect(await lookAhead(db, coordinator, id, asking)).toMatchObject({
      messages: 0,
      people: 0,
      keptBack: 0,
    });
    for (const name of ['One', 'Two']) await addRecord(db, coordinator, sheetId, { c1: name });
    expect(await lookAhead(db, coordinator, id, asking)).toEqual({
      messages: 2,
      people: people.length,
      mail: true,
      boards: [],
      outside: [],
      keptBack: 0,
      why: null,
    });
    expect(
      await countOf(db, "FROM automation_runs WHERE automation_id = ? AND state <> 'waiting'", [id]),
    ).toBe(0);
    // What is written and not at work changes nothing of it; what is switched off is not asked about.
    const row = await automationById(db, id);
    await saveDraft(db, coordinator, id, {
      revision: row!.revision,
      automation: { ...row!.draft, tell: { ...row!.draft.tell, to: null } },
    });
    expect(await lookAhead(db, coordinator, id, asking)).toMatchObject({ messages: 2 });
    await switchAutomation(db, coordinator, id, false);
    expect(await refusal(lookAhead(db, coordinator, id, asking))).toMatchObject({ status: 409 });
    const [editor] = await addPeople(db, 1);
    expect(
      await refusal(lookAhead(db, { ...coordinator, id: editor!, role: 'editor' }, id, asking)),
    ).toMatchObject({ status: 404 });
  });

  it('is found by letters of its automation, of what it spoke of, or of why it kept something back', async () => {
    const sheetId = await sheet();
    const id = await putToWork(
      db,
      { kind: 'meets', sheetId, again: false },
      each({ name: 'Sea kale watch' }),
    );
    for (const name of ['Low 100% ford', 'High pass'])
      await addRecord(db, coordinator, sheetId, { c1: name });
    await followAll(db);
    await turn();
    const found = async (find: string): Promise<number> =>
      (await listRuns(db, coordinator, { automationId: id, states: [], before: null, find })).runs.length;
    expect([await found(''), await found('sea KALE'), await found('low'), await found('100% f')]).toEqual([
      2, 2, 1, 1,
    ]);
    expect([await found('100_ f'), await found('nothing of the kind')]).toEqual([0, 0]);
  });
});

describe('rows that are inserted together', () => {
  it('give their ids in the order of the rows, also over more than one statement', async () => {
    const names = Array.from({ length: 1_203 }, (_, at) => `Station ${at}`);
    const ids = await insertMany(
      db,
      'stations',
      names.map((name) => ({ name, zone: 'UTC' })),
    );
    const found = new Map(
      (await rows<{ id: number; name: string }>(db, 'SELECT id, name FROM stations')).map((row) => [
        row.id,
        row.name,
      ]),
    );
    expect(ids.map((id) => found.get(id))).toEqual(names);
    expect(await insertMany(db, 'stations', [])).toEqual([]);
  });
});

describe('what is read once in a transaction', () => {
  it('is read by the first who asks, and again in the next transaction and outside of one', async () => {
    let reads = 0;
    const read = (): Promise<number> => Promise.resolve(++reads);
    await transact(db, async (trx) => {
      expect(await Promise.all([onceIn(trx, 'a', read), onceIn(trx, 'a', read)])).toEqual([1, 1]);
      expect(await onceIn(trx, 'b', read)).toBe(2);
    });
    expect(await transact(db, (trx) => onceIn(trx, 'a', read))).toBe(3);
    expect([await onceIn(db, 'a', read), await onceIn(db, 'a', read)]).toEqual([4, 5]);
  });
});
