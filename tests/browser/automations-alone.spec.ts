import type { Locator, Page } from '@playwright/test';
import { chooseGroup, fillDate, fillTime, openPhrase } from './fields.ts';
import { expect, mailboxUrl, test, visit } from './people.ts';

const sentenceOf = (page: Page): Locator =>
  page.getByRole('region', { name: 'The automation in a sentence' });

/** Begins an automation of which nothing is written yet. */
async function begin(page: Page, name: string, kind: string): Promise<void> {
  await page.goto('/automations');
  await page.getByRole('button', { name: 'Make an automation' }).click();
  const making = page.getByRole('dialog');
  await making.getByRole('textbox', { name: 'Name' }).fill(name);
  await making.getByRole('radio', { name: kind }).check();
  await making.getByRole('button', { name: 'Write it' }).click();
  await page.waitForURL(/\/automations\/\d+$/);
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
}

/** Opens the panel of a phrase. */
async function panel(page: Page, name: string): Promise<Locator> {
  await openPhrase(page, new RegExp(`^${name}`));
  return sentenceOf(page).getByRole('group', { name, exact: true }).first();
}

const done = (of: Locator): Promise<void> => of.getByRole('button', { name: 'Done' }).last().click();

async function putToWork(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Put it to work' }).click();
  await expect(page.getByText('at work', { exact: true })).toBeVisible();
}

/** Runs it now, after the last question, and waits until the page shows what came of it. */
async function runNow(page: Page, question: RegExp, outcome: string): Promise<void> {
  await page.getByRole('button', { name: 'Run it now' }).click();
  await expect(page.getByRole('dialog')).toContainText(question);
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /now$|^Run it$/ })
    .click();
  await expect(page.getByText('It runs now.').first()).toBeVisible();
  await expect(
    page.getByRole('region', { name: 'Runs' }).getByRole('listitem').filter({ hasText: outcome }).first(),
  ).toBeVisible();
}

async function inTheMailbox(page: Page, to: string, subject: RegExp): Promise<void> {
  const mailbox = await page.context().newPage();
  await expect(async () => {
    await mailbox.goto(`${mailboxUrl()}/?to=${to}`);
    await expect(mailbox.getByRole('link', { name: subject })).toBeVisible({ timeout: 1000 });
  }).toPass({ timeout: 30_000 });
  await mailbox.close();
}

test('keyholders are reminded on working days by their own clocks, in the inbox and by mail', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await begin(maud, 'Lock the vaults', 'A day and an hour come round');
  const when = await panel(maud, 'What sets it off');
  await when.getByRole('combobox', { name: 'It comes' }).selectOption('by the week');
  await when.getByRole('button', { name: 'Weekdays' }).click();
  await when.getByRole('combobox', { name: 'By', exact: true }).selectOption('each reader’s own clock');
  await done(when);
  const told = await panel(maud, 'Who is told');
  await told.getByRole('radio', { name: 'An audience' }).check();
  await chooseGroup(maud, 'Vault keyholders');
  await done(told);
  await maud.getByRole('textbox', { name: 'Title' }).fill('Lock the vaults before you leave');
  await maud
    .getByRole('textbox', { name: 'Text', exact: true })
    .fill('The inner door first, then the outer.');
  // At any hour at which this runs: what is urgent does not wait for the end of somebody’s quiet hours.
  await maud.getByRole('combobox', { name: 'Importance' }).selectOption('urgent');
  const sentence = sentenceOf(maud);
  await expect(sentence).toContainText('their time every weekday');
  await expect(sentence).toContainText('tell Vault keyholders by inbox and mail');
  await putToWork(maud);
  await runNow(maud, /1 message to \d+ people by inbox and mail/, '1 message');
  const { page: wren } = await visit(browser, 'Wren Ashdown', { viewport: { width: 390, height: 844 } });
  await wren.goto('/for-me');
  await wren.getByRole('link', { name: 'Lock the vaults before you leave' }).click();
  await expect(wren.getByText('The inner door first, then the outer.')).toBeVisible();
  await inTheMailbox(wren, 'wren@', /Lock the vaults/);
  // Who is no keyholder has nothing of it.
  const { page: marli } = await visit(browser, 'Marli Saltbrook');
  await marli.goto('/for-me');
  await expect(marli.getByRole('link', { name: /Lock the vaults/ })).toHaveCount(0);
});

