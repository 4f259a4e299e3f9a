import { join } from 'node:path';
import type { Browser, Page } from '@playwright/test';
import { bringUp, placeFolder, type House } from '../../scripts/house/bringUp.ts';
import { openPhrase } from './fields.ts';
import { expect, test } from './people.ts';

const awake = (page: Page): Promise<unknown> =>
  page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);

let house: House;
test.beforeAll(async () => {
  house = await bringUp({
    place: 'check-empty',
    port: 0,
    fresh: true,
    demo: false,
    durable: false,
    say: () => undefined,
    environment: { LOG_LEVEL: 'warn' },
    dist: join(placeFolder('check'), 'dist'),
  });
});
test.afterAll(() => house.stop());

const NAMES = ['Ada Ames', 'Bo Berg', 'Cy Court', 'Di Dale', 'Eve East'];
const mailOf = (name: string): string => `${name.split(' ')[0]!.toLowerCase()}@fivefields.example`;

/** Opens the latest mail to somebody whose subject begins so, and follows its link on a phone of their own. */
async function follow(browser: Browser, name: string, subject: RegExp, link: RegExp): Promise<Page> {
  const context = await browser.newContext({ baseURL: house.url, viewport: { width: 390, height: 800 } });
  const page = await context.newPage();
  await expect(async () => {
    await page.goto(`${house.mailboxUrl}/?to=${mailOf(name)}`);
    await page.getByRole('link', { name: subject }).first().click({ timeout: 1_000 });
  }).toPass({ timeout: 30_000 });
  const href = await page
    .frameLocator('iframe')
    .getByRole('link', { name: link })
    .first()
    .getAttribute('href');
  await page.goto(href ?? '');
  await awake(page);
  return page;
}

test('from nothing to a first announcement that five people read, who were imported and invited', async ({
  browser,
}) => {
  test.setTimeout(300_000);
  const desk = await browser.newContext({ baseURL: house.url });
  const page = await desk.newPage();
  await page.goto('/');
  await page.waitForURL(/\/setup$/);
  await awake(page);
  await page.getByRole('textbox', { name: 'Name of the organisation' }).fill('Five Fields');
  await page.getByRole('textbox', { name: 'Your name' }).fill('Fay Field');
  await page.getByRole('textbox', { name: 'Your mail address' }).fill('fay@fivefields.example');
  await page.getByLabel(/^A password/).fill('four wet hats in a boat');
  await page.getByRole('button', { name: 'Set up Clear Bell' }).click();
  await page.waitForURL(/\/first-steps$/);
  await awake(page);

  // The zone came from the browser; the name is changed where it is told.
  await expect(page.getByText('Five Fields, on the clock of London')).toBeVisible();
  await page.getByRole('button', { name: 'Change', exact: true }).click();
  await page.getByRole('textbox', { name: 'Name of the organisation' }).fill('The Five Fields');
  await page.getByRole('button', { name: 'Change it' }).click();
  await expect(page.getByText('The Five Fields, on the clock of London')).toBeVisible();
  const step = (name: string) =>
    page.getByRole('listitem').filter({ has: page.getByRole('heading', { name }) });
  await step('A first group and its board').getByRole('button', { name: 'Leave it for later' }).click();
  await expect(step('A first group and its board')).toContainText('left for later');
  await page.goto('/run-sheet');
  await expect(page.getByText('2 first steps are still to do.')).toBeVisible();
  await page.getByRole('link', { name: 'Look at them' }).click();

  await page.getByRole('link', { name: 'Import a list' }).click();
  await page.waitForURL(/\/people\/import$/);
  await awake(page);
  await page.locator('input[type=file]').setInputFiles({
    name: 'five.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(
      [
        'Name,E-mail,Site,Job',
        ...NAMES.map((name, at) => `${name},${mailOf(name)},Field ${(at % 2) + 1},picker`),
      ].join('\n'),
    ),
  });
  await page.getByRole('button', { name: 'Compare 5 rows' }).click();
  await page.waitForURL(/\/people\/import\/\d+$/);
  await awake(page);
  await expect(page.getByText('2 stations are made with it')).toBeVisible();
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Bring it in' }).click();
  await expect(page.getByText('The list is brought in.')).toBeVisible();

  await page.goto('/people');
  await awake(page);
  await page.getByRole('button', { name: 'Invite those not in yet' }).click();
  await page.getByRole('button', { name: 'Invite 5 people' }).click();
  await expect(page.getByText('Invitations go out to 5 people now.')).toBeVisible();
  const phones: Page[] = [];
  for (const [at, name] of NAMES.entries()) {
    const phone = await follow(browser, name, /^You are invited to/, /Come in/);
    if (at % 2 === 0) {
      await phone.getByLabel('Choose a password').fill('nine slow ferries at dusk');
      await phone.getByRole('button', { name: 'Come in', exact: true }).click();
    } else await phone.getByRole('button', { name: 'Come in without a password' }).click();
    await expect(phone.getByRole('heading', { name: 'For me' })).toBeVisible();
    phones.push(phone);
  }

  await page.goto('/write');
  await awake(page);
  await page.getByRole('button', { name: 'New announcement' }).click();
  await page.getByRole('textbox', { name: 'Title' }).fill('The gate code has changed');
  await page.getByRole('textbox', { name: 'Text' }).click();
  await page.keyboard.type('Ask Fay for the new one.');
  await openPhrase(page, /^Who gets it/);
  await page.getByRole('combobox', { name: 'By' }).first().selectOption('station');
  await page.getByRole('combobox', { name: 'Which' }).first().selectOption('Field 1');
  await expect(page.getByRole('region', { name: 'The plan' })).toContainText('Goes to 3 people');
  await page.getByRole('checkbox', { name: 'Everyone' }).check();
  await expect(page.getByRole('region', { name: 'The plan' })).toContainText('Goes to 6 people');
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByText(/Saved at/)).toBeVisible();
  await page.getByRole('button', { name: /^Send to 6 people/ }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Send to/ })
    .click();
  await page.waitForURL(/\/sends\/\d+$/);
  for (const phone of phones) {
    await expect(phone.getByRole('link', { name: 'The gate code has changed' })).toBeVisible();
    await phone.getByRole('link', { name: 'The gate code has changed' }).click();
    await expect(phone.getByText('Ask Fay for the new one.')).toBeVisible();
  }
  await page.goto('/first-steps');
  await expect(page.getByText('to do', { exact: true })).toHaveCount(0);
  await page.goto('/audit');
  await awake(page);
  await expect(page.getByText('Fay Field brought in the list five.csv')).toBeVisible();
});
