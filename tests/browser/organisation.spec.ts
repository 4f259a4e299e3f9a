import { join } from 'node:path';
import { bringUp, placeFolder, type House } from '../../scripts/house/bringUp.ts';
import { expect, test, visit } from './people.ts';

let empty: House;
test.beforeAll(async () => {
  empty = await bringUp({
    place: 'check-brought',
    port: 0,
    fresh: true,
    demo: false,
    durable: false,
    say: () => undefined,
    environment: { LOG_LEVEL: 'warn' },
    dist: join(placeFolder('check'), 'dist'),
  });
});
test.afterAll(() => empty.stop());

test('an organisation is taken out whole, and brought in where nobody is yet', async ({ browser }) => {
  test.setTimeout(240_000);
  const maud = await visit(browser, 'Maud Fenwright');
  await maud.page.goto('/gateways');
  const [download] = await Promise.all([
    maud.page.waitForEvent('download'),
    maud.page.getByRole('link', { name: 'Take all of it out' }).click(),
  ]);
  const archive = await download.path();
  const address = 'maud@thistledown.example';

  const context = await browser.newContext({ baseURL: empty.url });
  const page = await context.newPage();
  await page.goto('/setup');
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  const input = page.getByLabel('The archive');
  await input.setInputFiles({
    name: 'list.zip',
    mimeType: 'application/zip',
    buffer: Buffer.from('no archive'),
  });
  await expect(page.getByText('This is no archive of an organisation, or not all of it.')).toBeVisible();

  await input.setInputFiles(archive);
  await expect(
    page.getByText(/as of .+ \(UTC\): \d+ people, \d+ sends, \d+ posts and \d+ files/),
  ).toBeVisible({
    timeout: 60_000,
  });
  await page
    .getByRole('textbox', { name: 'Your mail address, as a coordinator in it' })
    .fill('nobody@thistledown.example');
  await page.getByLabel(/^A new password/).fill('four wet hats in a boat');
  await expect(page.getByRole('checkbox', { name: 'Lay at rest what speaks by itself' })).toBeChecked();
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await expect(page.getByText('No coordinator in this archive has that mail address')).toBeVisible({
    timeout: 60_000,
  });
  await page.getByRole('textbox', { name: 'Your mail address, as a coordinator in it' }).fill(address);
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await page.waitForURL(/\/run-sheet$/, { timeout: 90_000 });

  await expect(page.getByRole('button', { name: /Maud Fenwright/ })).toBeVisible();
  await page.goto('/boards');
  await expect(page.getByRole('link', { name: 'All stations' })).toBeVisible();
  await page.goto('/automations');
  await expect(
    page.getByText('Brought in from an archive: look it through, and switch it on.').first(),
  ).toBeVisible();
  // Nobody is here twice: it can be set up once.
  await page.goto('/setup');
  await page.waitForURL((url) => url.pathname !== '/setup');
  await context.close();
  await maud.context.close();
});
