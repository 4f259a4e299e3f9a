import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  holdsFor,
  SPANS,
  testsFor,
  type Against,
  type Condition,
  type ReadAt,
} from '../../src/core/automation/condition.ts';
import { fieldsOf } from '../../src/core/automation/fields.ts';
import type { CellKind } from '../../src/core/sheets/cell.ts';
import type { Cells } from '../../src/core/sheets/sheet.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { narrowing, recordsThatMay } from '../../src/server/sheets/conditionStore.ts';
import { insertRecords, insertSheet } from '../../src/server/sheets/store.ts';
import { coordinator, freshDatabase } from './world.ts';

const KINDS: CellKind[] = ['text', 'number', 'number', 'date', 'moment', 'choice', 'yes or no'];
const columns = KINDS.map((kind, at) => ({
  id: `c${at + 1}`,
  name: `Column ${at + 1}`,
  kind,
  unit: '',
  choices: ['Straße', 'low'],
}));
const FIELDS = fieldsOf({ kind: 'meets', sheetId: 1, again: false }, columns);
const at = { nowMs: Date.parse('2026-11-27T23:30:00Z'), zone: 'Pacific/Auckland' };

/** Cells as they are kept, among them what databases and programs fold, round and order differently. */
const CELLS: Record<CellKind, string[]> = {
  text: [
    '',
    'a',
    'A',
    ' a ',
    'ä',
    'A\u0308',
    'ſ',
    's',
    'İ',
    'ﬁ',
    'fi',
    'a%',
    'a_',
    "a'; --",
    '"',
    '\\',
    'Ⅷ',
    '5',
  ],
  number: ['', '5', '7.5', '-3', '0', '0.1', '0.30000000000000004', '1e99', '-1e-99', '54', '60'],
  date: ['', '2026-11-27', '2026-11-28', '2026-12-15', '0001-01-01', '9999-12-31'],
  moment: ['', '2026-11-27T23:30Z', '2026-11-28T00:00Z', '2026-12-10T08:00Z', '2024-02-29T12:00Z'],
  choice: ['', 'Straße', 'low'],
  'yes or no': ['', 'yes', 'no'],
  person: [''],
  link: [''],
};

const against = (kind: CellKind): fc.Arbitrary<Against> =>
  fc.oneof(
    fc
      .constantFrom(...CELLS[kind], 'a, B, Straße,', 'no number')
      .map((value): Against => ({ kind: 'value', value })),
    fc.record({
      kind: fc.constant('field' as const),
      field: fc.constantFrom('record.c2', 'record.c3', 'record.c1', 'run.count'),
      share: fc.constantFrom(100, 90, 0.1, 10_000, 33.3),
    }),
    fc.record({
      kind: fc.constant('now' as const),
      span: fc.integer({ min: -3, max: 3 }),
      unit: fc.constantFrom(...SPANS),
    }),
  );
const aTest = fc.constantFrom(...columns).chain(({ id, kind }) =>
  fc.record({
    kind: fc.constant('test' as const),
    field: fc.constant(`record.${id}`),
    test: fc.constantFrom(...testsFor(kind)),
    against: against(kind),
  }),
);
const { condition } = fc.letrec<{ condition: Condition }>((tie) => ({
  condition: fc.oneof(
    { maxDepth: 3 },
    aTest,
    fc.record({
      kind: fc.constantFrom('all' as const, 'any' as const),
      of: fc.array(tie('condition'), { maxLength: 3 }),
    }),
  ),
}));

let db: Database;
let sheetId: number;
const kept = new Map<number, Cells>();
beforeAll(async () => {
  ({ db } = await freshDatabase('conditions'));
  sheetId = await insertSheet(db, {
    name: 'All kinds',
    purpose: '',
    columns,
    form: null,
    formKey: null,
    by: coordinator.id,
  });
  const made = fc.sample(
    fc.record(Object.fromEntries(columns.map(({ id, kind }) => [id, fc.constantFrom(...CELLS[kind])]))),
    { numRuns: 150, seed: 7 },
  );
  const cells = made.map((row): Cells =>
    Object.fromEntries(Object.entries(row).filter(([, value]) => value !== '')),
  );
  const ids = await insertRecords(db, sheetId, cells, null, false);
  ids.forEach((id, index) => kept.set(id, cells[index] ?? {}));
});
afterAll(() => db.destroy());

const holds = (written: Condition, cells: Cells, read = at): boolean =>
  holdsFor(
    written,
    FIELDS,
    new Map(Object.entries(cells).map(([id, value]) => [`record.${id}`, value])),
    read,
  );
const held = (written: Condition): number[] =>
  [...kept].filter(([, cells]) => holds(written, cells)).map(([id]) => id);

describe('conditions read by the database', () => {
  it('leave out no record of which the evaluator says that they hold', async () => {
    await fc.assert(
      fc.asyncProperty(condition, async (written) => {
        const read = await recordsThatMay(db, sheetId, written, FIELDS, at);
        expect(read.filter(({ cells }) => holds(written, cells)).map(({ id }) => id)).toEqual(held(written));
      }),
      { numRuns: 400 },
    );
  });

  it('leave out none of which it says so at any instant of a period', async () => {
    const days = fc.integer({ min: 0, max: 40 });
    await fc.assert(
      fc.asyncProperty(condition, days, days, async (written, one, other) => {
        const later = (n: number): ReadAt => ({ ...at, nowMs: at.nowMs + n * 86_400_000 });
        const [between, last] = [Math.min(one, other), Math.max(one, other)].map(later);
        const { sql, values } = narrowing(written, FIELDS, at, last);
        const read = new Set(
          (
            await rows<{ id: number }>(db, `SELECT id FROM records WHERE sheet_id = ? AND ${sql}`, [
              sheetId,
              ...values,
            ])
          ).map(({ id }) => id),
        );
        expect([...kept].filter(([id, cells]) => !read.has(id) && holds(written, cells, between))).toEqual(
          [],
        );
      }),
      { numRuns: 300 },
    );
  });

  it.each<[string, Condition]>([
    [
      'a share of another column',
      {
        kind: 'test',
        field: 'record.c2',
        test: 'is over',
        against: { kind: 'field', field: 'record.c3', share: 90 },
      },
    ],
    [
      'a day before now',
      {
        kind: 'test',
        field: 'record.c4',
        test: 'is before',
        against: { kind: 'now', span: 0, unit: 'days' },
      },
    ],
    ['a choice', { kind: 'test', field: 'record.c7', test: 'is', against: { kind: 'value', value: 'Yes' } }],
  ])('read little more than what meets %s', async (_, written) => {
    const read = await recordsThatMay(db, sheetId, written, FIELDS, at);
    const meets = held(written).length;
    expect(meets).toBeGreaterThan(0);
    // Equal numbers and days may come along with those over or before them.
    expect(read.length).toBeLessThan(meets + kept.size / 3);
  });
});
