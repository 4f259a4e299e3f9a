import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { AttemptLimit } from '../../src/server/accounts/rateLimit.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { newAutomation } from '../../src/core/automation/automation.ts';
import { insertAutomation } from '../../src/server/automations/store.ts';
import type { SheetShape } from '../../src/core/sheets/sheet.ts';
import { Problem } from '../../src/server/problem.ts';
import { openForm, sendForm } from '../../src/server/sheets/forms.ts';
import {
  addRecord,
  addRecords,
  alterRecord,
  alterSheet,
  deleteRecord,
  deleteSheet,
  listSheets,
  makeSheet,
  recordHistory,
  sheetPage,
} from '../../src/server/sheets/service.ts';
import { coordinator, countOf, freshDatabase } from './world.ts';

let db: Database;
let attempts: AttemptLimit;
beforeAll(async () => {
  const fresh = await freshDatabase('sheets');
  ({ db } = fresh);
  attempts = new AttemptLimit(fresh.url);
});
afterAll(() => db.destroy());

const shape = (part: Partial<SheetShape> = {}): SheetShape => ({
  name: `Sheet ${Math.random()}`,
  purpose: '',
  columns: [
    { id: 'c1', name: 'Batch', kind: 'text', unit: '', choices: [] },
    { id: 'c2', name: 'Grams', kind: 'number', unit: 'g', choices: [] },
  ],
  form: null,
  ...part,
});

describe('a record sheet', () => {
  it('keeps cells in one form, what they held before, and is found by what is in it and not by what its columns are called inside', async () => {
    const id = await makeSheet(db, coordinator, shape());
    const record = await addRecord(db, coordinator, id, { c1: ' Blue poppy ', c2: '1 200,5 g' });
    await alterRecord(db, coordinator, id, record, { c2: '900' });
    expect((await sheetPage(db, coordinator, id, { search: 'blue P' })).records[0]?.cells).toEqual({
      c1: 'Blue poppy',
      c2: '900',
    });
    expect((await sheetPage(db, coordinator, id, { search: 'c1' })).total).toBe(0);
    expect((await recordHistory(db, coordinator, id, record, 'UTC'))[0]).toMatchObject({
      by: 'Maud Fenwright',
      changes: [{ column: 'Grams', from: '1,200.5 g', to: '900 g' }],
    });
    await expect(alterRecord(db, coordinator, id, record, { c2: 'much' })).rejects.toMatchObject({
      errors: [{ field: 'c2', detail: 'Grams: “much” is no number. Write one such as 12.5.' }],
    });
    await deleteRecord(db, coordinator, id, record);
    expect((await sheetPage(db, coordinator, id)).total).toBe(0);
  });

  it('takes rows in all at once or not at all, and says which are wrong', async () => {
    const id = await makeSheet(db, coordinator, shape());
    await expect(
      addRecords(db, coordinator, id, [{ c1: 'a', c2: '1' }, { c1: 'b', c2: 'x' }, {}]),
    ).rejects.toMatchObject({ errors: [{ field: 'rows.1.c2' }] });
    expect(await countOf(db, 'FROM records WHERE sheet_id = ?', [id])).toBe(0);
    expect(await addRecords(db, coordinator, id, [{ c1: 'a', c2: '1' }, {}])).toBe(1);
  });

  it('is changed over the revision that was seen, and is not deleted while an automation reads it', async () => {
    const id = await makeSheet(db, coordinator, shape());
    await alterSheet(db, coordinator, id, { revision: 1, shape: shape({ name: 'Renamed' }) });
    await expect(alterSheet(db, coordinator, id, { revision: 1, shape: shape() })).rejects.toMatchObject({
      status: 409,
    });
    await expect(makeSheet(db, coordinator, shape({ name: 'renamed' }))).rejects.toMatchObject({
      errors: [{ field: 'name' }],
    });
    await insertAutomation(db, 1, newAutomation('Reader', { kind: 'sent in', sheetId: id }));
    await expect(deleteSheet(db, coordinator, id)).rejects.toThrow('“Reader”');
    expect((await listSheets(db, coordinator)).find((each) => each.id === id)?.automations).toEqual([
      'Reader',
    ]);
  });
});

describe('a form', () => {
  const form = (open: boolean): SheetShape['form'] => ({
    open,
    intro: '',
    thanks: 'Thanks.',
    fields: [{ column: 'c1', help: '', required: true }],
  });
  const keyOf = async (id: number): Promise<string> =>
    (await sheetPage(db, coordinator, id)).formPath?.split('/').at(-1) ?? '';
  const sent = (cells: Record<string, string>, intent = 'x'.repeat(20), website = '') => ({
    cells,
    intent,
    website,
  });

  it('is one record however often it is sent, of the columns it asks for alone', async () => {
    const id = await makeSheet(db, coordinator, shape({ form: form(true) }));
    const key = await keyOf(id);
    expect((await openForm(db, key)).fields.map((each) => each.column.name)).toEqual(['Batch']);
    const once = { key, by: null, from: '203.0.113.9', input: sent({ c1: 'Kit', c2: '5' }) };
    await Promise.all([
      sendForm(db, attempts, once),
      sendForm(db, attempts, once),
      sendForm(db, attempts, once),
    ]);
    const { records } = await sheetPage(db, coordinator, id);
    expect(records.map((each) => each.cells)).toEqual([{ c1: 'Kit' }]);
    expect(records[0]?.changedBy).toBeNull();
    await expect(sendForm(db, attempts, { ...once, input: sent({}) })).rejects.toMatchObject({
      errors: [{ field: 'c1', detail: 'Batch is needed.' }],
    });
    // A machine is thanked, and nothing is kept.
    await sendForm(db, attempts, { ...once, input: sent({ c1: 'Spam' }, 'y'.repeat(20), 'http://x') });
    expect((await sheetPage(db, coordinator, id)).total).toBe(1);
  });

  it('for those who are signed in is refused to others, and counts how many come from one place', async () => {
    const own = await makeSheet(db, coordinator, shape({ form: form(false) }));
    const key = await keyOf(own);
    const input = sent({ c1: 'Kit' });
    await expect(sendForm(db, attempts, { key, by: null, from: '203.0.113.7', input })).rejects.toMatchObject(
      {
        status: 401,
      },
    );
    await sendForm(db, attempts, { key, by: 1, from: '203.0.113.7', input });
    expect((await sheetPage(db, coordinator, own)).records[0]?.changedBy).toBe('Maud Fenwright');
    const open = await keyOf(await makeSheet(db, coordinator, shape({ form: form(true) })));
    const many = Array.from({ length: 25 }, (_, at) =>
      sendForm(db, attempts, {
        key: open,
        by: null,
        from: '203.0.113.8',
        input: sent({ c1: 'Kit' }, `${at}`.padStart(20, '0')),
      }).then(
        () => 'taken',
        (error: unknown) => (error instanceof Problem ? error.status : 0),
      ),
    );
    const answers = await Promise.all(many);
    expect(answers.filter((each) => each === 'taken')).toHaveLength(20);
    expect(answers.filter((each) => each === 429)).toHaveLength(5);
    await expect(openForm(db, 'x'.repeat(22))).rejects.toMatchObject({ status: 404 });
  });
});
