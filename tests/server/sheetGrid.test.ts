import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { holdsFor, testsFor, type Condition, type Test } from '../../src/core/automation/condition.ts';
import { compareCells } from '../../src/core/sheets/cell.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import type { Cells, SheetShape } from '../../src/core/sheets/sheet.ts';
import { fieldsOfSheet, WHOLE, type SheetView } from '../../src/core/sheets/view.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { eventsAfter, placeEvents, positions } from '../../src/server/events/store.ts';
import { editRecords } from '../../src/server/sheets/editing.ts';
import { gridPart } from '../../src/server/sheets/grid.ts';
import {
  addRecords,
  alterRecord,
  alterSheet,
  deleteRecord,
  makeSheet,
  recordHistory,
} from '../../src/server/sheets/service.ts';
import { recountRecords } from '../../src/server/sheets/store.ts';
import { sheetFile } from '../../src/server/sheets/taking.ts';
import { addView, alterView, dropView, viewsOf } from '../../src/server/sheets/views.ts';
import { addPeople, coordinator, countOf, freshDatabase, refusal } from './world.ts';

let db: Database;
let editor: Actor;
beforeAll(async () => {
  ({ db } = await freshDatabase('sheet_grid'));
  const [other] = await addPeople(db, 1);
  editor = { ...coordinator, id: other!, role: 'editor' };
});
afterAll(() => db.destroy());

const SHAPE: SheetShape = {
  name: '',
  purpose: '',
  columns: [
    { id: 'c1', name: 'Box', kind: 'text', unit: '', choices: [] },
    { id: 'c2', name: 'Grams', kind: 'number', unit: 'g', choices: [] },
    { id: 'c3', name: 'Size', kind: 'choice', unit: '', choices: ['small', 'middle', 'large'] },
    { id: 'c4', name: 'Due', kind: 'date', unit: '', choices: [] },
  ],
  form: null,
};
let sheets = 0;
/** A sheet with records, the first first. */
async function sheetWith(records: readonly Cells[]): Promise<{ id: number; ids: number[] }> {
  const id = await makeSheet(db, coordinator, { ...SHAPE, name: `Sheet ${++sheets}` });
  for (let from = 0; from < records.length; from += 1000)
    await addRecords(db, coordinator, id, records.slice(from, from + 1000));
  const ids = await rows<{ id: number }>(db, 'SELECT id FROM records WHERE sheet_id = ? ORDER BY id', [id]);
  return { id, ids: ids.map((row) => row.id) };
}
const part = (
  id: number,
  view: Partial<SheetView> = {},
  { from = 0, asOf = '', search = '', by = coordinator } = {},
) => gridPart(db, by, id, { view: { ...WHOLE, ...view }, search, zone: 'UTC' }, { from, asOf });
const boxes = (found: Awaited<ReturnType<typeof part>>): unknown[] =>
  found.records.map((record) => record?.cells.c1 ?? null);
const test = (field: string, how: Test, value = ''): Condition => ({
  kind: 'test',
  field,
  test: how,
  against: { kind: 'value', value },
});

