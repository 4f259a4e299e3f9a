import type { Page } from '@playwright/test';
import { expect, mailboxUrl, test, visit } from './people.ts';
import { fillDate, fillTime, openPhrase, chooseName } from './fields.ts';

/** Begins an urgent announcement, which waits for nobody's quiet hours, to some people by name. */
async function begin(page: Page, title: string, names: string[]): Promise<void> {
  await page.goto('/write');
  await page.getByRole('button', { name: 'New announcement' }).click();
  await page.getByRole('textbox', { name: 'Title' }).fill(title);
  await page.getByLabel('Importance').selectOption('urgent');
  await page.getByRole('textbox', { name: 'Text' }).click();
  await page.keyboard.type('Please answer what is asked below.');
  await openPhrase(page, /^Who gets it/);
  await page.getByRole('combobox', { name: 'By' }).first().selectOption('person');
  for (const name of names) {
    await chooseName(page, 'Name', name, name);
  }
  await expect(page.getByRole('region', { name: 'The plan' })).toContainText(
    `Goes to ${names.length} people`,
  );
  await openPhrase(page, /^What is asked back/);
}

/** Answers the last question, and waits until it has gone; gives the occurrence. */
async function send(page: Page): Promise<string> {
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByText(/Saved at/)).toBeVisible();
  await page.getByRole('button', { name: /^Send to \d+ people/ }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Send to/ })
    .click();
  await page.waitForURL(/\/sends\/\d+$/);
  await expect(page.getByText('sent', { exact: true })).toBeVisible({ timeout: 30_000 });
  return /\d+$/.exec(page.url())?.[0] ?? '';
}

test('a date poll across three zones: each reads it on their own clock, and the grid fills while one looks', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await begin(maud, 'When is the drill?', ['Wren Ashdown', 'Sarita Thapali', 'Kailani Mahoe-Lani']);
  await maud.getByRole('radio', { name: /^A poll/ }).check();
  await maud.getByRole('textbox', { name: 'The question' }).fill('When can you take part?');
  await maud.getByLabel('Answered with').selectOption('dates');
  for (const [i, date] of ['2027-06-14', '2027-06-15'].entries()) {
    await fillDate(maud, 'Date', date, i);
    await fillTime(maud, 'Time', '20:00', i);
  }
  await maud.getByLabel('The result shows').selectOption('always');
  await expect(maud.getByRole('region', { name: 'The plan' })).toContainText(
    'vote on “When can you take part?”',
  );
  const id = await send(maud);
  await maud.goto(`/answers/${id}`);
  await expect(maud.getByText('0 of 3 have voted')).toBeVisible();

  const seen: Record<string, string> = {};
  for (const [name, first, answers] of [
    ['Wren Ashdown', '20:00 on Monday 14 June 2027', ['yes', 'no']],
    ['Sarita Thapali', '00:45 on Tuesday 15 June 2027', ['if need be', 'yes']],
    ['Kailani Mahoe-Lani', '09:00 on Monday 14 June 2027', ['yes', 'if need be']],
  ] as const) {
    const { page } = await visit(browser, name, { viewport: { width: 390, height: 800 } });
    await page.goto('/');
    await page.getByRole('button', { name: 'Vote: When is the drill?' }).click();
    const rows = page.getByRole('table', { name: 'In your time' }).getByRole('row');
    await expect(rows.nth(1)).toContainText(first);
    for (const [i, answer] of answers.entries())
      await rows
        .nth(i + 1)
        .getByRole('radio', { name: new RegExp(`: ${answer}$`) })
        .check();
    await page.getByRole('button', { name: 'Vote', exact: true }).click();
    await expect(page.getByText(/^You voted/)).toBeVisible();
    seen[name] = first;
  }
  expect(new Set(Object.values(seen)).size).toBe(3);

  // Nothing is reloaded at the desk.
  await expect(maud.getByText('All 3 have voted')).toBeVisible();
  const grid = maud.getByRole('table', { name: 'Who can on which date' });
  await expect(grid.getByRole('row', { name: /14 June/ })).toContainText(/2\s*1\s*0/);
  await expect(grid.getByRole('row', { name: /14 June/ })).toContainText('ahead');

  // Changed until it closes, and not after.
  const { page: wren } = await visit(browser, 'Wren Ashdown');
  await wren.goto(`/for-me/${id}`);
  await wren.getByRole('button', { name: 'Change my vote' }).click();
  await wren.getByRole('radio', { name: /14 June 2027: no$/ }).check();
  await wren.getByRole('radio', { name: /15 June 2027: yes$/ }).check();
  await wren.getByRole('button', { name: 'Change my vote' }).click();
  await expect(grid.getByRole('row', { name: /15 June/ })).toContainText('ahead');
  await maud.getByRole('button', { name: 'Close it' }).click();
  await maud
    .getByRole('dialog')
    .getByRole('button', { name: /^Close it for/ })
    .click();
  await expect(maud.getByText(/Closed by Maud Fenwright at/)).toBeVisible();
  await expect(wren.getByText(/^Closed/)).toBeVisible();
  await expect(wren.getByRole('button', { name: 'Change my vote' })).toHaveCount(0);
  const votes = maud.waitForEvent('download');
  await maud.getByRole('link', { name: 'Votes as CSV' }).click();
  expect((await votes).suggestedFilename()).toBe(`votes-${id}.csv`);
  // An automation that listens to asks tells whoever asked what came of it.
  await maud.goto('/for-me');
  await expect(maud.getByRole('link', { name: '3 of 3 answered “When is the drill?”' })).toBeVisible();
});

