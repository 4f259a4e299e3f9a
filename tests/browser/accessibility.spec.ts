import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { expect, mailboxUrl, test, visit } from './people.ts';

async function scan(page: Page, what: string): Promise<void> {
  const { violations } = await new AxeBuilder({ page }).analyze();
  const told = violations.map(
    (each) => `${what}: ${each.id}: ${each.nodes.map((node) => node.html).join(' | ')}`,
  );
  expect(told).toEqual([]);
}

for (const colorScheme of ['light', 'dark'] as const)
  test(`every main view passes the scan, ${colorScheme}`, async ({ browser }) => {
    test.setTimeout(120_000);
    const { page: desk } = await visit(browser, 'Maud Fenwright', { colorScheme });
    for (const path of [
      '/run-sheet',
      '/write',
      '/boards',
      '/boards/1',
      '/answers',
      '/answers/1',
      '/sends/1',
      '/people',
      '/nothing-here',
    ]) {
      await desk.goto(path);
      await scan(desk, path);
    }
    await desk.goto('/write');
    await desk.getByRole('link', { name: /Transect in spring/ }).click();
    await expect(desk.getByRole('toolbar', { name: 'Text' })).toBeVisible();
    for (const phrase of [/^Who gets it/, /^How it travels/, /^When it goes out/, /^What is asked back/]) {
      await desk.getByRole('button', { name: phrase }).click();
      await scan(desk, `write, ${phrase.source}`);
    }
    await desk.getByRole('button', { name: 'Done' }).click();
    await desk.getByRole('button', { name: /^Send to/ }).click();
    await expect(desk.getByRole('dialog')).toBeVisible();
    await scan(desk, 'the last question');

    const phone = { colorScheme, viewport: { width: 360, height: 740 } };
    const { page: member } = await visit(browser, 'Wren Ashdown', phone);
    await scan(member, 'for me');
    const sideways = await member.evaluate(
      () => document.documentElement.scrollWidth > document.documentElement.clientWidth,
    );
    expect(sideways).toBe(false);
    await member
      .getByRole('link', { name: /^Vault drill today/ })
      .first()
      .click();
    await expect(member.getByText('Why did I get this?')).toBeVisible();
    await scan(member, 'reading');
    const stranger = await browser.newContext({ colorScheme });
    const page = await stranger.newPage();
    await page.goto(new URL('/sign-in', desk.url()).href);
    await scan(page, 'sign in');
    await page.goto(new URL('/m/acknowledge/nonsense', desk.url()).href);
    await scan(page, 'a link that cannot be used');
    await page.goto(mailboxUrl());
    await scan(page, 'mailbox');
  });

test('nothing runs off the side of a narrow phone', async ({ browser }) => {
  const { page } = await visit(browser, 'Maud Fenwright', { viewport: { width: 360, height: 740 } });
  for (const path of [
    '/run-sheet',
    '/write',
    '/boards/1',
    '/answers',
    '/answers/1',
    '/sends/1',
    '/people',
    '/for-me',
  ]) {
    await page.goto(path);
    const width = await page.evaluate(() => document.documentElement.scrollWidth);
    expect(width, path).toBeLessThanOrEqual(360);
  }
});
