import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newAutomation, type When } from '../../src/core/automation/automation.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import type { Cells, SheetShape } from '../../src/core/sheets/sheet.ts';
import { WHOLE } from '../../src/core/sheets/view.ts';
import { Around } from '../../src/server/automations/around.ts';
import { prepare } from '../../src/server/automations/prepare.ts';
import { publishProblems } from '../../src/server/automations/publishProblems.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { dueTimes } from '../../src/server/engine/dueStore.ts';
import { eventsAfter, placeEvents, positions } from '../../src/server/events/store.ts';
import { calculateDue } from '../../src/server/sheets/calculating.ts';
import { automationById } from '../../src/server/automations/store.ts';
import { bringRecords } from '../../src/server/sheets/bringing.ts';
import { editRecords } from '../../src/server/sheets/editing.ts';
import { openForm, sendForm } from '../../src/server/sheets/forms.ts';
import { gridPart } from '../../src/server/sheets/grid.ts';
import { setRights } from '../../src/server/sheets/rights.ts';
import {
  addRecord,
  addRecords,
  alterRecord,
  alterSheet,
  deleteRecord,
  listSheets,
  makeSheet,
  recordHistory,
  sheetHead,
} from '../../src/server/sheets/service.ts';
import { sheetFile } from '../../src/server/sheets/taking.ts';
import { viewsOf } from '../../src/server/sheets/views.ts';
import type { AttemptLimit } from '../../src/server/accounts/rateLimit.ts';
import { actIn, putToWork, runsIn, saidIn, says } from './automating.ts';
import { addPeople, coordinator, freshDatabase, refusal } from './world.ts';

const NO_LIMIT = { form: () => Promise.resolve() } as unknown as AttemptLimit;

let db: Database;
let editor: Actor;
let other: Actor;
let member: number;
beforeAll(async () => {
  ({ db } = await freshDatabase('sheet_columns'));
  const people = await addPeople(db, 3);
  await db('people').whereIn('id', people.slice(0, 2)).update({ role: 'editor' });
  [editor, other] = people.slice(0, 2).map((id): Actor => ({ ...coordinator, id, role: 'editor' })) as [
    Actor,
    Actor,
  ];
  member = people[2]!;
});
afterAll(() => db.destroy());

const SHAPE: SheetShape = {
  name: '',
  purpose: '',
  columns: [
    { id: 'c1', name: 'Vault', kind: 'text', unit: '', choices: [] },
    { id: 'c2', name: 'Humidity', kind: 'number', unit: '%', choices: [] },
    { id: 'c3', name: 'Limit', kind: 'number', unit: '%', choices: [] },
    { id: 'c4', name: 'Share', kind: 'number', unit: '%', choices: [], formula: 'round(c2 / c3 * 100, 1)' },
    { id: 'c5', name: 'Over', kind: 'yes or no', unit: '', choices: [], formula: 'c4 > 90' },
  ],
  form: null,
};
let made = 0;
const sheetOf = (shape: Partial<SheetShape> = {}): Promise<number> =>
  makeSheet(db, coordinator, { ...SHAPE, ...shape, name: `Readings ${++made}` });
const cellsIn = async (id: number): Promise<Cells[]> =>
  (
    await gridPart(db, coordinator, id, { view: WHOLE, search: '', zone: 'UTC' }, { from: 0, asOf: '' })
  ).records.map((record) => record?.cells ?? {});
const formulas = (share: string): SheetShape['columns'] =>
  SHAPE.columns.map((column) => (column.id === 'c4' ? { ...column, formula: share } : column));

