import type { BrowserContext, Page } from '@playwright/test';
import { expect, houseUrl, test, visit } from './people.ts';

let keys = 0;
const headers = (): Record<string, string> => ({
  origin: new URL(houseUrl()).origin,
  'idempotency-key': `kept-key-${++keys}-${Date.now()}`,
});

/** Posts to a board that this person may write on; gives the post's address. */
async function postOn(context: BrowserContext, page: Page, board: string, title: string): Promise<string> {
  await page.goto('/boards');
  await page.getByRole('listitem').getByRole('link', { name: board, exact: true }).last().click();
  const id = /\d+$/.exec(page.url())?.[0] ?? '';
  const response = await context.request.post(`/api/boards/${id}/posts`, {
    data: {
      title,
      document: { type: 'doc', content: [{ type: 'paragraph', content: [{ type: 'text', text: title }] }] },
    },
    headers: headers(),
  });
  return `/posts/${((await response.json()) as { id: number }).id}`;
}

/** Ends this person's sessions as if it happened somewhere else: the page knows nothing of it. */
async function endSession(context: BrowserContext): Promise<void> {
  const cookie = (await context.cookies()).map(({ name, value }) => `${name}=${value}`).join('; ');
  const ended = await fetch(`${houseUrl()}/api/sign-out`, {
    method: 'POST',
    headers: { cookie, 'content-type': 'application/json', origin: new URL(houseUrl()).origin },
    body: '{"everywhere":true}',
  });
  expect(ended.status).toBeLessThan(300);
}

async function signInAgain(page: Page, name: string): Promise<void> {
  await page.getByRole('link', { name: 'Sign in again' }).click();
  await page.waitForURL(/sign-in/);
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await page.getByRole('button', { name: new RegExp(name) }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/sign-in'));
}

test('what is typed while the editor is still on its way is all there', async ({ browser }) => {
  const { page, context } = await visit(browser, 'Wren Ashdown');
  const address = await postOn(context, page, 'Marrow Fen', 'Typed at once');
  await page.route(/\/_astro\/Editor\..*\.js$/, async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 800));
    await route.continue();
  });
  await page.goto(address);
  const words = 'One writes on and on, and nothing of it is lost when the tools come. '.repeat(2).trim();
  await page.getByRole('textbox', { name: 'Your reply' }).click();
  await page.keyboard.type(words, { delay: 15 });
  await expect(page.getByRole('button', { name: 'Bold' })).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'Your reply' })).toHaveText(words);
});

