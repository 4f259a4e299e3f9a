import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newAutomation, type Automation } from '../../src/core/automation/automation.ts';
import { dateDue, type OnDate } from '../../src/core/automation/dates.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';
import { PastSheet } from '../../src/server/automations/pastSheet.ts';
import { replay } from '../../src/server/automations/replay.ts';
import type { PastChange, PastRecord } from '../../src/server/automations/replayStore.ts';
import { makeAutomation } from '../../src/server/automations/service.ts';
import { databaseNow, rows, type Database } from '../../src/server/database/connection.ts';
import { addRecord, makeSheet } from '../../src/server/sheets/service.ts';
import { field, says } from './automating.ts';
import { addPeople, coordinator, countOf, freshDatabase } from './world.ts';

let db: Database;
beforeAll(async () => {
  ({ db } = await freshDatabase('replay'));
});
afterAll(() => db.destroy());

const DAY = 86_400_000;

describe('a replay of the past weeks', () => {
  it('goes through every change there was, each with what the record held then', async () => {
    const sheetId = await makeSheet(db, coordinator, {
      name: 'Loans',
      purpose: '',
      columns: (['Item', 'Days out', 'Curator'] as const).map((name, at) => ({
        id: `c${at + 1}`,
        name,
        kind: at === 1 ? 'number' : 'text',
        unit: '',
        choices: [],
      })),
      form: null,
    });
    const curators = await addPeople(db, 3);
    for (const [at, personId] of curators.entries())
      await db('identities').insert({
        person_id: personId,
        in_system: 'loans',
        value: `Curator ${at}`,
        folded: `curator ${at}`,
      });
    const record = await addRecord(db, coordinator, sheetId, { c1: 'Sea kale', c2: '1', c3: 'curator 0' });
    const nowMs = await databaseNow(db);
    const began = nowMs - 21 * DAY;
    await db('records')
      .where({ id: record })
      .update({ made_at: new Date(began - DAY) });
    // A thousand changes in twenty days: the number goes over ten at every fourth, and every tenth names nobody known.
    const CHANGES = 1_000;
    const cells = (at: number): string =>
      JSON.stringify({
        c1: 'Sea kale',
        c2: String(at % 4 === 3 ? 20 : at % 4),
        c3: at % 10 === 9 ? 'nobody of that name' : `curator ${at % 3}`,
      });
    await db('record_changes').insert(
      Array.from({ length: CHANGES }, (_, at) => ({
        record_id: record,
        before_cells: at === 0 ? JSON.stringify({ c1: 'Sea kale', c2: '1', c3: 'curator 0' }) : cells(at - 1),
        after_cells: cells(at),
        changed_at: new Date(began + (at * 20 * DAY) / CHANGES),
      })),
    );
    await db('records')
      .where({ id: record })
      .update({ cells: cells(CHANGES - 1) });
    const when = { kind: 'meets' as const, sheetId, again: true };
    const id = await makeAutomation(db, coordinator, { name: 'Out for long', when });
    const automation: Automation = {
      ...newAutomation('Out for long', when),
      if: {
        kind: 'test',
        field: 'record.c2',
        test: 'is over',
        against: { kind: 'value', value: '10' },
      },
      tell: {
        to: { kind: 'named', field: 'record.c3', system: 'loans' },
        boards: [],
        outside: [],
        boardField: null,
        mail: true,
        otherwise: null,
      },
      content: says('{Item} is out', field('record.c2')),
    };
    const past = await replay(db, coordinator, id, automation);
    const met = Array.from({ length: CHANGES }, (_, at) => at).filter((at) => at % 4 === 3);
    const found = met.filter((at) => at % 10 !== 9);
    expect(past).toMatchObject({
      runs: met.length,
      said: found.length,
      keptBack: met.length - found.length,
      people: curators.length,
      missing: ['nobody of that name'],
    });
    expect(past.days.reduce((sum, day) => sum + day.said, 0)).toBe(found.length);
    const times = curators.map((_, of) => found.filter((at) => at % 3 === of).length);
    expect(past.most.map((each) => each.times)).toEqual(times.sort((a, b) => b - a));
    expect(await countOf(db, 'FROM sends')).toBe(0);
    // Of what came before the period nothing is told.
    await db('record_changes').update({ changed_at: new Date(nowMs - 80 * DAY) });
    await db('records')
      .where({ id: record })
      .update({ made_at: new Date(nowMs - 90 * DAY) });
    expect(await replay(db, coordinator, id, automation)).toMatchObject({ runs: 0, said: 0 });
    expect(await rows(db, 'SELECT 1 FROM automation_runs WHERE automation_id = ?', [id])).toEqual([]);
  });
});