describe('columns that are calculated', () => {
  it('follow from what is added, brought in, sent in, changed and edited, and are written by nobody', async () => {
    const form = {
      open: true,
      intro: '',
      thanks: '',
      fields: ['c1', 'c2', 'c3'].map((column) => ({ column, help: '', required: false })),
    };
    const sheet = await sheetOf({ form });
    const first = await addRecord(db, coordinator, sheet, { c1: 'A', c2: '44', c3: '50', c4: '1' });
    await addRecords(db, coordinator, sheet, [
      { c1: 'B', c2: '50', c3: '50' },
      { c1: 'C', c2: '3' },
    ]);
    const { formPath } = await sheetHead(db, coordinator, sheet);
    const key = formPath!.slice('/forms/'.length);
    expect((await openForm(db, key)).fields).toHaveLength(3);
    const input = {
      cells: { c1: 'D', c2: '10', c3: '40', c4: '7' },
      website: '',
      intent: 'abcdefgh12345678',
    };
    await sendForm(db, NO_LIMIT, { key, by: null, from: '::1', input });
    await editRecords(db, coordinator, sheet, {
      change: [],
      add: [{ c1: 'E', c2: '30', c3: '40' }],
      remove: [],
    });
    expect((await cellsIn(sheet)).map(({ c1, c4, c5 }) => [c1, c4, c5])).toEqual([
      ['E', '75', 'no'],
      ['D', '25', 'no'],
      ['C', undefined, undefined],
      ['B', '100', 'yes'],
      ['A', '88', 'no'],
    ]);
    await placeEvents(db);
    const seen = (await positions(db)).get('last')?.position ?? 0;
    await editRecords(db, coordinator, sheet, {
      change: [{ record: first, cells: { c2: '46' } }],
      add: [],
      remove: [],
    });
    await placeEvents(db);
    const [event] = await eventsAfter(db, seen, 10);
    expect(event?.detail).toMatchObject({
      changed: {
        c2: { before: '44', after: '46' },
        c4: { before: '88', after: '92' },
        c5: { before: 'no', after: 'yes' },
      },
    });
    await alterRecord(db, coordinator, sheet, first, { c3: '', c4: '92' });
    expect((await cellsIn(sheet)).at(-1)).toEqual({ c1: 'A', c2: '46' });
    expect(
      (await recordHistory(db, coordinator, sheet, first, 'UTC'))[0]?.changes.map(({ column }) => column),
    ).toEqual(['Limit', 'Share', 'Over']);
    const told = await refusal(alterRecord(db, coordinator, sheet, first, { c4: '12' }));
    expect(told).toMatchObject({ status: 422, errors: [{ field: 'c4' }] });
    const edit = { change: [{ record: first, cells: { c1: 'Z', c5: 'yes' } }], add: [], remove: [] };
    expect(await refusal(editRecords(db, coordinator, sheet, edit))).toMatchObject({
      status: 422,
      errors: [{ field: 'change.0.c5' }],
    });
    // Nothing but what is calculated would be left of it.
    const emptied = { change: [{ record: first, cells: { c1: '', c2: '' } }], add: [], remove: [] };
    expect(await refusal(editRecords(db, coordinator, sheet, emptied))).toMatchObject({ status: 422 });
    expect((await cellsIn(sheet)).at(-1)).toEqual({ c1: 'A', c2: '46' });
  });

  it('are refused at their column where they cannot be calculated', async () => {
    const told = await refusal(sheetOf({ columns: formulas('c1 * 2') }));
    expect(told).toMatchObject({ status: 422, errors: [{ field: 'columns.3.formula' }] });
    expect(await refusal(sheetOf({ columns: formulas('c5 ? 1 : 2') }))).toMatchObject({ status: 422 });
  });

  it('are calculated anew by the engine where they are calculated otherwise, while others write, by two at once', async () => {
    const sheet = await sheetOf();
    for (let part = 0; part < 2; part++)
      await addRecords(
        db,
        coordinator,
        sheet,
        Array.from({ length: 800 }, (_, at) => ({ c1: `V${part}-${at}`, c2: String(at), c3: '100' })),
      );
    const head = await sheetHead(db, coordinator, sheet);
    const { name, purpose, form, revision } = head;
    await alterSheet(db, coordinator, sheet, {
      revision,
      shape: { name, purpose, form, columns: formulas('c2 / 2') },
    });
    const due = await dueTimes(db);
    expect(due.due['record sheets']).toBeLessThanOrEqual(due.nowMs);
    const [one] = await rows<{ id: number }>(db, 'SELECT MAX(id) AS id FROM records WHERE sheet_id = ?', [
      sheet,
    ]);
    const before = await rows<{ at: number }>(
      db,
      'SELECT MAX(UNIX_TIMESTAMP(changed_at)) AS at FROM records WHERE sheet_id = ?',
      [sheet],
    );
    await Promise.all([
      calculateDue(db),
      calculateDue(db),
      alterRecord(db, coordinator, sheet, one!.id - 1, { c1: 'changed meanwhile' }),
    ]);
    const all = await rows<{ cells: string }>(
      db,
      'SELECT cells FROM records WHERE sheet_id = ? ORDER BY id',
      [sheet],
    );
    const wrong = all.filter(({ cells }) => {
      const read = JSON.parse(cells) as Cells;
      return read.c4 !== String(Number(read.c2) / 2) || read.c5 !== (Number(read.c2) / 2 > 90 ? 'yes' : 'no');
    });
    expect([all.length, wrong.length]).toEqual([1600, 0]);
    expect(JSON.parse(all.at(-2)!.cells)).toMatchObject({ c1: 'changed meanwhile' });
    // Nobody changed the others: neither when, nor by whom.
    expect(
      await rows(db, 'SELECT id FROM records WHERE sheet_id = ? AND UNIX_TIMESTAMP(changed_at) > ?', [
        sheet,
        before[0]!.at,
      ]),
    ).toHaveLength(1);
    expect((await dueTimes(db)).due['record sheets'] ?? null).toBeNull();
    // A new name alone calculates nothing.
    const now = await sheetHead(db, coordinator, sheet);
    await alterSheet(db, coordinator, sheet, {
      revision: now.revision,
      shape: { name, purpose: 'Vaults', form, columns: now.columns },
    });
    expect((await dueTimes(db)).due['record sheets'] ?? null).toBeNull();
  });
});

