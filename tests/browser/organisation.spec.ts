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
  await maud.page.getByRole('button', { name: 'Take all of it out' }).click();
  await expect(maud.page.getByText(/% read, .+ so far\. Begun by Maud Fenwright/)).toBeVisible();
  // It goes on if the page is left.
  await maud.page.goto('/run-sheet');
  await maud.page.goto('/gateways');
  const [download] = await Promise.all([
    maud.page.waitForEvent('download'),
    maud.page.getByRole('link', { name: /^Save it/ }).click({ timeout: 60_000 }),
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
  // Of the same archive, what is other here since comes in by itself.
  await page.goto('/gateways/parts');
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await page.getByLabel('The archive').setInputFiles(archive);
  await expect(page.getByText('Everything in it is here as it is there.')).toBeVisible({ timeout: 60_000 });
  const boards = await page.request.get('/api/boards');
  const { id } = ((await boards.json()) as { id: number; name: string }[]).find(
    ({ name }) => name === 'House rules',
  ) ?? { id: 0 };
  const headers = { origin: empty.url };
  await page.request.put(`/api/boards/${id}/settings`, { data: { about: 'Something else' }, headers });
  await page.getByLabel('The archive').setInputFiles(archive);
  const line = page.getByRole('region', { name: 'Boards' }).getByRole('listitem');
  await expect(line).toHaveText(/House rules\s*What it is for\.\s*other here/, { timeout: 60_000 });
  await line.getByRole('checkbox', { name: 'House rules' }).check();
  await page.getByRole('button', { name: 'Bring them in …' }).click();
  const asked = page.getByRole('dialog', { name: 'Bring in 1 part?' });
  await expect(asked.getByText('“House rules” is changed here to what it is there')).toBeVisible();
  await asked.getByRole('button', { name: 'Bring them in' }).click();
  await expect(page.getByText('1 part is here now')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText('Everything in it is here as it is there.')).toBeVisible({ timeout: 60_000 });
  // Nobody is here twice: it can be set up once.
  await page.goto('/setup');
  await page.waitForURL((url) => url.pathname !== '/setup');
  await context.close();
  await maud.context.close();
});