describe('a replay of what looks at a whole sheet', () => {
  it('reads each record as it was at each time, those that changed since and those that never did', async () => {
    const column = (id: string, name: string, kind: 'text' | 'number' | 'date') => ({
      id,
      name,
      kind,
      unit: '',
      choices: [],
    });
    const sheetId = await makeSheet(db, coordinator, {
      name: 'Trips',
      purpose: '',
      columns: [column('c1', 'Site', 'text'), column('c2', 'Day', 'date'), column('c3', 'Seats', 'number')],
      form: null,
    });
    const nowMs = await databaseNow(db);
    const day = (ago: number): string => new Date(nowMs - ago * DAY).toISOString().slice(0, 10);
    const made = async (cells: Record<string, string>, ago: number): Promise<number> => {
      const id = await addRecord(db, coordinator, sheetId, cells);
      await db('records')
        .where({ id })
        .update({ made_at: new Date(nowMs - ago * DAY) });
      return id;
    };
    await made({ c1: 'Never changed', c2: day(10), c3: '4' }, 100);
    await made({ c1: 'Too few seats', c2: day(10), c3: '1' }, 100);
    await made({ c1: 'Long ago', c2: day(80), c3: '4' }, 100);
    await made({ c1: 'Written afterwards', c2: day(10), c3: '4' }, 5);
    // It was for twelve days ago, and was put off once that had passed.
    const moved = await made({ c1: 'Put off', c2: day(3), c3: '4' }, 100);
    await db('record_changes').insert({
      record_id: moved,
      before_cells: JSON.stringify({ c1: 'Put off', c2: day(12), c3: '4' }),
      after_cells: JSON.stringify({ c1: 'Put off', c2: day(3), c3: '4' }),
      changed_at: new Date(nowMs - 7 * DAY),
    });
    const when = {
      kind: 'schedule' as const,
      start: `${day(50)}T12:00`,
      zone: 'UTC',
      rule: { ...WEEKLY, freq: 'daily' as const },
      sheetId,
    };
    const id = await makeAutomation(db, coordinator, { name: 'Trips of today', when });
    const past = await replay(db, coordinator, id, {
      ...newAutomation('Trips of today', when),
      if: {
        kind: 'all',
        of: [
          { kind: 'test', field: 'record.c2', test: 'is', against: { kind: 'now', span: 0, unit: 'days' } },
          { kind: 'test', field: 'record.c3', test: 'is over', against: { kind: 'value', value: '2' } },
        ],
      },
      each: { kind: 'each' },
      tell: {
        to: { kind: 'audience', audience: { kind: 'person', id: coordinator.id } },
        boards: [],
        outside: [],
        boardField: null,
        mail: false,
        otherwise: null,
      },
      content: says('{Site|A site} today', field('record.c3', 'some')),
    });
    expect(past.days.filter((each) => each.said > 0).map(({ date, said }) => [date, said])).toEqual([
      [day(12), 1],
      [day(10), 1],
      [day(3), 1],
    ]);
  });
});

const OF_DAY: OnDate = {
  kind: 'date',
  sheetId: 1,
  column: 'c1',
  span: -2,
  unit: 'days',
  time: '09:00',
  zone: 'Pacific/Auckland',
};

describe('the records of a sheet as they were', () => {
  it('are due by the date they held when it came, whatever they were changed to since', () => {
    const dayOf = (n: number): string =>
      new Date(Date.parse('2026-09-01') + n * DAY).toISOString().slice(0, 10);
    const fromMs = Date.parse('2026-09-01');
    const toMs = fromMs + 30 * DAY;
    const date = fc.oneof(fc.constant(''), fc.integer({ min: -3, max: 35 }).map(dayOf));
    const history = fc.record({
      madeMs: fc.integer({ min: fromMs - 5 * DAY, max: toMs }),
      first: date,
      changes: fc.array(fc.record({ after: fc.integer({ min: 1, max: 10 * DAY }), to: date }), {
        maxLength: 5,
      }),
    });
    fc.assert(
      fc.property(fc.array(history, { maxLength: 6 }), (histories) => {
        const records: PastRecord[] = [];
        const changes: PastChange[] = [];
        for (const [at, { madeMs, first, changes: to }] of histories.entries()) {
          let cells: Record<string, string> = { c1: first };
          let atMs = madeMs;
          for (const each of to) {
            atMs += each.after;
            const after = { c1: each.to };
            changes.push({ recordId: at + 1, atMs, before: cells, after });
            cells = after;
          }
          records.push({ id: at + 1, cells, madeMs, fromForm: false });
        }
        changes.sort((a, b) => a.atMs - b.atMs);
        const sheet = new PastSheet(records, changes);
        const due = sheet.due(OF_DAY, fromMs, toMs);
        const instants = Array.from({ length: 40 }, (_, n) => dateDue(OF_DAY, dayOf(n - 3)) ?? 0).filter(
          (ms) => ms >= fromMs && ms < toMs,
        );
        for (const ms of instants)
          expect((due.get(ms) ?? []).map(({ id }) => id)).toEqual(
            sheet
              .rowsAt(ms)
              .filter((row) => dateDue(OF_DAY, row.values.get('record.c1') ?? '') === ms)
              .map(({ id }) => id),
          );
        expect([...due.keys()].filter((ms) => !instants.includes(ms))).toEqual([]);
      }),
      { numRuns: 300 },
    );
  });
});