describe('what a view of a sheet shows', () => {
  it('is ordered as the kind of its columns is, what is empty last, either way', async () => {
    const { id } = await sheetWith([
      { c1: 'Box 10', c2: '9', c3: 'large' },
      { c1: 'box 2', c2: '10', c3: 'small' },
      { c1: 'Åsa', c3: 'middle' },
      { c2: '-1' },
    ]);
    const by = async (column: string, turned: boolean) =>
      boxes(await part(id, { order: [{ column, turned }] }));
    expect(await by('c1', false)).toEqual(['Åsa', 'box 2', 'Box 10', null]);
    expect(await by('c1', true)).toEqual(['Box 10', 'box 2', 'Åsa', null]);
    expect(await by('c2', false)).toEqual([null, 'Box 10', 'box 2', 'Åsa']);
    expect(await by('c2', true)).toEqual(['box 2', 'Box 10', null, 'Åsa']);
    // Choices stand as they are offered.
    expect(await by('c3', false)).toEqual(['box 2', 'Åsa', 'Box 10', null]);
    expect(boxes(await part(id, {}, { search: 'BOX' }))).toEqual(['box 2', 'Box 10']);
  });

  it('is what its condition holds for, by the one evaluator, in every order', async () => {
    const cell = fc.record(
      {
        c1: fc.constantFrom('Ä', 'ä', 'Box 1', 'box 10', '-', 'x, y'),
        c2: fc.constantFrom('0', '9', '10', '-3.5', '1e3'),
        c3: fc.constantFrom('small', 'middle', 'large'),
        c4: fc.constantFrom('2026-01-01', '2026-03-31', '2025-12-31'),
      },
      { requiredKeys: [] },
    );
    const [records] = fc.sample(fc.array(cell, { minLength: 60, maxLength: 60 }), { numRuns: 1, seed: 7 });
    const filled = records!.filter((each) => Object.keys(each).length > 0) as Cells[];
    const { id, ids } = await sheetWith(filled);
    const kinds = new Map(SHAPE.columns.map(({ id: column, kind }) => [`record.${column}`, kind]));
    const single = fc
      .constantFrom(...kinds.keys())
      .chain((field) =>
        fc
          .tuple(
            fc.constantFrom(...testsFor(kinds.get(field)!)),
            fc.constantFrom('Ä', 'small', '2026-01-01', 'x'),
          )
          .map(([how, value]) =>
            test(field, how, { number: '9', date: '2026-01-01' }[String(kinds.get(field))] ?? value),
          ),
      );
    const condition = fc.oneof(
      single,
      fc.record({
        kind: fc.constantFrom('all' as const, 'any' as const),
        of: fc.array(single, { maxLength: 3 }),
      }),
    );
    const fields = fieldsOfSheet(SHAPE.columns);
    await fc.assert(
      fc.asyncProperty(
        condition,
        fc.constantFrom('c1', 'c2', 'c3', 'c4'),
        fc.boolean(),
        async (wanted, column, turned) => {
          const found = await part(id, { if: wanted, order: [{ column, turned }] });
          const expected = ids.filter((_, i) =>
            holdsFor(
              wanted,
              fields,
              new Map(Object.entries(filled[i]!).map(([key, value]) => [`record.${key}`, value])),
              { nowMs: Date.now(), zone: 'UTC' },
            ),
          );
          expect(found.records.map((record) => record!.id).sort((a, b) => a - b)).toEqual(expected);
          if (column === 'c2') {
            const numbers = found.records.map((record) => record!.cells.c2 ?? '');
            const sorted = numbers.toSorted((a, b) =>
              a === '' || b === ''
                ? compareCells('number', a, b)
                : compareCells('number', a, b) * (turned ? -1 : 1),
            );
            expect(numbers).toEqual(sorted);
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it('keeps its order while one reads on, and says that the sheet has changed', async () => {
    const { id, ids } = await sheetWith(
      Array.from({ length: 250 }, (_, i) => ({ c1: `Box ${i}`, c2: String(i) })),
    );
    const order = [{ column: 'c2', turned: false }];
    const first = await part(id, { order });
    expect([first.total, first.newer, boxes(first)[0]]).toEqual([250, false, 'Box 0']);
    // One of those further on comes to stand first, one is deleted, one is added.
    await alterRecord(db, coordinator, id, ids[249]!, { c2: '-5' });
    await deleteRecord(db, coordinator, id, ids[210]!);
    await addRecords(db, coordinator, id, [{ c1: 'New', c2: '-9' }]);
    const last = await part(id, { order }, { from: 200, asOf: first.stamp });
    expect([last.stamp, last.newer, last.total]).toEqual([first.stamp, true, 250]);
    expect([boxes(last)[10], last.records.at(-1)?.cells]).toEqual([null, { c1: 'Box 249', c2: '-5' }]);
    const anew = await part(id, { order });
    expect([anew.newer, anew.total, boxes(anew).slice(0, 3)]).toEqual([
      false,
      250,
      ['New', 'Box 249', 'Box 0'],
    ]);
    // An order that is not known any more is made anew, and says so by its stamp.
    expect((await part(id, { order }, { asOf: '1.1' })).stamp).toBe(anew.stamp);
    // The newest first, too: what was in sight is not moved by what comes.
    const head = await part(id);
    expect(boxes(await part(id, {}, { from: 100, asOf: head.stamp }))[0]).toBe('Box 149');
    await addRecords(db, coordinator, id, [{ c1: 'Newer' }]);
    expect(boxes(await part(id, {}, { from: 100, asOf: head.stamp }))[0]).toBe('Box 149');
  });

  it('is ordered by its columns as they are now, and not as they were', async () => {
    const { id } = await sheetWith([
      { c1: 'x', c3: 'small' },
      { c1: 'y', c3: 'large' },
    ]);
    const order = [{ column: 'c3', turned: false }];
    expect(boxes(await part(id, { order }))).toEqual(['x', 'y']);
    const columns = SHAPE.columns.map((each) =>
      each.id === 'c3' ? { ...each, choices: each.choices.toReversed() } : each,
    );
    await alterSheet(db, coordinator, id, {
      revision: 1,
      shape: { ...SHAPE, name: `Turned ${id}`, columns },
    });
    expect(boxes(await part(id, { order }))).toEqual(['y', 'x']);
  });

  it('is refused in words where its condition cannot be tested, and is for the desk alone', async () => {
    const { id } = await sheetWith([{ c1: 'a' }]);
    expect(await refusal(part(id, { if: test('record.c9', 'is', 'x') }))).toMatchObject({
      status: 422,
      errors: [{ field: 'view.if' }],
    });
    expect((await refusal(part(id, {}, { by: { ...coordinator, role: 'member' } }))).status).toBe(403);
    expect((await refusal(part(999_999))).status).toBe(404);
    expect(boxes(await part(id, { order: [{ column: 'c9', turned: true }] }))).toEqual(['a']);
    expect((await refusal(part(id, { if: test('record.c4', 'is after', '9') }))).message).toContain(
      'no date',
    );
  });

  it('is taken out as CSV, made harmless, and as JSON with the kinds of its cells', async () => {
    const { id } = await sheetWith([
      { c1: '=1+1', c2: '2' },
      { c1: 'b', c2: '1.5', c3: 'small' },
      { c2: '99' },
    ]);
    const looked = {
      view: {
        if: test('record.c2', 'is under', '50'),
        order: [{ column: 'c2', turned: false }],
        hidden: ['c4'],
      },
      search: '',
      zone: 'UTC',
    };
    const csv = await (await sheetFile(db, editor, id, looked, 'csv')).text();
    expect(csv.replace('\ufeff', '').trim().split('\r\n')).toEqual([
      'Box,Grams,Size',
      'b,1.5,small',
      expect.stringMatching(/^"?'=1\+1"?,2,$/) as unknown,
    ]);
    expect(await (await sheetFile(db, editor, id, looked, 'json')).json()).toEqual([
      { Box: 'b', Grams: 1.5, Size: 'small' },
      { Box: '=1+1', Grams: 2 },
    ]);
    const none = { ...looked, search: 'nothing of that kind' };
    expect(await (await sheetFile(db, editor, id, none, 'json')).json()).toEqual([]);
  });
});

describe('how many records a sheet has', () => {
  it('is counted as they come and go by every way, and anew where something else wrote them', async () => {
    const { id, ids } = await sheetWith([{ c1: 'a' }, { c1: 'b' }, { c1: 'c' }]);
    const counted = async () => [
      (await part(id)).total,
      await countOf(db, 'FROM records WHERE sheet_id = ?', [id]),
    ];
    expect(await counted()).toEqual([3, 3]);
    await editRecords(db, coordinator, id, { change: [], add: [{ c1: 'd' }, {}], remove: [ids[0]!] });
    await deleteRecord(db, coordinator, id, ids[1]!);
    await Promise.all(
      [1, 2, 3].map((n) => addRecords(db, coordinator, id, [{ c1: String(n) }, { c1: String(n) }])),
    );
    expect(await counted()).toEqual([8, 8]);
    const before = (await part(id)).stamp;
    await db('records').where({ id: ids[2]! }).delete();
    await recountRecords(db);
    expect(await counted()).toEqual([7, 7]);
    expect((await part(id)).stamp).not.toBe(before);
  });
});

describe('many records at once', () => {
  it('are changed, added and deleted in one go, each change an event and a line of its history', async () => {
    const { id, ids } = await sheetWith([{ c1: 'a', c2: '1' }, { c1: 'b' }, { c1: 'c' }]);
    await placeEvents(db);
    const before = (await positions(db)).get('last')?.position ?? 0;
    const added = await editRecords(db, coordinator, id, {
      change: [
        { record: ids[1]!, cells: { c1: 'B', c2: '2 g' }, was: { c1: 'b' } },
        { record: ids[0]!, cells: { c2: '' }, was: { c2: '1' } },
      ],
      add: [{ c1: 'd' }, { c1: 'e' }],
      remove: [ids[2]!],
    });
    expect((await part(id)).records.map((record) => [record!.id, record!.cells])).toEqual([
      [added[1], { c1: 'e' }],
      [added[0], { c1: 'd' }],
      [ids[1], { c1: 'B', c2: '2' }],
      [ids[0], { c1: 'a' }],
    ]);
    expect((await recordHistory(db, coordinator, id, ids[0]!, 'UTC'))[0]?.changes).toEqual([
      { column: 'Grams', from: '1 g', to: '' },
    ]);
    await placeEvents(db);
    const told = (await eventsAfter(db, before, 100)).filter(({ subject }) => subject === `sheet:${id}`);
    const said = told.map(({ detail }) => detail as { records: number[]; changed?: unknown });
    expect(said.map(({ records, changed }) => [records, changed])).toEqual([
      [[ids[0]], { c2: { before: '1', after: '' } }],
      [[ids[1]], { c1: { before: 'b', after: 'B' }, c2: { before: '', after: '2' } }],
      [added, undefined],
      [[ids[2]], undefined],
    ]);
  });

  it('stay as they are, all of them, where one holds something else by now or cannot be kept', async () => {
    const { id, ids } = await sheetWith([{ c1: 'a', c2: '1' }, { c1: 'b' }]);
    const { id: other, ids: theirs } = await sheetWith([{ c1: 'x' }]);
    const tried = (edit: Partial<Parameters<typeof editRecords>[3]>, by = coordinator) =>
      refusal(editRecords(db, by, id, { change: [], add: [], remove: [], ...edit }));
    const change = (record: number, cells: Cells, was?: Cells) => ({
      record,
      cells,
      ...(was ? { was } : {}),
    });
    const good = change(ids[0]!, { c1: 'A' }, { c1: 'a' });
    expect(await tried({ change: [good, change(ids[1]!, { c1: 'B' }, { c1: 'not this' })] })).toMatchObject({
      status: 409,
      errors: [{ field: 'change.1.c1' }],
    });
    expect(await tried({ change: [good], add: [{ c2: 'many' }] })).toMatchObject({
      status: 422,
      errors: [{ field: 'add.0.c2' }],
    });
    expect(await tried({ change: [good, change(ids[1]!, { c1: '' })] })).toMatchObject({
      status: 422,
      errors: [{ field: 'change.1' }],
    });
    // A record of another sheet is not there, by whichever door.
    expect((await tried({ change: [good, change(theirs[0]!, { c1: 'y' })] })).status).toBe(409);
    expect((await tried({ change: [good], remove: [theirs[0]!] })).status).toBe(404);
    expect((await tried({ change: [good] }, editor)).status).toBe(403);
    expect(boxes(await part(id))).toEqual(['b', 'a']);
    expect(boxes(await part(other))).toEqual(['x']);
  });

  it('written by two at once end as one of them left them, and the other is told', async () => {
    const { id, ids } = await sheetWith(Array.from({ length: 40 }, () => ({ c1: 'begun' })));
    const write = (text: string, order: readonly number[]) =>
      editRecords(db, coordinator, id, {
        change: order.map((record) => ({ record, cells: { c1: text }, was: { c1: 'begun' } })),
        add: [],
        remove: [],
      });
    const ended = await Promise.allSettled([write('one', ids), write('other', ids.toReversed())]);
    expect(ended.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    const winner = ended[0].status === 'fulfilled' ? 'one' : 'other';
    expect(new Set(boxes(await part(id)))).toEqual(new Set([winner]));
  });
});

describe('views that are kept', () => {
  const kept = (name: string, shared: boolean, view: SheetView = WHOLE) => ({ name, shared, view });

  it('are one’s own or everybody’s, and changed by whom they are for to change', async () => {
    const { id } = await sheetWith([{ c1: 'a' }]);
    const own = await addView(db, editor, id, kept('Mine', false));
    const all = await addView(db, coordinator, id, kept('For all', true));
    const names = async (by: Actor) => (await viewsOf(db, by, id)).map(({ name, mine }) => [name, mine]);
    expect(await names(editor)).toEqual([
      ['For all', false],
      ['Mine', true],
    ]);
    expect(await names(coordinator)).toEqual([['For all', true]]);
    expect((await refusal(addView(db, editor, id, kept('Ours', true)))).status).toBe(403);
    expect((await refusal(alterView(db, editor, id, all, kept('Taken', false)))).status).toBe(403);
    expect((await refusal(dropView(db, editor, id, all))).status).toBe(403);
    // Somebody else's own is not there, for coordinators neither.
    expect((await refusal(alterView(db, coordinator, id, own, kept('Seen', false)))).status).toBe(404);
    expect((await refusal(dropView(db, coordinator, id, own))).status).toBe(404);
    await alterView(db, editor, id, own, kept('Mine still', false, { ...WHOLE, hidden: ['c2'] }));
    expect((await viewsOf(db, editor, id))[1]?.view.hidden).toEqual(['c2']);
    expect(await refusal(addView(db, editor, id, kept('for ALL', false)))).toMatchObject({
      status: 422,
      errors: [{ field: 'name' }],
    });
    expect(
      (
        await refusal(
          addView(db, editor, id, kept('Odd', false, { ...WHOLE, if: test('record.c9', 'is', 'x') })),
        )
      ).status,
    ).toBe(422);
    await dropView(db, editor, id, own);
    expect(await names(editor)).toEqual([['For all', false]]);
  });
});