test('a vote straight from the mail, and a chase that leaves out who has answered', async ({ browser }, {
  retry,
}) => {
  // The mailbox keeps what a first go sent.
  const title = retry === 0 ? 'Soup or stew' : `Soup or stew ${retry}`;
  const { page: maud, context } = await visit(browser, 'Maud Fenwright');
  await begin(maud, title, ['Wren Ashdown', 'Sarita Thapali']);
  await maud.getByRole('radio', { name: /^A poll/ }).check();
  await maud.getByRole('textbox', { name: 'The question' }).fill('Which shall it be?');
  await maud.getByRole('textbox', { name: 'Option 1' }).fill('Soup');
  await maud.getByRole('textbox', { name: 'Option 2' }).fill('Stew');
  await maud.getByRole('checkbox', { name: /chase those/ }).check();
  await maud.getByRole('textbox', { name: 'What it says' }).fill('The kitchen is waiting for you.');
  const id = await send(maud);
  await maud.goto(`/answers/${id}`);
  await expect(maud.getByRole('list', { name: 'Chases' }).getByRole('listitem')).toHaveCount(2);

  // One press in the mail chooses; a second confirms, since programs open links by themselves.
  const mail = await context.newPage();
  await mail.goto(`${mailboxUrl()}/?to=wren@`);
  await mail.getByRole('link', { name: title }).click();
  const opened = context.waitForEvent('page');
  await mail.frameLocator('iframe').getByRole('link', { name: 'Stew' }).click();
  const link = await opened;
  await link.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await expect(link.getByRole('radio', { name: 'Stew' })).toBeChecked();
  await link.getByRole('button', { name: 'Vote', exact: true }).click();
  await expect(link.getByText(/^You voted/)).toBeVisible();
  await expect(maud.getByText('1 of 2 have voted')).toBeVisible();

  // A link that was altered votes for nobody; used again it only changes the same vote.
  const altered = await link.request.get(link.url().replace(/q-(\w)/, 'q-9$1'));
  expect(altered.status()).toBe(404);
  await link.getByRole('button', { name: 'Change my vote' }).click();
  await link.getByRole('radio', { name: 'Soup' }).check();
  await link.getByRole('button', { name: 'Change my vote' }).click();
  await expect(maud.getByRole('row', { name: /^Soup/ }).first()).toContainText('1 ·');

  await maud.getByRole('button', { name: 'Chase 1 person now' }).click();
  await maud.getByRole('dialog').getByRole('button', { name: 'Chase 1 person' }).dblclick();
  await expect(maud.getByRole('list', { name: 'Chases' }).getByText('went out, to 1 person')).toBeVisible({
    timeout: 30_000,
  });
  const { page: sarita } = await visit(browser, 'Sarita Thapali');
  await sarita.goto('/');
  await sarita.getByRole('link', { name: `Reminder: ${title}` }).click();
  await expect(sarita.getByText('The kitchen is waiting for you.')).toBeVisible();
  await sarita.getByRole('radio', { name: 'Stew' }).check();
  // An option added meanwhile is there to be chosen, and what was chosen already stays so.
  await maud.getByText('Add an option').click();
  await maud.getByRole('textbox', { name: 'Another option' }).fill('Pie');
  await maud.getByRole('button', { name: 'Add it' }).click();
  await expect(sarita.getByRole('radio', { name: 'Pie' })).toBeVisible();
  await expect(sarita.getByRole('radio', { name: 'Stew' })).toBeChecked();
  await sarita.getByRole('button', { name: 'Vote', exact: true }).click();
  await expect(maud.getByText('All 2 have voted')).toBeVisible();
  await mail.goto(`${mailboxUrl()}/?to=wren@`);
  await expect(mail.getByRole('link', { name: `Reminder: ${title}` })).toHaveCount(0);
  await mail.goto(`${mailboxUrl()}/?to=sarita@`);
  await expect(mail.getByRole('link', { name: `Reminder: ${title}` })).toHaveCount(1);
});

