import type { Locator, Page } from '@playwright/test';
import { chooseName } from './fields.ts';
import { expect, houseUrl, test, visit } from './people.ts';

/** A sheet of its own, with some records. */
async function sheetOf(page: Page, name: string, rows: Record<string, string>[]): Promise<number> {
  const made = await page.request.post('/api/sheets', {
    headers: { origin: houseUrl() },
    data: {
      name,
      purpose: '',
      columns: [
        { id: 'c1', name: 'Box', kind: 'text' },
        { id: 'c2', name: 'Grams', kind: 'number', unit: 'g' },
        { id: 'c3', name: 'Size', kind: 'choice', choices: ['small', 'large'] },
      ],
      form: null,
    },
  });
  expect(made.status(), await made.text()).toBe(200);
  const { id } = (await made.json()) as { id: number };
  const filled = await page.request.post(`/api/sheets/${id}/records/many`, {
    headers: { origin: houseUrl(), 'content-type': 'application/x-ndjson' },
    data: rows.map((row) => JSON.stringify(row)).join('\n'),
  });
  expect(filled.status(), await filled.text()).toBe(200);
  return id;
}

const gridOf = (page: Page): Locator => page.getByRole('grid', { name: 'The records' });
/** A cell by its row, from 1, and the place of its column among those of the sheet, from 1. */
const cell = (page: Page, row: number, column: number): Locator =>
  gridOf(page)
    .locator(`[role="row"][aria-rowindex="${row + 1}"]`)
    .locator(`[role="gridcell"][aria-colindex="${column + 2}"]`);
const column = async (page: Page, place: number, rows: number): Promise<string[]> =>
  Promise.all(Array.from({ length: rows }, (_, i) => cell(page, i + 1, place).innerText()));

async function paste(page: Page, text: string): Promise<void> {
  await page.evaluate((said) => navigator.clipboard.writeText(said), text);
  await page.keyboard.press('ControlOrMeta+v');
}

test('cells are written, pasted and emptied by keyboard, and every step is taken back', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  const id = await sheetOf(page, 'Boxes by hand', [
    { c1: 'Box 3', c2: '30', c3: 'large' },
    { c1: 'Box 2', c2: '20' },
    { c1: 'Box 1', c2: '10' },
  ]);
  await page.goto(`/sheets/${id}`);
  await cell(page, 1, 2).click();
  // What cannot be kept stands there still, is told, and nothing else happens to it.
  await page.keyboard.type('heavy');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Grams: “heavy” is no number. Write one such as 12.5.')).toBeVisible();
  await expect(cell(page, 1, 2)).toHaveText('heavy');
  await page.getByRole('button', { name: 'Put back what was there' }).click();
  await expect(cell(page, 1, 2)).toHaveText('10');
  await cell(page, 1, 2).click();
  await page.keyboard.type('12,5 g');
  await page.keyboard.press('Enter');
  await expect(cell(page, 1, 2)).toHaveText('12.5');

  // A block of a spreadsheet, of which the last row is one more than there are.
  await cell(page, 2, 1).click();
  await paste(page, 'Second\t2\tsmall\nThird\tthree\tlarge\nFourth\t4\tlarge');
  await expect(page.getByText('Row 2 of what was pasted: Grams: “three” is no number')).toBeVisible();
  expect(await column(page, 1, 3)).toEqual(['Box 1', 'Box 2', 'Box 3']);
  await cell(page, 2, 1).click();
  await paste(page, 'Second\t2\tsmall\nThird\t3\tlarge\nFourth\t4\tlarge');
  await expect(page.getByRole('status').filter({ hasText: '4 records' })).toBeVisible();
  await expect(cell(page, 1, 1)).toHaveText('Fourth');
  expect(await column(page, 1, 4)).toEqual(['Fourth', 'Box 1', 'Second', 'Third']);
  expect(await column(page, 3, 4)).toEqual(['large', '', 'small', 'large']);

  // Taken back in one step, and done again; then emptied, and that too.
  await cell(page, 2, 1).click();
  await page.keyboard.press('ControlOrMeta+z');
  await expect(page.getByRole('status').filter({ hasText: '3 records' })).toBeVisible();
  await expect(cell(page, 2, 1)).toHaveText('Box 2');
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.getByRole('status').filter({ hasText: '4 records' })).toBeVisible();
  await cell(page, 3, 3).click();
  await page.keyboard.press('Delete');
  await expect(cell(page, 3, 3)).toHaveText('');
  await page.getByRole('button', { name: 'Undo' }).first().click();
  await expect(cell(page, 3, 3)).toHaveText('small');

  // Some are chosen and deleted in one go, and come back.
  const box = (row: number): Locator =>
    gridOf(page)
      .locator(`[role="row"][aria-rowindex="${row + 1}"]`)
      .getByRole('checkbox');
  await box(1).check();
  await box(3).click({ modifiers: ['Shift'] });
  const chosen = page.getByRole('group', { name: 'Those that are chosen' });
  await expect(chosen).toContainText('3 records are chosen.');
  await chosen.getByRole('button', { name: 'Delete them' }).click();
  await expect(page.getByRole('status').filter({ hasText: '1 record' })).toBeVisible();
  await page
    .getByRole('listitem')
    .filter({ hasText: '3 records deleted.' })
    .getByRole('button', { name: 'Undo' })
    .click();
  await expect(page.getByRole('status').filter({ hasText: '4 records' })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('status').filter({ hasText: '4 records' })).toBeVisible();
});