describe('who sees and changes a sheet', () => {
  it('is said by coordinators, and holds wherever the sheet is read or written', async () => {
    const sheet = await sheetOf();
    const record = await addRecord(db, coordinator, sheet, { c1: 'A' });
    const looked = { view: WHOLE, search: '', zone: 'UTC' };
    const reading = (by: Actor): (() => Promise<unknown>)[] => [
      () => sheetHead(db, by, sheet),
      () => gridPart(db, by, sheet, looked, { from: 0, asOf: '' }),
      () => sheetFile(db, by, sheet, looked, 'csv'),
      () => viewsOf(db, by, sheet),
      () => recordHistory(db, by, sheet, record, 'UTC'),
    ];
    const writing = (by: Actor): (() => Promise<unknown>)[] => [
      () => addRecord(db, by, sheet, { c1: 'B' }),
      () => addRecords(db, by, sheet, [{ c1: 'B' }]),
      () => alterRecord(db, by, sheet, record, { c1: `by ${by.id}` }),
      () => editRecords(db, by, sheet, { change: [], add: [{ c1: 'C' }], remove: [] }),
      async () => deleteRecord(db, by, sheet, await addRecord(db, coordinator, sheet, { c1: 'gone' })),
    ];
    const statuses = async (of: (() => Promise<unknown>)[]): Promise<(number | undefined)[]> => {
      const found: (number | undefined)[] = [];
      for (const each of of)
        found.push(
          await each().then(
            () => 200,
            (error: unknown) => (error as { status?: number }).status,
          ),
        );
      return found;
    };
    const all = (status: number): number[] => Array.from({ length: 5 }, () => status);
    expect([await statuses(reading(editor)), await statuses(writing(editor))]).toEqual([all(200), all(403)]);
    await setRights(db, coordinator, sheet, {
      seenBy: 'named',
      people: [{ id: editor.id, mayChange: true }],
    });
    expect([await statuses(reading(editor)), await statuses(writing(editor))]).toEqual([all(200), all(200)]);
    expect([await statuses(reading(other)), await statuses(writing(other))]).toEqual([all(404), all(404)]);
    expect((await listSheets(db, other)).map(({ id }) => id)).not.toContain(sheet);
    expect((await listSheets(db, editor)).map(({ id }) => id)).toContain(sheet);
    const { mayChange, mayKeep, rights } = await sheetHead(db, editor, sheet);
    expect([mayChange, mayKeep, rights.people.map(({ id }) => id)]).toEqual([true, false, [editor.id]]);
    expect(await refusal(setRights(db, editor, sheet, { seenBy: 'desk', people: [] }))).toMatchObject({
      status: 403,
    });
    expect(
      await refusal(
        setRights(db, coordinator, sheet, { seenBy: 'desk', people: [{ id: member, mayChange: false }] }),
      ),
    ).toMatchObject({ status: 422, errors: [{ field: 'people.0.id' }] });
    // What was refused left what was said.
    expect((await sheetHead(db, editor, sheet)).rights.seenBy).toBe('named');
  });

  it('is held to by automations: told when they are put to work, and at each run', async () => {
    const sheet = await sheetOf();
    const id = await addRecord(db, coordinator, sheet, { c1: 'A' });
    const automation = { ...newAutomation('Reads it', { kind: 'meets', sheetId: sheet, again: false }) };
    const run = (by: Actor) =>
      prepare(
        db,
        by,
        automation,
        { kind: 'records', sheetId: sheet, ids: [id] },
        Date.now(),
        { secret: '', inside: [] },
        new Around(db),
      );
    const told = async (by: Actor): Promise<string[]> =>
      (await publishProblems(db, by, automation, coordinator.id))
        .map(({ detail }) => detail)
        .filter((each) => each.includes('may not see'));
    expect([await told(editor), (await run(editor)).matched]).toEqual([[], 1]);
    await setRights(db, coordinator, sheet, { seenBy: 'named', people: [] });
    expect(await told(editor)).toHaveLength(1);
    expect(await refusal(run(editor))).toMatchObject({ status: 403 });
    expect((await run(coordinator)).matched).toBe(1);
    await setRights(db, coordinator, sheet, {
      seenBy: 'named',
      people: [{ id: editor.id, mayChange: false }],
    });
    expect([await told(editor), (await run(editor)).matched]).toEqual([[], 1]);
  });
});

