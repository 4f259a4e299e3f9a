import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { expect, mailboxUrl, test, visit } from './people.ts';

/** Scans a page. By night only the colours are other ones, so only they are looked at. */
async function scan(page: Page, what: string, colorScheme: 'light' | 'dark'): Promise<void> {
  const builder = new AxeBuilder({ page });
  if (colorScheme === 'dark') builder.withRules(['color-contrast']);
  const { violations } = await builder.analyze();
  const told = violations.map(
    (each) => `${what}: ${each.id}: ${each.nodes.map((node) => node.html).join(' | ')}`,
  );
  expect(told).toEqual([]);
}

/** The pages of what the demo asks: a poll on dates, one on orders, one without names, and a check-in. */
async function askPages(page: Page): Promise<string[]> {
  const asks = await page.evaluate(
    async () =>
      (await (await fetch('/api/asks')).json()) as {
        occurrenceId: number;
        title: string;
        closedMs: number | null;
      }[],
  );
  const id = (title: string, closed = false): number =>
    asks.find((each) => each.title === title && (!closed || each.closedMs !== null))?.occurrenceId ?? 0;
  const round = id('Catalogue round', true);
  return [
    `/answers/${id('Dates for the winter drill')}`,
    `/answers/${id('Which walk next spring?')}`,
    `/answers/${id('Budget for the tenth station: a first vote')}`,
    `/check-ins/${round}`,
    `/check-ins/${round}/history`,
  ];
}

const VIEWS = [
  '/run-sheet',
  '/write',
  '/series',
  '/series/1',
  '/boards',
  '/boards/1',
  '/boards/6',
  '/boards/5/settings',
  '/posts/52',
  '/search?q=vault',
  '/shelf',
  '/shelf/1',
  '/shelf/desk',
  '/thanks',
  '/thanks/give',
  '/person/7',
  '/issues/1',
  '/for-me/notices',
  '/answers',
  '/answers/1',
  '/sends/1',
  '/people',
  '/settings',
  '/nothing-here',
];

for (const colorScheme of ['light', 'dark'] as const) {
  // A few views a test: each begins with a sign-in, and one test of all of them would say too little when it fails.
  for (let i = 0; i < VIEWS.length; i += 4) {
    const some = VIEWS.slice(i, i + 4);
    test(`${some.join(', ')} pass the scan, ${colorScheme}`, async ({ browser }) => {
      const { page } = await visit(browser, 'Maud Fenwright', { colorScheme });
      for (const path of some) {
        await page.goto(path);
        await scan(page, path, colorScheme);
      }
    });
  }

  test(`writing and its rehearsal pass the scan, ${colorScheme}`, async ({ browser }) => {
    test.setTimeout(150_000);
    const { page: desk } = await visit(browser, 'Maud Fenwright', { colorScheme });
    await desk.goto('/write');
    await desk.getByRole('link', { name: /Transect in spring/ }).click();
    await expect(desk.getByRole('toolbar', { name: 'Text' })).toBeVisible();
    await desk.getByRole('button', { name: 'Add a section' }).click();
    for (const phrase of [/^Who gets it/, /^How it travels/, /^When it goes out/, /^What is asked back/]) {
      await desk.getByRole('button', { name: phrase }).click();
      if (phrase.source.startsWith('^When'))
        await desk.getByRole('radio', { name: 'Again and again' }).check();
      await scan(desk, `write, ${phrase.source}`, colorScheme);
    }
    for (const kind of [/^An acknowledgement/, /^A poll/, /^A check-in/]) {
      await desk.getByRole('radio', { name: kind }).check();
      await desk.getByRole('checkbox', { name: /chase those/ }).check();
      await scan(desk, `write, ${kind.source}`, colorScheme);
    }
    await desk.getByRole('radio', { name: 'Nothing back' }).check();
    await desk.getByRole('button', { name: 'Done' }).click();
    await desk.getByRole('button', { name: 'Take section 2 out' }).click();
    await desk.getByRole('button', { name: /^Plan for/ }).click();
    await expect(desk.getByRole('dialog')).toBeVisible();
    await scan(desk, 'the last question', colorScheme);
    await desk.getByRole('button', { name: 'Keep writing' }).click();
    await desk.getByRole('button', { name: 'Rehearse' }).click();
    await expect(desk.getByRole('heading', { name: 'Rehearsal' })).toBeVisible();
    await expect(desk.getByRole('table', { name: 'Recipients' }).getByRole('row').first()).toBeVisible();
    await scan(desk, 'rehearsal', colorScheme);
  });

  test(`what was asked passes the scan, ${colorScheme}`, async ({ browser }) => {
    const { page } = await visit(browser, 'Maud Fenwright', { colorScheme });
    for (const path of await askPages(page)) {
      await page.goto(path);
      await page.waitForLoadState('networkidle');
      for (const more of await page.locator('summary:visible').all()) await more.click();
      await scan(page, path, colorScheme);
    }
  });

  test(`what a member and a stranger see passes the scan, ${colorScheme}`, async ({ browser }) => {
    const phone = { colorScheme, viewport: { width: 360, height: 740 } };
    const { page: member } = await visit(browser, 'Wren Ashdown', phone);
    await scan(member, 'for me', colorScheme);
    const sideways = await member.evaluate(
      () => document.documentElement.scrollWidth > document.documentElement.clientWidth,
    );
    expect(sideways).toBe(false);
    await member
      .getByRole('link', { name: /^An evening in the drying room/ })
      .first()
      .click();
    await expect(member.getByText('Why did I get this?')).toBeVisible();
    await scan(member, 'reading', colorScheme);
    const invitation = await member.getByRole('link', { name: /\/m\/event\// }).getAttribute('href');
    const stranger = await browser.newContext({ colorScheme });
    const page = await stranger.newPage();
    await page.goto(new URL('/sign-in', member.url()).href);
    await scan(page, 'sign in', colorScheme);
    await page.goto(new URL('/m/acknowledge/nonsense', member.url()).href);
    await scan(page, 'a link that cannot be used', colorScheme);
    await page.goto(invitation ?? '');
    await scan(page, 'an invitation passed on', colorScheme);
    await page.goto(mailboxUrl());
    await scan(page, 'mailbox', colorScheme);
  });
}

test('nothing runs off the side of a narrow phone', async ({ browser }) => {
  const { page } = await visit(browser, 'Maud Fenwright', { viewport: { width: 360, height: 740 } });
  for (const path of [
    '/run-sheet',
    '/write',
    '/boards',
    '/boards/1',
    '/boards/5',
    '/boards/5/settings',
    '/posts/52',
    '/search?q=vault',
    '/shelf',
    '/shelf/desk',
    '/thanks',
    '/thanks/give',
    '/person/7',
    '/issues/1',
    '/answers',
    '/answers/1',
    '/sends/1',
    '/people',
    '/series/1',
    '/settings',
    '/for-me',
    ...(await askPages(page)),
  ]) {
    await page.goto(path);
    const width = await page.evaluate(() => document.documentElement.scrollWidth);
    expect(width, path).toBeLessThanOrEqual(360);
  }
});