test('vaults near their limit stand on the board in a table of just those, and nothing is said where there are none', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await begin(maud, 'Damp vaults', 'A day and an hour come round');
  const when = await panel(maud, 'What sets it off');
  await when.getByRole('combobox', { name: 'Looking at the records in' }).selectOption('Vault readings');
  await done(when);
  const must = await panel(maud, 'What must hold');
  await must.getByRole('button', { name: 'Add a test' }).click();
  await must.getByRole('combobox', { name: 'Column' }).selectOption('Humidity');
  await must.getByRole('combobox', { name: 'Test' }).selectOption('is over');
  await must.getByRole('combobox', { name: 'Held against' }).selectOption('another column');
  await must.getByRole('combobox', { name: 'Column' }).last().selectOption('Limit');
  await must.getByRole('spinbutton', { name: 'Share in percent' }).fill('90');
  await done(must);
  const told = await panel(maud, 'Who is told');
  await told.getByRole('checkbox', { name: 'Vault alerts' }).check();
  await done(told);
  await maud.getByRole('textbox', { name: 'Title' }).fill('Damp vaults: ');
  await maud.getByRole('combobox', { name: 'Put a field into the title' }).selectOption('how many');
  await maud.getByRole('textbox', { name: 'Text', exact: true }).fill('Look at the seals.');
  const table = maud.getByRole('group', { name: /^A table of what matched/ });
  for (const column of ['Vault', 'Humidity', 'Limit'])
    await table.getByRole('checkbox', { name: column, exact: true }).check();
  await expect(sentenceOf(maud)).toContainText('Humidity is over nine tenths of Limit');
  const bench = maud.getByRole('region', { name: 'The bench' });
  await bench.getByRole('button', { name: 'Try it' }).click();
  const tried = bench.getByRole('table').last();
  await expect(tried.getByRole('cell', { name: 'Cinder Bay' })).toBeVisible();
  await expect(tried.getByRole('cell', { name: 'Juniper Flat' })).toHaveCount(0);
  await putToWork(maud);
  await runNow(maud, /1 message on Vault alerts/, '1 message');
  const { page: wren } = await visit(browser, 'Wren Ashdown');
  await wren.goto('/boards');
  await wren.getByRole('link', { name: 'Vault alerts' }).first().click();
  await wren
    .getByRole('link', { name: /^Damp vaults: \d+$/ })
    .first()
    .click();
  await expect(wren.getByRole('cell', { name: 'Cinder Bay' })).toBeVisible();
  await expect(wren.getByRole('cell', { name: '51.2%' })).toBeVisible();
  await expect(wren.getByRole('cell', { name: 'Juniper Flat' })).toHaveCount(0);

  // Ten times the limit is nowhere: the next run says nothing, and says so.
  const again = await panel(maud, 'What must hold');
  await again.getByRole('spinbutton', { name: 'Share in percent' }).fill('1000');
  await done(again);
  await maud.getByRole('button', { name: 'Put the change to work' }).click();
  await expect(maud.getByText(/^It is at work, by version 2/)).toBeVisible();
  await runNow(maud, /It would say nothing now: nothing meets its conditions/, 'nothing to say');
});

test('who leads a trip is told what is found out about its place, and so is the board of that place', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await begin(maud, 'The river at dawn', 'A day and an hour come round');
  const when = await panel(maud, 'What sets it off');
  await when.getByRole('combobox', { name: 'Looking at the records in' }).selectOption('Field trips');
  await done(when);
  const must = await panel(maud, 'What must hold');
  await must.getByRole('button', { name: 'Add a test' }).click();
  await must.getByRole('textbox', { name: 'Value' }).fill('Sant Elm');
  await done(must);
  const each = await panel(maud, 'What it speaks of');
  await each.getByRole('radio', { name: 'Each record by itself' }).check();
  await done(each);
  const lookup = await panel(maud, 'What is looked up');
  await lookup.getByRole('combobox', { name: 'Ask' }).selectOption('Conditions at the collecting sites');
  await lookup.getByRole('combobox', { name: 'Its place is' }).selectOption('Site');
  await done(lookup);
  const told = await panel(maud, 'Who is told');
  await told.getByRole('radio', { name: 'Whoever a column names' }).check();
  await told.getByRole('combobox', { name: 'The column' }).selectOption('Leads');
  await told.getByRole('combobox', { name: 'And on the board that a column names' }).selectOption('Site');
  await done(told);
  await maud.getByRole('textbox', { name: 'Title' }).fill('Sant Elm at dawn, river {river}');
  await maud.getByRole('textbox', { name: 'Text', exact: true }).fill('Ask the warden before you cross.');
  await expect(sentenceOf(maud)).toContainText('looking up Conditions at the collecting sites');
  const bench = maud.getByRole('region', { name: 'The bench' });
  await bench.getByRole('button', { name: 'Try it' }).click();
  await expect(bench.getByRole('heading', { name: /^Sant Elm at dawn, river \d/ }).first()).toBeVisible();
  // A source may not know: what stands instead is asked for before anything is said.
  await maud.getByRole('button', { name: 'Put it to work' }).click();
  await expect(maud.getByRole('alert')).toContainText('river may be empty when it is said.');
  await maud.getByRole('textbox', { name: 'Title' }).fill('Sant Elm at dawn, river {river|unknown}');
  await putToWork(maud);
  await runNow(maud, /to 3 people by inbox and mail and on Sant Elm/, 'message');
  const { page: keola } = await visit(browser, 'Keola Palakiko', { viewport: { width: 390, height: 844 } });
  await keola.goto('/for-me');
  await keola
    .getByRole('link', { name: /^Sant Elm at dawn, river \d/ })
    .first()
    .click();
  await expect(keola.getByText('Ask the warden before you cross.')).toBeVisible();
  await maud.goto('/boards');
  await maud.getByRole('link', { name: 'Sant Elm', exact: true }).first().click();
  await expect(maud.getByRole('link', { name: /^Sant Elm at dawn, river \d/ }).first()).toBeVisible();
});