test('a check-in over three days: blocked, unblocked in the thread, and yesterday’s “next” is today’s “done”', async ({
  browser,
}) => {
  test.setTimeout(360_000);
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  // Whoever this runs for works on every day of the week.
  for (const name of ['Wren Ashdown', 'Sarita Thapali']) {
    const { page } = await visit(browser, name);
    await page.goto('/settings');
    for (const day of ['Saturday', 'Sunday'])
      await page.getByRole('group', { name: 'Days you work' }).getByRole('checkbox', { name: day }).check();
  }
  await begin(maud, 'Seed house round', ['Wren Ashdown', 'Sarita Thapali']);
  await maud.getByRole('radio', { name: /^A check-in/ }).check();
  await openPhrase(maud, /^When it goes out/);
  await maud.getByRole('radio', { name: 'Again and again' }).check();
  await maud.getByRole('combobox', { name: 'It comes' }).selectOption('daily');
  const plan = maud.getByRole('region', { name: 'The plan' });
  await expect(plan).toContainText('check in with 3 answers on their working days within 8 hours');
  await maud.getByRole('button', { name: 'Done' }).click();
  await expect(maud.getByText(/Saved at/)).toBeVisible();
  await maud.getByRole('button', { name: /^Plan for \d+ people/ }).click();
  await maud
    .getByRole('dialog')
    .getByRole('button', { name: /^Plan for/ })
    .click();
  await maud.waitForURL(/\/sends\/\d+$/);

  /** Sets the next day's check-in to this minute, as dragging its mark there would. */
  const nextDay = async (): Promise<string> => {
    const id = await maud.evaluate(async () => {
      const day = 86_400_000;
      const query = new URLSearchParams({ from: String(Date.now()), to: String(Date.now() + 14 * day) });
      const sheet = (await (await fetch(`/api/run-sheet/rows?${query.toString()}`)).json()) as {
        occurrenceId: number;
        title: string;
        state: string;
        dueMs: number;
      }[];
      const next = sheet
        .filter(
          (row) => row.title === 'Seed house round' && row.state === 'scheduled' && row.occurrenceId > 0,
        )
        .sort((x, y) => x.dueMs - y.dueMs)[0];
      const response = await fetch(`/api/sends/${next?.occurrenceId ?? 0}/move`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ wall: new Date(Date.now() + 5_000).toISOString().slice(0, 16), zone: 'UTC' }),
      });
      return response.ok ? String(next?.occurrenceId) : `${response.status} ${await response.text()}`;
    });
    expect(id).toMatch(/^\d+$/);
    await maud.goto(`/sends/${id}`);
    await expect(maud.getByText('sent', { exact: true })).toBeVisible({ timeout: 40_000 });
    await maud.goto(`/check-ins/${id}`);
    return id;
  };

  // Day one: Sarita is blocked, and stands on top.
  const first = await nextDay();
  const { page: wren } = await visit(browser, 'Wren Ashdown', { viewport: { width: 390, height: 800 } });
  await wren.goto('/');
  await wren.getByRole('button', { name: 'Check in: Seed house round' }).click();
  await wren.getByLabel('What did you get done?').fill('The ferns.');
  await wren.getByLabel('What comes next?').fill('The mosses.');
  await wren.getByRole('button', { name: 'Check in', exact: true }).click();
  await expect(wren.getByText(/^You checked in/)).toBeVisible();
  const { page: sarita } = await visit(browser, 'Sarita Thapali');
  await sarita.goto(`/check-ins/${first}`);
  await sarita.getByLabel('What did you get done?').fill('Nothing yet.');
  await sarita.getByRole('button', { name: 'Check in', exact: true }).click();
  await expect(sarita.getByText('Answer “What comes next?”.').first()).toBeVisible();
  await sarita.getByLabel('What comes next?').fill('The labels.');
  await sarita.getByRole('checkbox', { name: 'Does anything block you?' }).check();
  await sarita.getByLabel(/^By what/).fill('The printer has no ribbon.');
  await sarita.getByRole('button', { name: 'Check in', exact: true }).click();
  await expect(maud.getByText('2 of 2 people checked in, 1 person blocked')).toBeVisible();
  await expect(maud.getByRole('heading', { level: 3 }).first()).toContainText('Sarita Thapali');
  await maud.getByRole('radio', { name: 'By question' }).click();
  await expect(maud.getByText('The mosses.')).toBeVisible();

  // Wren helps in the thread; Sarita sees it without a reload, and is told.
  await wren.goto(`/check-ins/${first}`);
  await wren.getByLabel('Reply to Sarita Thapali').fill('There is one in the blue cupboard.');
  await wren.getByRole('checkbox', { name: /is blocked no more/ }).check();
  await wren.getByRole('button', { name: 'Reply', exact: true }).first().click();
  await expect(wren.getByText('unblocked, Wren Ashdown')).toBeVisible();
  await expect(sarita.getByText('There is one in the blue cupboard.')).toBeVisible();
  await expect(maud.getByText('2 of 2 people checked in', { exact: true })).toBeVisible();
  await sarita.goto('/for-me/notices');
  await expect(sarita.getByText('There is one in the blue cupboard.').first()).toBeVisible();

  // Day two: what was to come next is offered as done. Closed by hand, it can only be read.
  const second = await nextDay();
  await wren.goto(`/check-ins/${second}`);
  await expect(wren.getByLabel('What did you get done?')).toHaveValue('The mosses.');
  await wren.getByLabel('What comes next?').fill('The lichens.');
  await wren.getByRole('button', { name: 'Check in', exact: true }).click();
  await expect(maud.getByText('1 of 2 people checked in')).toBeVisible();
  await expect(maud.getByText('Sarita Thapali.')).toBeVisible();
  await maud.getByRole('button', { name: 'Close it' }).click();
  await maud.getByRole('dialog').getByRole('button', { name: 'Close it' }).click();
  await expect(maud.getByText(/it can be read and not changed any more/)).toBeVisible();
  await sarita.goto(`/check-ins/${second}`);
  await expect(sarita.getByRole('button', { name: 'Check in', exact: true })).toHaveCount(0);

  // Day three, and the history: by person and by words.
  const third = await nextDay();
  await wren.goto(`/check-ins/${third}`);
  await expect(wren.getByLabel('What did you get done?')).toHaveValue('The lichens.');
  await wren.getByRole('link', { name: 'All that was said, by person, question and date' }).click();
  await wren.waitForURL(/history$/);
  await wren.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  const lines = wren.locator('ul.ledger > li');
  await expect(lines).toHaveCount(3);
  await wren.getByLabel('Words').fill('mosses');
  await expect(lines).toHaveCount(2);
  await wren.getByLabel('Person').selectOption({ label: 'Sarita Thapali' });
  await expect(wren.getByText('Nothing of the kind was said.')).toBeVisible();
});

