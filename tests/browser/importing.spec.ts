import { writeFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { expect, test, visit } from './people.ts';

const awake = (page: Page): Promise<unknown> =>
  page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);

test('a list is matched, compared, decided, brought in, and taken back', async ({ browser }, info) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  const file = info.outputPath('crew.csv');
  // As a spreadsheet of another country saves it: semicolons, an older encoding, days first.
  writeFileSync(
    file,
    [
      'Vorname;Nachname;E-Mail;Tätigkeit;Eintritt',
      'Grüta;Møller;gruta@crew.example;Gärtnerin;13.02.2026',
      'Wren;Ashdown;wren.new@crew.example;;',
      'Nobody;At Home;not an address;;',
    ].join('\r\n'),
    'latin1',
  );
  await page.goto('/people');
  await page.getByRole('link', { name: 'Import', exact: true }).click();
  // Of the page that follows: on the one before, everything is awake already.
  await page.waitForURL(/\/people\/import$/);
  await awake(page);
  const choose = page.locator('input[type=file]');
  await choose.setInputFiles({
    name: 'sheet.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('PK\u0003\u0004…'),
  });
  await expect(page.getByRole('alert')).toContainText('Save the sheet as CSV first');
  await choose.setInputFiles(file);
  await expect(page.getByText('3 rows, separated by semicolons')).toBeVisible();
  await expect(page.getByRole('combobox', { name: 'Nachname holds' })).toHaveValue('family');
  await page.getByRole('combobox', { name: 'Eintritt holds' }).selectOption('joined on');
  await page.getByRole('combobox', { name: 'Tätigkeit holds' }).selectOption('mail address');
  await expect(page.getByText('Two columns are said to hold the mail address')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Compare/ })).toBeDisabled();
  await page.getByRole('combobox', { name: 'Tätigkeit holds' }).selectOption('occupation');
  await page.getByRole('button', { name: 'Compare 3 rows' }).click();
  await page.waitForURL(/\/people\/import\/\d+$/);
  await awake(page);
  await expect(page.getByText('It would add 1 person.')).toBeVisible();
  // What is not sure is shown first; it is decided here.
  await expect(page.getByText('The same person with another address?')).toBeVisible();
  await page.getByRole('combobox', { name: 'The row of Wren Ashdown is' }).selectOption('the same person');
  await expect(page.getByText('It would add 1 person and change 1.')).toBeVisible();
  await page.getByRole('radio', { name: /^Cannot be used/ }).click();
  await expect(page.getByText('“not an address” is not a mail address')).toBeVisible();
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Bring it in' }).dblclick();
  await expect(page.getByText('The list is brought in.')).toBeVisible();

  await page.goto('/people');
  await awake(page);
  await page.getByRole('searchbox').fill('Grüta');
  await expect(page.getByRole('cell', { name: 'Gärtnerin' }).last()).toBeVisible();
  await page.goto('/people/import');
  await page.getByRole('link', { name: 'crew.csv' }).first().click();
  await page.waitForURL(/\/people\/import\/\d+$/);
  await awake(page);
  await page.getByRole('button', { name: 'Undo it' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Undo it' }).click();
  await expect(page.getByText('1 person added by it is gone. 1 person is as before.')).toBeVisible();
  await page.goto('/people');
  await awake(page);
  await page.getByRole('searchbox').fill('Grüta');
  await expect(page.getByText('Nobody of that name, address or station.')).toBeVisible();
});