test('before a session begins, those who come are reminded, and the notes are on its board', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  // In three quarters of an hour, on the minute.
  const beginsMs = (Math.floor(Date.now() / 60_000) + 45) * 60_000;
  const wall = new Intl.DateTimeFormat('sv-SE', {
    timeZone: 'Europe/London',
    dateStyle: 'short',
    timeStyle: 'short',
  }).format(beginsMs);
  await maud.goto('/calendar');
  await maud.getByRole('button', { name: 'New session' }).click();
  const form = maud.getByRole('dialog', { name: 'A new session' });
  await form.getByLabel('What it is', { exact: true }).fill('Exchange of drying notes');
  await fillDate(form, 'Date', wall.slice(0, 10));
  await fillTime(form, 'Time', wall.slice(11));
  await chooseGroup(maud, 'Vault keyholders');
  await form.getByRole('button', { name: 'Put it into the calendar' }).click();
  await maud.waitForURL(/\/calendar\/\d+$/);
  const { page: wren } = await visit(browser, 'Wren Ashdown', { viewport: { width: 390, height: 844 } });
  await wren.goto('/calendar');
  await wren
    .getByRole('group', { name: 'Do you come: Exchange of drying notes' })
    .getByRole('button', { name: 'I am coming' })
    .click();

  await maud.goto('/automations');
  await maud.getByRole('button', { name: 'Make an automation' }).click();
  const making = maud.getByRole('dialog');
  await making.getByRole('textbox', { name: 'Name' }).fill('Before the exchange');
  await making.getByRole('radio', { name: /^A session of the calendar/ }).check();
  await making.getByRole('combobox', { name: 'The session' }).selectOption('Exchange of drying notes');
  await making.getByRole('button', { name: 'Write it' }).click();
  await maud.waitForURL(/\/automations\/\d+$/);
  await maud.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  const told = await panel(maud, 'Who is told');
  await told.getByRole('radio', { name: 'Those it is for' }).check();
  await told.getByRole('combobox', { name: 'Which of them' }).selectOption('those who come');
  await told.getByRole('checkbox', { name: 'Vault alerts' }).check();
  await done(told);
  await maud.getByRole('textbox', { name: 'Title' }).fill('In a little while: the exchange');
  await maud.getByRole('textbox', { name: 'Text', exact: true }).fill('The notes are on the shelf. Come, ');
  await maud.getByRole('button', { name: 'Mention', exact: true }).click();
  await maud.getByRole('button', { name: 'Call on everybody on the board' }).click();
  await maud.getByRole('combobox', { name: 'Importance' }).selectOption('urgent');
  // So long before that it is due one or two minutes from now.
  const when = await panel(maud, 'What sets it off');
  await when.getByRole('combobox', { name: 'Before or after' }).selectOption('before');
  const span = Math.floor((beginsMs - Date.now()) / 60_000) - 1;
  await when.getByRole('spinbutton', { name: 'How many minutes' }).fill(String(span));
  await done(when);
  await expect(sentenceOf(maud)).toContainText(`${span} minutes before “Exchange of drying notes” begins`);
  await putToWork(maud);

  await expect(async () => {
    await wren.goto('/for-me');
    await expect(wren.getByRole('link', { name: 'In a little while: the exchange' })).toBeVisible({
      timeout: 2_000,
    });
  }).toPass({ timeout: 150_000 });
  await inTheMailbox(wren, 'wren@', /In a little while/);
  await wren.goto('/boards');
  await wren.getByRole('link', { name: 'Vault alerts' }).first().click();
  await expect(wren.getByRole('link', { name: 'In a little while: the exchange' }).first()).toBeVisible();
  await expect(wren.getByText('everybody on Vault alerts').first()).toBeVisible();
  // Who is on the board and has not said that they come is called there.
  const { page: jago } = await visit(browser, 'Jago Quillfeather');
  await jago.goto('/for-me');
  await expect(jago.getByText('In a little while: the exchange').first()).toBeVisible();
  // By mail they have the call, and not the reminder itself.
  const mailbox = await maud.context().newPage();
  await mailbox.goto(`${mailboxUrl()}/?to=nuria@`);
  const call = mailbox.getByRole('link', { name: /In a little while/ });
  await expect(call).toHaveCount(1);
  await call.click();
  await expect(mailbox.locator('body')).toContainText('is called on, on Vault alerts');
});