test('who looks after a group sees its part of the roll, and only that', async ({ browser }) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/groups');
  await maud.getByRole('link', { name: 'Oru Terrace' }).click();
  await maud.getByRole('button', { name: /^Choose (who|another too)$/ }).click();
  await chooseName(maud, 'Who looks after Oru Terrace', 'Sarita', /Sarita Thapali/);
  const release = maud.getByRole('button', { name: 'Sarita Thapali no longer looks after it' });
  await expect(release).toBeVisible();

  const { page: sarita } = await visit(browser, 'Sarita Thapali');
  await sarita.goto('/');
  await sarita.getByRole('navigation', { name: 'Places' }).getByRole('link', { name: 'Answers' }).click();
  await sarita.getByRole('link', { name: 'Fire drill in the drying rooms this Thursday' }).click();
  await sarita.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await expect(sarita.getByText(/You look after Oru Terrace/)).toBeVisible();
  await expect(sarita.getByRole('button', { name: /^Chase/ })).toHaveCount(0);
  await sarita.getByRole('radio', { name: /^Everybody/ }).click();
  const names = sarita.getByRole('region', { name: 'By name' }).getByRole('listitem');
  await expect(names.first()).toContainText('Oru Terrace');
  await expect(names.filter({ hasNotText: 'Oru Terrace' })).toHaveCount(0);

  const { page: marli } = await visit(browser, 'Marli Saltbrook');
  await marli.goto('/answers');
  await expect(marli).toHaveURL(/\/for-me$/);
  const response = await marli.goto(new URL(sarita.url()).pathname);
  expect(response?.status()).toBe(404);

  await release.click();
  await expect(maud.getByText('Nobody looks after it.')).toBeVisible();
  expect((await sarita.reload())?.status()).toBe(404);
});