test('two at one sheet do not write over each other, and neither sees rows move under the cursor', async ({
  browser,
}) => {
  const { page: one } = await visit(browser, 'Maud Fenwright');
  const id = await sheetOf(one, 'Boxes of two', [
    { c1: 'b', c2: '2' },
    { c1: 'a', c2: '1' },
  ]);
  await one.goto(`/sheets/${id}`);
  const other = await one.context().newPage();
  await other.goto(`/sheets/${id}`);
  await expect(cell(other, 1, 1)).toHaveText('a');
  await cell(one, 1, 2).dblclick();
  await one.keyboard.type('111');
  // Meanwhile the other changes the same cell, and adds a record above it.
  await cell(other, 1, 2).click();
  await other.keyboard.type('7');
  await other.keyboard.press('Enter');
  await expect(cell(other, 1, 2)).toHaveText('7');
  await sheetRow(other, id, { c1: 'new' });
  await one.keyboard.press('Enter');
  await expect(one.getByText(/Grams holds “7 g” by now: somebody changed it/)).toBeVisible();
  await expect(cell(one, 1, 1)).toHaveText('a');
  await one.getByRole('button', { name: 'Put back what was there' }).click();
  await expect(cell(one, 1, 2)).toHaveText('7');
  await one.getByRole('button', { name: /The sheet has changed/ }).click();
  await expect(cell(one, 1, 1)).toHaveText('new');
});

async function sheetRow(page: Page, id: number, cells: Record<string, string>): Promise<void> {
  const added = await page.request.post(`/api/sheets/${id}/records`, {
    headers: { origin: houseUrl() },
    data: { cells },
  });
  expect(added.status()).toBe(200);
}

