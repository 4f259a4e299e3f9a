import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { expect, houseUrl, mailboxUrl, test, visit } from './people.ts';

/**
 * Scans a page by day; by night only the colours are other ones, so only they are looked at again.
 *
 * @param covered whether something lies over a part of the page, so that what is half under it seems too small to touch
 */
async function scan(page: Page, what: string, covered = false): Promise<void> {
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  const told: string[] = [];
  for (const colorScheme of ['light', 'dark'] as const) {
    await page.emulateMedia({ colorScheme });
    // What wakes, or turns dark, changes its colours over a moment: what is looked at are those it comes to.
    await page.evaluate(async () => {
      await new Promise((resolve) => requestIdleCallback(resolve));
      const moving = document.getAnimations().map((animation) => animation.finished);
      // What moves for as long as it is shown is not waited for.
      await Promise.race([Promise.allSettled(moving), new Promise((resolve) => setTimeout(resolve, 1_000))]);
    });
    const builder = new AxeBuilder({ page })
      // A letter in the mailbox stands in a frame of its own; elsewhere there is one document, which takes half the time.
      .setLegacyMode(what !== 'mailbox')
      // Nothing is too small to touch (WCAG 2.2, target size), which is not looked for unless it is asked for.
      .options({
        resultTypes: ['violations'],
        preload: false,
        rules: { 'target-size': { enabled: !covered } },
      });
    if (colorScheme === 'dark') builder.withRules(['color-contrast']);
    const { violations } = await builder.analyze();
    told.push(
      ...violations.map(
        (each) => `${what}, ${colorScheme}: ${each.id}: ${each.nodes.map((node) => node.html).join(' | ')}`,
      ),
    );
  }
  await page.emulateMedia({ colorScheme: 'light' });
  expect(told).toEqual([]);
}

/** Writes a word of eighty letters and an address of three hundred wherever people write; gives the pages that show them. */
async function writeLong(page: Page): Promise<string[]> {
  const word = 'Saatgutlagerraumtemperatur'.repeat(4).slice(0, 80);
  const address = `https://thistledown.example/${'seed-catalogue-'.repeat(20)}`.slice(0, 300);
  const told = (text: string) => ({
    type: 'doc',
    content: [{ type: 'paragraph', content: [{ type: 'text', text }] }],
  });
  const send = async <T>(path: string, method: string, data: unknown): Promise<T> => {
    const answer = await page.request.fetch(path, {
      method,
      data,
      headers: { origin: houseUrl(), 'idempotency-key': `long-${path}-${Date.now()}` },
    });
    expect(answer.status(), `${method} ${path}`).toBeLessThan(300);
    return (answer.status() === 204 ? undefined : await answer.json()) as T;
  };
  const post = await send<{ id: number }>('/api/boards/5/posts', 'POST', {
    title: word,
    document: told(`${word} ${address}`),
    image: null,
    files: [],
  });
  await send(`/api/posts/${post.id}/replies`, 'POST', { document: told(address), files: [] });
  const group = await send<{ id: number }>('/api/groups', 'POST', {
    // Another one where the test is run again.
    name: `${word}${Date.now()}`.slice(-80),
    rule: null,
  });
  const draft = await send<{ id: number }>('/api/announcements', 'POST', undefined);
  const { content, plan, revision } = (await (
    await page.request.get(`/api/announcements/${draft.id}`)
  ).json()) as {
    content: Record<string, unknown>;
    plan: Record<string, unknown>;
    revision: number;
  };
  await send(`/api/announcements/${draft.id}`, 'PUT', {
    content: { ...content, title: word, byline: word },
    plan: { ...plan, audience: { kind: 'group', id: group.id } },
    revision,
  });
  return [
    `/posts/${post.id}`,
    '/boards/5',
    `/groups/${group.id}`,
    '/groups',
    `/write/${draft.id}`,
    '/write',
    `/search?q=${word}`,
    '/for-me',
    '/run-sheet',
  ];
}

/** The pages of what the demo asks: a poll on dates, one on orders, one without names, and a check-in. */
async function askPages(page: Page): Promise<string[]> {
  const asks = (await (await page.request.get('/api/asks')).json()) as {
    occurrenceId: number;
    title: string;
    closedMs: number | null;
  }[];
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
  '/calendar',
  '/calendar/2',
  '/calendar/followed',
  '/calendar/dates/1',
  '/run-sheet',
  '/told',
  '/write',
  '/series',
  '/series/1',
  '/boards',
  '/boards/1',
  '/boards/6',
  '/boards/9/pattern',
  '/patterns',
  '/patterns/1',
  '/boards/5/files',
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
  '/people/import',
  '/rights',
  '/audit',
  '/groups',
  '/groups/1',
  '/automations',
  '/automations/5',
  '/automations/runs',
  '/sheets',
  '/sheets/1',
  '/sheets/6',
  '/sources',
  '/directory',
  '/accounts',
  '/groups/mine',
  '/gateways',
  '/gateways/parts',
  '/developers',
  '/gateways/in/1',
  '/gateways/out/1',
  '/forms/fieldkitfieldkitfield1',
  '/stations',
  '/kinds',
  '/settings',
  '/retention',
  '/running',
  '/nothing-here',
];

