import { expect, houseUrl, mailboxUrl, test, visit } from './people.ts';
import { chooseGroup, openPhrase } from './fields.ts';

test('signs in with a password, and out on every device', async ({ browser }) => {
  const context = await browser.newContext({ baseURL: houseUrl() });
  const page = await context.newPage();
  await page.goto('/answers');
  await expect(page).toHaveURL(/\/sign-in\?next=%2Fanswers$/);
  await page.getByRole('textbox', { name: 'Mail address' }).fill('maud@thistledown.example');
  await page.getByLabel('Password').fill('wrong');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('alert')).toHaveText(
    'The mail address and the password do not belong together.',
  );
  await page.getByLabel('Password').fill('nine small stations');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page).toHaveURL(/\/answers$/);

  const { page: other } = await visit(browser, 'Maud Fenwright');
  await page.getByText('Maud Fenwright', { exact: true }).click();
  await page.getByRole('button', { name: 'Sign out everywhere' }).click();
  await expect(page).toHaveURL(/\/sign-in$/);
  await other.goto('/run-sheet');
  await expect(other).toHaveURL(/\/sign-in/);
});

test('leads nowhere else after signing in', async ({ browser }) => {
  const context = await browser.newContext({ baseURL: houseUrl() });
  const page = await context.newPage();
  await page.goto('/sign-in?next=//elsewhere.example');
  await page.getByRole('button', { name: /Keola Palakiko/ }).click();
  await expect(page).toHaveURL(`${houseUrl()}/for-me`);
});

test('mail is stopped in one click by a mail program, and can be let come again', async ({ browser }) => {
  const context = await browser.newContext();
  const listed = await context.request.get(`${mailboxUrl()}/api/mails`);
  expect(listed.ok()).toBe(true);
  const { page } = await visit(browser, 'Jago Quillfeather');
  await page.goto('/write');
  await page.getByRole('button', { name: 'New announcement' }).click();
  await page.getByRole('textbox', { name: 'Title' }).fill('Soup on Friday');
  await page.getByRole('textbox', { name: 'Text' }).click();
  await page.keyboard.type('Bring a bowl.');
  await openPhrase(page, /^Who gets it/);
  await chooseGroup(page, 'Mallee Reach');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^Send to \d+ people/ }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Send to/ })
    .click();
  await expect(page.getByText('sent', { exact: true })).toBeVisible({ timeout: 30_000 });
  const answer = (await (await context.request.get(`${mailboxUrl()}/api/mails?to=marli@&most=1`)).json()) as {
    mails: { raw: string }[];
  };
  const raw = (answer.mails[0]?.raw ?? '').replace(/\r?\n[ \t]+/g, ' ');
  const url = /^List-Unsubscribe: <([^>]+)>/m.exec(raw)?.[1] ?? '';
  // As a mail program does it: a POST without cookies and without an Origin (RFC 8058).
  const done = await context.request.post(url, { form: { 'List-Unsubscribe': 'One-Click' } });
  expect(done.ok()).toBe(true);
  expect(await done.text()).toContain('It is stopped for Marli Saltbrook');
  const link = await context.newPage();
  await link.goto(url);
  await link.getByRole('button', { name: 'Stop mail of this kind' }).click();
  await link.getByRole('button', { name: 'Let it come again' }).click();
  await expect(link.getByText('It comes again.')).toBeVisible();
  await link.goto(`${url}x`);
  await expect(link.getByRole('heading', { name: 'This link cannot be used' })).toBeVisible();
});