test('a view is made as a sentence, kept for everybody, and read to its end', async ({ browser }) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  const id = await sheetOf(
    page,
    'Many boxes',
    Array.from({ length: 1200 }, (_, i) => ({
      c1: `Box ${i}`,
      c2: String(i),
      c3: i % 3 === 0 ? 'large' : 'small',
    })),
  );
  await page.goto(`/sheets/${id}`);
  const status = (words: string) => page.getByRole('status').filter({ hasText: words });
  await expect(status('1,200 records')).toBeVisible();
  await expect(gridOf(page)).toBeVisible();
  await page.getByRole('button', { name: /^Which records/ }).click();
  const panel = page.getByRole('group', { name: 'Which records' });
  await panel.getByRole('button', { name: 'Add a test' }).click();
  await panel.getByRole('combobox', { name: 'Column' }).selectOption('Grams');
  await expect(panel.getByText('Say what Grams is held against.')).toBeVisible();
  await panel.getByRole('combobox', { name: 'Test' }).selectOption('is at least');
  await panel.getByRole('spinbutton', { name: 'Value' }).fill('900');
  await expect(status('300 records of 1,200')).toBeVisible();
  await panel.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByText('those of which Grams is at least 900g')).toBeVisible();
  await gridOf(page).getByRole('columnheader', { name: 'Box' }).click();
  await expect(cell(page, 1, 1)).toHaveText('Box 900');
  // Read to its end, with rows in between that were never in sight.
  await expect(async () => {
    await gridOf(page).evaluate((box) => box.scrollTo(0, box.scrollHeight));
    await expect(cell(page, 300, 1)).toHaveText('Box 1199', { timeout: 2_000 });
  }).toPass();
  await page.getByRole('button', { name: /^With which columns/ }).click();
  await page.getByRole('checkbox', { name: 'Size' }).uncheck();
  await expect(gridOf(page).getByRole('columnheader', { name: 'Size' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Done' }).click();

  await page.getByRole('button', { name: 'Keep as a view' }).click();
  const keeping = page.getByRole('dialog');
  await keeping.getByRole('button', { name: 'Keep it' }).click();
  await expect(keeping.getByText('Give it a name')).toBeVisible();
  await keeping.getByRole('textbox', { name: 'What it is called' }).fill('The heavy ones');
  await keeping.getByRole('checkbox', { name: 'For everybody who sees this sheet' }).check();
  await keeping.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByRole('combobox', { name: 'View' })).toHaveValue(/\d+/);
  const address = page.url();

  // An editor has it, reads it, and can change neither it nor the records.
  const { page: editor } = await visit(browser, 'Núria Ferragut');
  await editor.goto(`/sheets/${id}`);
  await editor.getByRole('combobox', { name: 'View' }).selectOption({ label: 'The heavy ones' });
  await expect(editor.getByRole('status').filter({ hasText: '300 records of 1,200' })).toBeVisible();
  // Without a column to choose records in.
  await expect(cell(editor, 1, 0)).toHaveText('Box 900');
  await cell(editor, 1, 0).dblclick();
  await expect(editor.getByRole('textbox', { name: 'Box' })).toHaveCount(0);
  await expect(editor.getByRole('button', { name: 'Delete this view' })).toHaveCount(0);
  // The address shows the same, and what it shows is taken out.
  await page.goto(address);
  await expect(status('300 records of 1,200')).toBeVisible();
  const csv = await page.request.get(
    (await page.getByRole('link', { name: 'as CSV' }).getAttribute('href'))!,
  );
  const lines = (await csv.text()).trim().split('\r\n');
  expect([lines.length, lines[1], lines.at(-1)]).toEqual([301, 'Box 900,900', 'Box 1199,1199']);

  await page.getByRole('button', { name: 'Delete this view' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Delete it' }).click();
  await expect(status('1,200 records')).toBeVisible();
});

test('a column is calculated from others as they are written, and who is named for the sheet changes it', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  const id = await sheetOf(maud, 'Boxes weighed', [
    { c1: 'Box 2', c2: '250', c3: 'small' },
    { c1: 'Box 1', c2: '40' },
  ]);
  await maud.goto(`/sheets/${id}`);
  await maud.getByRole('button', { name: 'More', exact: true }).click();
  await maud.getByRole('menuitem', { name: 'Columns and form' }).click();
  const dialog = maud.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Add a column' }).click();
  await dialog.getByRole('textbox', { name: 'Name', exact: true }).last().fill('Kilos');
  await dialog.getByRole('combobox', { name: 'Holds' }).last().selectOption('number');
  await dialog.getByRole('combobox', { name: 'Filled' }).last().selectOption('calculated');
  const formula = dialog.getByRole('textbox', { name: 'Calculated as' });
  await formula.fill('[Weight] / 1000');
  await expect(dialog.getByText('No column is called “Weight”.')).toBeVisible();
  await formula.fill('[Box] / 1000');
  await expect(dialog.getByText('Text and a number do not go with “/”.')).toBeVisible();
  // What cannot be calculated is refused as it is told, and nothing of what was written is lost.
  await dialog.getByRole('button', { name: 'Change it' }).click();
  await expect(dialog.getByText('Kilos: Text and a number do not go with “/”.')).toBeVisible();
  await formula.fill('[Grams] / 1000');
  await expect(dialog.getByText('Of the newest record: 0.04.')).toBeVisible();
  await dialog.getByRole('button', { name: 'Change it' }).click();
  await expect(dialog).toHaveCount(0);
  // The engine calculates what is there already.
  await expect(async () => {
    await maud.reload();
    expect(await column(maud, 4, 2)).toEqual(['0.04', '0.25']);
  }).toPass();
  await cell(maud, 1, 2).click();
  await maud.keyboard.type('55');
  await maud.keyboard.press('Enter');
  await expect(cell(maud, 1, 4)).toHaveText('0.055');
  await cell(maud, 1, 4).click();
  await maud.keyboard.type('9');
  await maud.keyboard.press('Enter');
  await expect(cell(maud, 1, 4)).toHaveText('0.055');

  // It is for coordinators and one editor from now on, who writes into it.
  const { page: nuria } = await visit(browser, 'Núria Ferragut');
  await nuria.goto(`/sheets/${id}`);
  await expect(nuria.getByRole('button', { name: 'Add a record' })).toHaveCount(0);
  await maud.getByRole('button', { name: 'More', exact: true }).click();
  await maud.getByRole('menuitem', { name: 'Who sees and changes it' }).click();
  await maud.getByRole('radio', { name: 'coordinators, and those named below' }).check();
  await chooseName(maud, 'Name somebody at the desk', 'Wren', /^Wren Ashdown/);
  await maud.getByRole('button', { name: 'Keep it so' }).click();
  await expect(
    maud.getByText('Record sheets are seen at the desk, and this person is not there.'),
  ).toBeVisible();
  await maud.getByRole('button', { name: 'Take Wren Ashdown out' }).click();
  await maud.getByRole('button', { name: 'Keep it so' }).click();
  await expect(maud.getByText('Seen only by coordinators.')).toBeVisible();
  await nuria.goto(`/sheets/${id}`);
  await expect(nuria.getByRole('heading', { name: 'Boxes weighed' })).toHaveCount(0);
  await maud.getByRole('button', { name: 'More', exact: true }).click();
  await maud.getByRole('menuitem', { name: 'Who sees and changes it' }).click();
  await chooseName(maud, 'Name somebody at the desk', 'Núria', /^Núria Ferragut/);
  await maud.getByRole('button', { name: 'Keep it so' }).click();
  await expect(maud.getByText('Núria Ferragut may change its records too.')).toBeVisible();
  await nuria.goto(`/sheets/${id}`);
  await nuria.getByRole('button', { name: 'Add a record' }).click();
  await nuria.getByRole('dialog').getByRole('textbox', { name: 'Grams' }).fill('1500');
  await nuria.getByRole('dialog').getByRole('button', { name: 'Add it' }).click();
  await expect(cell(nuria, 1, 4)).toHaveText('1.5');
  await expect(nuria.getByRole('button', { name: 'More', exact: true })).toHaveCount(0);
});