// A few views a test: each begins with a sign-in, and one test of all of them would say too little when it fails.
for (let i = 0; i < VIEWS.length; i += 4) {
  const some = VIEWS.slice(i, i + 4);
  test(`${some.join(', ')} pass the scan`, async ({ browser }) => {
    const { page } = await visit(browser, 'Maud Fenwright');
    for (const path of some) {
      await page.goto(path);
      await scan(page, path);
    }
  });
}

test(`writing and its rehearsal pass the scan`, async ({ browser }) => {
  test.setTimeout(300_000);
  const { page: desk } = await visit(browser, 'Maud Fenwright');
  await desk.goto('/write');
  await desk.getByRole('link', { name: /Transect in spring/ }).click();
  await expect(desk.getByRole('toolbar', { name: 'Text' })).toBeVisible();
  await desk.getByRole('button', { name: 'Add a section' }).click();
  for (const phrase of [/^Who gets it/, /^How it travels/, /^When it goes out/, /^What is asked back/]) {
    await desk.getByRole('button', { name: phrase }).click();
    if (phrase.source.startsWith('^When')) await desk.getByRole('radio', { name: 'Again and again' }).check();
    await scan(desk, `write, ${phrase.source}`, true);
  }
  for (const kind of [/^An acknowledgement/, /^A poll/, /^A check-in/]) {
    await desk.getByRole('radio', { name: kind }).check();
    await desk.getByRole('checkbox', { name: /chase those/ }).check();
    await scan(desk, `write, ${kind.source}`, true);
  }
  await desk.getByRole('radio', { name: 'Nothing back' }).check();
  await desk.getByRole('button', { name: 'Done' }).click();
  await desk.getByRole('button', { name: 'Take section 2 out' }).click();
  await desk.getByRole('button', { name: /^Plan for/ }).click();
  await expect(desk.getByRole('dialog')).toBeVisible();
  await scan(desk, 'the last question', true);
  await desk.getByRole('button', { name: 'Keep writing' }).click();
  await desk.getByRole('button', { name: 'Rehearse' }).click();
  await expect(desk.getByRole('heading', { name: 'Rehearsal' })).toBeVisible();
  await expect(desk.getByRole('table', { name: 'Recipients' }).getByRole('row').first()).toBeVisible();
  await scan(desk, 'rehearsal');
});

test(`what was asked passes the scan`, async ({ browser }) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/');
  for (const path of await askPages(page)) {
    await page.goto(path);
    await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
    for (const more of await page.locator('summary:visible').all()) await more.click();
    await scan(page, path);
  }
});

test(`what a member and a stranger see passes the scan`, async ({ browser }) => {
  const phone = { viewport: { width: 360, height: 740 } };
  const { page: member } = await visit(browser, 'Wren Ashdown', phone);
  await member.goto('/');
  await scan(member, 'for me');
  const sideways = await member.evaluate(
    () => document.documentElement.scrollWidth > document.documentElement.clientWidth,
  );
  expect(sideways).toBe(false);
  // It may stand further back than the first page.
  const evening = member.getByRole('link', { name: /^An evening in the drying room/ }).first();
  await member.getByRole('button', { name: 'Show earlier' }).click();
  await evening.click();
  await expect(member.getByText('Why did I get this?')).toBeVisible();
  await scan(member, 'reading');
  const invitation = await member
    .getByRole('group', { name: 'Your own link to pass on' })
    .locator('pre')
    .textContent();
  const stranger = await browser.newContext();
  const page = await stranger.newPage();
  await page.goto(new URL('/sign-in', member.url()).href);
  await scan(page, 'sign in');
  await page.goto(new URL('/m/acknowledge/nonsense', member.url()).href);
  await scan(page, 'a link that cannot be used');
  await page.goto(invitation ?? '');
  await scan(page, 'an invitation passed on');
  await page.goto(mailboxUrl());
  await scan(page, 'mailbox');
});

test('nothing runs off the side of a narrow phone', async ({ browser }) => {
  const { page } = await visit(browser, 'Maud Fenwright', { viewport: { width: 360, height: 740 } });
  const written = await writeLong(page);
  for (const path of [
    '/run-sheet',
    '/write',
    '/boards',
    '/boards/1',
    '/boards/5',
    '/boards/5/settings',
    '/boards/9/pattern',
    '/patterns',
    '/patterns/1',
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
    '/told',
    '/sends/1',
    '/people',
    '/groups',
    '/groups/1',
    '/automations',
    '/automations/5',
    '/automations/runs',
    '/sheets/2',
    '/sheets/6',
    '/sources',
    '/directory',
    '/accounts',
    '/groups/mine',
    '/calendar',
    '/calendar/2',
    '/calendar/followed',
    '/calendar/dates/1',
    '/gateways',
    '/gateways/parts',
    '/developers',
    '/gateways/in/1',
    '/gateways/out/1',
    '/forms/fieldkitfieldkitfield1',
    '/forgot',
    '/series/1',
    '/settings',
    '/retention',
    '/running',
    '/for-me',
    ...(await askPages(page)),
    ...written,
  ]) {
    await page.goto(path);
    const width = await page.evaluate(() => document.documentElement.scrollWidth);
    expect(width, path).toBeLessThanOrEqual(360);
  }
});
