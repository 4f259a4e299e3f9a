import type { Browser, Page } from '@playwright/test';
import { fillDate } from './fields.ts';
import { expect, houseUrl, mailboxUrl, test, visit } from './people.ts';

const awake = (page: Page): Promise<unknown> =>
  page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);

/** Opens the latest mail to an address whose subject begins so, and follows its one link on a phone of their own. */
async function follow(browser: Browser, desk: Page, address: string, subject: RegExp): Promise<Page> {
  const mailbox = await desk.context().newPage();
  await expect(async () => {
    await mailbox.goto(`${mailboxUrl()}/?to=${address}`);
    await mailbox.getByRole('link', { name: subject }).first().click({ timeout: 1_000 });
  }).toPass({ timeout: 20_000 });
  const href = await mailbox
    .frameLocator('iframe')
    .getByRole('link', { name: /Come in|Choose a new password|Sign in/ })
    .getAttribute('href');
  await mailbox.close();
  const phone = await browser.newContext({ baseURL: houseUrl(), viewport: { width: 390, height: 800 } });
  const page = await phone.newPage();
  await page.goto(href ?? '');
  await awake(page);
  return page;
}

/** Adds a person and finds them in the list. */
async function add(desk: Page, name: string, mail: string): Promise<void> {
  await desk.getByRole('button', { name: 'Add a person' }).click();
  await desk.getByRole('textbox', { name: 'Name', exact: true }).fill(name);
  await desk.getByRole('textbox', { name: 'Mail address, if there is one' }).fill(mail);
  await desk.getByRole('button', { name: 'Add to the organisation' }).click();
  await expect(desk.getByText(`${name} was added`)).toBeVisible();
}

test('two people are added, put into a group, invited, and come in: one with a password, one without', async ({
  browser,
}) => {
  test.setTimeout(300_000);
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/people');
  await add(maud, 'Ottoline Marsh', 'ottoline@visitors.example');
  await add(maud, 'Ivo Quick', 'ivo@visitors.example');

  // A group of just these two, pasted as one has them.
  await maud.goto('/groups');
  await maud.getByRole('button', { name: 'Make a group' }).click();
  await maud.getByRole('textbox', { name: 'Name', exact: true }).fill('Winter volunteers');
  await maud.getByRole('button', { name: 'Make it' }).click();
  await maud.waitForURL(/\/groups\/\d+$/);
  await awake(maud);
  await maud
    .getByRole('textbox', { name: /paste mail addresses/ })
    .fill('OTTOLINE@visitors.example\nIvo Quick\nnobody@visitors.example');
  await maud.getByRole('button', { name: 'Put them in' }).click();
  await expect(maud.getByText('2 people put in; 1 line is nobody’s, and left below.')).toBeVisible();
  await expect(maud.getByRole('textbox', { name: /paste mail addresses/ })).toHaveValue(
    'nobody@visitors.example',
  );
  await expect(maud.getByRole('heading', { name: '2 people in it' })).toBeVisible();
  // A list is taken by its addresses, and what it says besides is not looked at.
  await maud.locator('input[type=file]').setInputFiles({
    name: 'volunteers.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(
      'Site;Name;Mail\nBay;Ivo Quick;ivo@visitors.example\nBay;Nobody;none@visitors.example\n',
    ),
  });
  await expect(maud.getByRole('textbox', { name: /paste mail addresses/ })).toHaveValue(
    'ivo@visitors.example\nnone@visitors.example',
  );
  await maud.getByRole('button', { name: 'Put them in' }).click();
  await expect(maud.getByText(/1 were in it already; 1 line is nobody’s/)).toBeVisible();

  await maud.goto('/people');
  await maud.getByRole('button', { name: 'Invite those not in yet' }).click();
  await maud.getByRole('combobox', { name: 'Whom' }).selectOption('Winter volunteers');
  await maud.getByRole('textbox', { name: /say with it/ }).fill('We meet on Tuesdays.');
  await maud.getByRole('button', { name: 'Invite 2 people' }).dblclick();
  await expect(maud.getByText('Invitations go out to 2 people now.')).toBeVisible();

  // The first chooses a password, after one that is too easy.
  const ottoline = await follow(browser, maud, 'ottoline@', /^You are invited to/);
  await ottoline.getByLabel('Choose a password').fill('password1234');
  await ottoline.getByRole('button', { name: 'Come in', exact: true }).click();
  await expect(ottoline.getByRole('alert')).toContainText('It would soon be guessed');
  await awake(ottoline);
  await ottoline.getByLabel('Choose a password').fill('four wet hats in a boat');
  await ottoline.getByRole('button', { name: 'Come in', exact: true }).click();
  await expect(ottoline.getByRole('heading', { name: 'For me' })).toBeVisible();

  // The second comes in without one; their link then lets in nobody else.
  const ivo = await follow(browser, maud, 'ivo@', /^You are invited to/);
  const used = ivo.url();
  await ivo.getByRole('button', { name: 'Come in without a password' }).click();
  await expect(ivo.getByRole('heading', { name: 'For me' })).toBeVisible();
  await ivo.context().clearCookies();
  await ivo.goto(used);
  await expect(ivo.getByText('This link was used already')).toBeVisible();

  // Later they ask for a link by mail, and sign in once more.
  await ivo.getByRole('link', { name: 'Ask for a new link' }).click();
  await ivo.getByRole('textbox', { name: 'Your mail address' }).fill('Ivo@visitors.example');
  await ivo.getByRole('button', { name: /Sign in once/ }).click();
  await expect(ivo.getByRole('status')).toContainText('a link is on its way');
  const again = await follow(browser, maud, 'ivo@', /^Your link to sign in/);
  await again.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(again.getByRole('heading', { name: 'For me' })).toBeVisible();

  // And the first signs in with what she chose.
  await ottoline.context().clearCookies();
  await ottoline.goto('/sign-in');
  await ottoline.getByRole('textbox', { name: 'Mail address' }).fill('ottoline@visitors.example');
  await ottoline.getByLabel('Password').fill('four wet hats in a boat');
  await ottoline.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(ottoline.getByRole('heading', { name: 'For me' })).toBeVisible();
  await maud.reload();
  await maud.getByRole('searchbox').fill('@visitors.example');
  await expect(maud.getByText('Ottoline Marsh')).toBeVisible();
  await expect(maud.getByText(/, not in yet$/)).toHaveCount(0);
});