describe('a list that is brought in', () => {
  const lines = (rowsOf: readonly Cells[]): Buffer =>
    Buffer.from(rowsOf.map((row) => JSON.stringify(row)).join('\n'));
  const many = Array.from({ length: 10_000 }, (_, at) => ({ c1: `V${at}`, c2: String(at % 100), c3: '100' }));

  it('is kept whole or not at all, calculated, in its order', async () => {
    const sheet = await sheetOf();
    await addRecord(db, coordinator, sheet, { c1: 'before' });
    for (const [wrong, said] of [
      [
        lines([...many.slice(0, 900), { c2: 'wet' }]),
        /Row 901, Humidity: “wet” is no number.* Nothing was brought in/,
      ],
      [Buffer.from('{"c1":"a"}\n["b"]'), /Row 2 cannot be read/],
      [Buffer.from('{"c1":"a"}\n{"c1":"b'), /Row 2 cannot be read/],
      [Buffer.from('\n'), /empty/],
    ] as const)
      expect((await refusal(bringRecords(db, coordinator, sheet, wrong))).message).toMatch(said);
    expect((await refusal(bringRecords(db, editor, sheet, lines([{ c1: 'a' }])))).status).toBe(403);
    expect((await sheetHead(db, coordinator, sheet)).total).toBe(1);
    expect(await bringRecords(db, coordinator, sheet, lines(many.slice(0, 1200)))).toBe(1200);
    const kept = await rows<{ cells: string }>(
      db,
      'SELECT cells FROM records WHERE sheet_id = ? ORDER BY id',
      [sheet],
    );
    expect(kept.map(({ cells }) => (JSON.parse(cells) as Cells).c1)).toEqual([
      'before',
      ...many.slice(0, 1200).map(({ c1 }) => c1),
    ]);
    expect(JSON.parse(kept.at(-1)!.cells)).toMatchObject({ c2: '99', c4: '99', c5: 'yes' });
    expect((await sheetHead(db, coordinator, sheet)).total).toBe(1201);
  });

  it('of ten thousand is one saying with a table, or a refusal with the reason, and never ten thousand sayings', async () => {
    const sheet = await sheetOf();
    const tell = {
      to: { kind: 'audience' as const, audience: { kind: 'person' as const, id: 1 } },
      boards: [],
      outside: [],
      boardField: null,
      mail: false,
      otherwise: null,
    };
    const when: When = { kind: 'meets', sheetId: sheet, again: false };
    const once = await putToWork(db, when, {
      content: says('Vaults', 'Look at these.'),
      tell,
      each: { kind: 'once' },
      table: { columns: ['record.c1'], order: null, most: 5 },
    });
    const each = await putToWork(db, when, { content: says('{Vault|A vault}', 'Look at it.'), tell });
    await bringRecords(db, coordinator, sheet, lines(many));
    await actIn(db);
    const said = await saidIn(db, once);
    expect(said).toHaveLength(1);
    expect(said[0]?.body).toContain('9,995 more');
    expect(await saidIn(db, each)).toHaveLength(0);
    const [run] = await runsIn(db, each);
    expect(run?.reason).toMatch(/would have said 10,?000 things at once.*ceiling is 60/);
    expect((await automationById(db, each))?.state).toBe('paused');
  });
});

it('a column is never given the id of one that was taken out, whose cells the records still hold', async () => {
  const [one, two, three] = SHAPE.columns as [
    SheetShape['columns'][0],
    SheetShape['columns'][0],
    SheetShape['columns'][0],
  ];
  const shape = { ...SHAPE, name: 'Taken out', form: null };
  const id = await makeSheet(db, coordinator, { ...shape, columns: [one, two, three] });
  await addRecord(db, coordinator, id, { c1: 'A', c3: '70' });
  const alter = async (columns: SheetShape['columns']): Promise<void> =>
    alterSheet(db, coordinator, id, {
      revision: (await sheetHead(db, coordinator, id)).revision,
      shape: { ...shape, columns },
    });
  await alter([one, two]);
  expect(await sheetHead(db, coordinator, id)).toMatchObject({ lastColumn: 3 });
  const other = { ...three, name: 'Something else', kind: 'text' as const };
  const refused = await refusal(alter([one, two, other]));
  expect(refused.errors).toMatchObject([
    { field: 'columns.2.id', detail: expect.stringContaining('Give it the id c4.') as string },
  ]);
  await alter([one, two, { ...other, id: 'c4' }]);
  expect((await sheetHead(db, coordinator, id)).columns.map((column) => column.id)).toEqual([
    'c1',
    'c2',
    'c4',
  ]);
});
