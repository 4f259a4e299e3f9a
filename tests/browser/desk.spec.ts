import { expect, mailboxUrl, test, visit } from './people.ts';
import { chooseGroup, openPhrase } from './fields.ts';

test('mail that waits and mail that failed are seen on the first screen, and tried again', async ({
  browser,
}) => {
  const { page, context } = await visit(browser, 'Maud Fenwright');
  await page.goto('/');
  const mood = (to: string) => context.request.post(`${mailboxUrl()}/mood/${to}`);
  const needs = page.getByRole('complementary', { name: 'Needs you' });
  const send = async (title: string): Promise<void> => {
    await page.goto('/write');
    await page.getByRole('button', { name: 'New announcement' }).click();
    await page.getByRole('textbox', { name: 'Title' }).fill(title);
    // What is urgent waits for nobody's quiet hours, at whatever hour this test runs.
    await page.getByLabel('Importance').selectOption('urgent');
    await page.getByRole('textbox', { name: 'Text' }).click();
    await page.keyboard.type('Read this.');
    await openPhrase(page, /^Who gets it/);
    await chooseGroup(page, 'Oru Terrace');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: /^Send to \d+ people/ }).click();
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /^Send to/ })
      .click();
    await page.waitForURL(/\/sends\/\d+$/);
    await page.goto('/run-sheet');
  };
  try {
    await mood('down');
    await send('The server sleeps');
    // The desk follows by itself: nothing is reloaded from here on.
    await expect(needs.getByRole('listitem').filter({ hasText: 'The server sleeps' })).toContainText(
      'waiting',
      { timeout: 25_000 },
    );
    await expect(needs).toContainText('Mail is waiting and will go by itself', { timeout: 15_000 });
    await mood('well');
    const row = page
      .getByRole('region', { name: 'In words' })
      .getByRole('listitem')
      .filter({ hasText: 'The server sleeps' });
    await expect(row).toContainText('sent', { timeout: 40_000 });

    await mood('refusing');
    await send('The server says no');
    const failed = needs.getByRole('listitem').filter({ hasText: 'The server says no' });
    await expect(failed).toContainText('failed', { timeout: 25_000 });
    await failed.getByRole('link').click();
    await expect(page.getByText('550').first()).toBeVisible();
    await mood('well');
    await page.getByRole('button', { name: /^Try \d+ failed mails again$/ }).click();
    await expect(page.getByRole('heading', { name: 'Mail that did not get through' })).toHaveCount(0, {
      timeout: 20_000,
    });
  } finally {
    await mood('well');
  }
});

test('the ribbon leads to each send, and night is chosen and kept', async ({ browser }) => {
  const { page, context } = await visit(browser, 'Jago Quillfeather');
  await page.goto('/');
  const ribbon = page.getByRole('navigation', { name: /^Today/ });
  await ribbon.getByRole('link', { name: /Photographs for the autumn report/ }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Photographs for the autumn report');
  // Reached by a key and not by an address: a press before its name is awake would be lost.
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await page.getByText('Jago Quillfeather', { exact: true }).click();
  await page.getByRole('dialog').getByText('Night', { exact: true }).click();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'night');
  const other = await context.newPage();
  await other.goto('/boards');
  await expect(other.locator('html')).toHaveAttribute('data-theme', 'night');
});

test('an editor sees only their own, and is told what they may not do', async ({ browser }) => {
  const { page } = await visit(browser, 'Núria Ferragut');
  await page.goto('/write');
  await expect(page.getByRole('link', { name: 'Transect in spring' })).toBeVisible();
  await expect(page.getByRole('link', { name: /tenth station/ })).toHaveCount(0);
  await page.getByRole('link', { name: 'Transect in spring' }).click();
  await openPhrase(page, /^Who gets it/);
  await expect(page.getByText('only a coordinator sends to everyone')).toBeVisible();
  await expect(page.getByRole('checkbox', { name: /^Everyone/ })).toBeDisabled();
  await expect(page.getByRole('group', { name: /^Trustees/ })).toHaveCount(0);
  await page.keyboard.press('Escape');
  await openPhrase(page, /^How it travels/);
  await expect(page.getByRole('checkbox', { name: 'House rules' })).toBeDisabled();
  await page.goto('/people');
  await expect(page.getByText('Add a person')).toHaveCount(0);
});