test('the rule of a live group is changed with who comes in and goes out in sight', async ({ browser }) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/groups');
  await maud.getByRole('button', { name: 'Make a group' }).click();
  await maud.getByRole('textbox', { name: 'Name', exact: true }).fill('Everybody at Sant Elm');
  await maud.getByRole('radio', { name: /^By a rule/ }).check();
  await maud.getByRole('combobox', { name: 'Which' }).selectOption('Sant Elm');
  const outcome = maud.getByRole('status').filter({ hasText: 'would be in it' });
  await expect(outcome).toContainText(/^\d+ people would be in it/);
  const first = Number(/\d+/.exec(await outcome.innerText())?.[0]);
  await maud.getByRole('button', { name: 'Make it' }).click();
  await maud.waitForURL(/\/groups\/\d+$/);
  await awake(maud);
  await expect(maud.getByRole('heading', { name: `${first} people in it` })).toBeVisible();

  await maud.getByRole('button', { name: 'Change the rule' }).click();
  await maud.getByRole('combobox', { name: 'Add' }).selectOption('except');
  await maud.getByRole('combobox', { name: 'Chosen by' }).selectOption('occupation');
  await maud.getByRole('combobox', { name: 'Which' }).selectOption('driver');
  await expect(outcome).toContainText(/would go out: /);
  const left = Number(/\d+/.exec(await outcome.innerText())?.[0]);
  expect(left).toBeLessThan(first);
  // By when people joined, it depends on the day.
  await maud.getByRole('combobox', { name: 'Add' }).selectOption('except');
  await maud.getByRole('combobox', { name: 'Chosen by' }).selectOption('joined');
  await maud.getByRole('spinbutton', { name: 'in the last so many days' }).fill('3000');
  await maud.getByRole('button', { name: 'Add', exact: true }).first().click();
  await expect(outcome).not.toContainText(`${left} people`);
  await fillDate(maud, 'Try it as on another date', '2090-01-01');
  await expect(outcome).toContainText(`${left} people would be in it on 1 Jan 2090.`);
  await maud.getByRole('button', { name: /^Take out: .*joined in the last/ }).click();
  await expect(outcome).toContainText(`${left} people would be in it`);
  await maud.getByRole('button', { name: 'Let this rule hold' }).click();
  await expect(maud.getByText('In it is everyone at Sant Elm except every driver.')).toBeVisible();
  await expect(maud.getByRole('heading', { name: `${left} people in it` })).toBeVisible();

  await maud.getByRole('button', { name: 'Keep who is in it now' }).click();
  await maud.getByRole('dialog').getByRole('button', { name: 'Keep who is in it now' }).click();
  await expect(maud.getByText('Who is in it is picked by hand.')).toBeVisible();
  await expect(maud.getByRole('heading', { name: `${left} people in it` })).toBeVisible();
  await maud.getByRole('button', { name: 'Let a rule decide' }).click();
  await expect(
    maud.getByText('Who was picked by hand is forgotten as soon as the rule holds.'),
  ).toBeVisible();
  await maud.getByRole('button', { name: 'Keep it picked by hand' }).click();

  await maud.getByRole('button', { name: 'Delete' }).click();
  await maud.getByRole('dialog').getByRole('button', { name: 'Delete the group' }).click();
  await maud.waitForURL(/\/groups$/);
  await expect(maud.getByRole('link', { name: 'Everybody at Sant Elm' })).toHaveCount(0);
});