test('a reply outlives a reload, and the end of the session: it is sent once its writer has signed in again', async ({
  browser,
}) => {
  const { page, context } = await visit(browser, 'Wren Ashdown');
  const address = await postOn(context, page, 'Marrow Fen', 'Does the ladder reach');
  await page.goto(address);
  const field = page.getByRole('textbox', { name: 'Your reply' });
  await field.click();
  await page.keyboard.type('It does, with a chair under it.');
  await page.reload();
  await expect(field).toHaveText('It does, with a chair under it.');

  await endSession(context);
  await page.getByRole('button', { name: 'Reply', exact: true }).click();
  await expect(page.getByText(/A reply of yours is kept on this device/)).toBeVisible();
  await expect(page.getByRole('link', { name: 'Sign in again' })).toBeVisible();
  // Somebody else at the same device neither sees it nor sends it.
  await page.goto('/sign-in');
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await page.getByRole('button', { name: /Núria Ferragut/ }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/sign-in'));
  await page.goto(address);
  await expect(page.getByText(/kept on this device/)).toHaveCount(0);
  await context.clearCookies();

  await page.goto('/sign-in');
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await page.getByRole('button', { name: /Wren Ashdown/ }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/sign-in'));
  await page.goto(address);
  await expect(page.getByRole('article', { name: 'Reply by Wren Ashdown' })).toHaveText(
    /It does, with a chair under it\./,
  );
  await expect(page.getByRole('article', { name: 'Reply by Wren Ashdown' })).toHaveCount(1);
});

test('an acknowledgement given without a connection is kept when the session has ended meanwhile', async ({
  browser,
}) => {
  const { page, context } = await visit(browser, 'Keola Palakiko');
  await page.goto('/for-me');
  const button = page.getByRole('button', { name: /^Acknowledge/ }).first();
  const name = (await button.getAttribute('aria-label')) ?? '';
  await context.setOffline(true);
  await button.click();
  await expect(page.getByText(/Your answer is kept on this device/)).toBeVisible();
  await endSession(context);
  await context.setOffline(false);
  await expect(page.getByText('Your session has ended.')).toBeVisible({ timeout: 20_000 });
  await expect(page.getByText(/Your answer is kept on this device/)).toBeVisible();
  await signInAgain(page, 'Keola Palakiko');
  await page.goto('/for-me');
  await expect(async () => {
    await page.reload();
    await expect(page.getByText(/Your answer is kept on this device/)).toHaveCount(0, { timeout: 500 });
    await expect(page.getByRole('button', { name, exact: true })).toHaveCount(0, { timeout: 500 });
  }).toPass({ timeout: 20_000 });
});

test('a draft written on while the browser’s store is full says so, and nothing typed is lost meanwhile', async ({
  browser,
}) => {
  const { page, context } = await visit(browser, 'Wren Ashdown');
  const address = await postOn(context, page, 'Marrow Fen', 'A full store');
  await page.goto(address);
  await page.evaluate(() => {
    Storage.prototype.setItem = () => {
      throw new DOMException('full', 'QuotaExceededError');
    };
  });
  await page.getByRole('textbox', { name: 'Your reply' }).click();
  await page.keyboard.type('Said while nothing is kept.');
  await expect(page.getByText(/This browser does not keep what you write here/)).toBeVisible();
  await page.getByRole('button', { name: 'Reply', exact: true }).click();
  await expect(page.getByRole('article', { name: 'Reply by Wren Ashdown' })).toContainText(
    'Said while nothing is kept.',
  );
});

test('data that did not change is not sent again, and of nothing that was read anything is shown once signed out', async ({
  browser,
}) => {
  const { page, context } = await visit(browser, 'Wren Ashdown');
  const address = await postOn(context, page, 'Marrow Fen', 'Read once only');
  const data = `/api${address}`;
  const first = await context.request.get(data);
  const tag = first.headers().etag ?? '';
  expect(tag).toMatch(/^W\/"/);
  expect(first.headers()['cache-control']).toBe('private, no-cache');
  const again = await context.request.get(data, { headers: { 'if-none-match': tag } });
  expect([again.status(), (await again.body()).byteLength]).toEqual([304, 0]);
  expect(again.headers()).toMatchObject({ etag: tag, 'x-person': first.headers()['x-person'] });
  const replied = await context.request.post(`${data}/replies`, {
    data: {
      document: {
        type: 'doc',
        content: [{ type: 'paragraph', content: [{ type: 'text', text: 'Changed.' }] }],
      },
    },
    headers: headers(),
  });
  expect(replied.ok()).toBe(true);
  const changed = await context.request.get(data, { headers: { 'if-none-match': tag } });
  expect(changed.status()).toBe(200);
  expect(await changed.text()).toContain('Changed.');

  // Of a page nothing is kept by the browser itself: it tells whose it is, and the time.
  expect((await context.request.get(address)).headers()['cache-control']).toBe('private, no-store');
  await page.goto(address);
  await expect(page.getByRole('heading', { name: 'Read once only' })).toBeVisible();
  const left = await context.request.post('/api/sign-out', {
    data: { everywhere: false },
    headers: headers(),
  });
  expect(left.headers()['clear-site-data']).toBe('"cache"');
  await page.goto('/sign-in');
  await page.goBack();
  await expect(page.getByRole('heading', { name: 'Read once only' })).toHaveCount(0);
});
