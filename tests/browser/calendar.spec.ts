import { openPhrase } from './fields.ts';
import { expect, mailboxUrl, test, visit } from './people.ts';

test('a session is put into the calendar, announced, answered from the mail and on a phone, and moved', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/calendar');
  await maud.getByRole('button', { name: 'New session' }).click();
  const form = maud.getByRole('dialog', { name: 'A new session' });
  await form.getByLabel('What it is', { exact: true }).fill('Drying room tour');
  await form.getByLabel('Place', { exact: true }).fill('The drying rooms');
  await form.getByLabel('What it is about').fill('How seed is dried, and why slowly.');
  await form.getByLabel(/^At most so many/).fill('0');
  // It is for nobody yet.
  const put = form.getByRole('button', { name: 'Put it into the calendar' });
  await expect(put).toBeDisabled();
  await form.getByRole('checkbox', { name: 'Begin with everyone' }).check();
  await expect(form.getByRole('status')).toContainText(/It is for \d+ people/);
  // What is wrong is told at its field, and what was written is still there.
  await put.click();
  await expect(form.getByText('At least one can come')).toBeVisible();
  await form.getByLabel(/^At most so many/).fill('1');
  await put.click();
  await maud.waitForURL(/\/calendar\/\d+$/);
  await expect(maud.getByRole('heading', { name: 'Drying room tour' })).toBeVisible();
  await expect(maud.getByText(/at most 1 of them/)).toBeVisible();

  // Wren says on a phone that she comes; the desk follows by itself.
  const { page: wren } = await visit(browser, 'Wren Ashdown', { viewport: { width: 390, height: 800 } });
  await wren.goto('/calendar');
  const hers = wren.getByRole('group', { name: 'Do you come: Drying room tour' });
  await hers.getByRole('button', { name: 'I am coming' }).click();
  await expect(hers.getByRole('button', { name: 'I am coming' })).toHaveAttribute('aria-pressed', 'true');
  await expect(maud.getByText('1 person comes of at most 1')).toBeVisible();

  // The announcement has the session's event in it, and goes out.
  await maud.getByRole('button', { name: /^Announce / }).click();
  await maud.waitForURL(/\/write\/\d+$/);
  const seen = maud.getByRole('region', { name: 'What the reader sees' });
  await expect(seen).toContainText('How seed is dried, and why slowly.');
  await expect(seen).toContainText('The drying rooms');
  await maud.getByLabel('Importance').selectOption('urgent');
  await openPhrase(maud, /^When it goes out/);
  await maud.getByRole('button', { name: 'Done' }).click();
  await expect(maud.getByText(/Saved at/)).toBeVisible();
  await maud.getByRole('button', { name: /^Send to \d+ people/ }).click();
  await maud
    .getByRole('dialog')
    .getByRole('button', { name: /^Send to \d+ people$/ })
    .click();
  await maud.waitForURL(/\/sends\/\d+$/);
  await expect(maud.getByText('sent', { exact: true })).toBeVisible({ timeout: 60_000 });
  const occurrence = /\d+$/.exec(maud.url())?.[0] ?? '';

  // Sarita says from the mail that she comes, and waits, since it is full.
  const reader = await browser.newContext();
  const mail = await reader.newPage();
  await mail.goto(`${mailboxUrl()}/?to=sarita@`);
  await mail.getByRole('link', { name: 'Drying room tour' }).click();
  const opened = reader.waitForEvent('page');
  await mail.frameLocator('iframe').getByRole('link', { name: 'I am coming' }).click();
  const link = await opened;
  await expect(link.getByRole('status')).toContainText('You wait for a place');

  // Wren cannot come after all: she says so where the announcement is, and Sarita has the place.
  await wren.goto(`/for-me/${occurrence}`);
  await wren
    .getByRole('group', { name: 'Do you come: Drying room tour' })
    .getByRole('button', { name: 'I cannot come' })
    .click();
  await expect(wren.getByText('You said that you cannot come.')).toBeVisible();
  await link.reload();
  await expect(link.getByRole('status')).toContainText('You are coming.');

  // Maud moves it; Sarita is told of it, and the announcement says that it is not of this hour any more.
  await maud.goto('/calendar');
  await maud.getByRole('link', { name: 'Look after Drying room tour' }).click();
  await maud.getByRole('button', { name: /^Who comes / }).click();
  await expect(maud.getByRole('link', { name: 'Sarita Thapali' })).toBeVisible();
  await maud.getByRole('button', { name: /^Move / }).click();
  const move = maud.getByRole('dialog', { name: /^Move this date/ });
  const hour = move.getByRole('group', { name: 'Time', exact: true }).getByRole('spinbutton').first();
  await hour.press('ArrowUp');
  await move.getByLabel('A word to those who come').fill('The dryer is being mended.');
  await move.getByRole('button', { name: 'Change it' }).click();
  await expect(maud.getByText('The dryer is being mended.')).toBeVisible();
  const { page: sarita } = await visit(browser, 'Sarita Thapali');
  await sarita.goto(`/for-me/${occurrence}`);
  await expect(sarita.getByText(/It has been moved since this was written/)).toBeVisible();
  await sarita.getByRole('link', { name: 'see when it is now' }).click();
  await expect(sarita.getByRole('heading', { name: 'Drying room tour' })).toBeVisible();
  await expect(sarita.getByText('The dryer is being mended.')).toBeVisible();
  // A member looks after nothing.
  await expect(sarita.getByRole('link', { name: 'Look after it' })).toHaveCount(0);

  // Called off, it stays in sight and asks for nothing.
  await maud.getByRole('button', { name: 'Call it off', exact: true }).first().click();
  await maud.getByRole('dialog').getByRole('button', { name: 'Call it off' }).click();
  await expect(maud.getByText('Called off', { exact: true })).toBeVisible();
  await expect(sarita.getByText('Called off', { exact: true })).toBeVisible();
  await expect(sarita.getByRole('group', { name: /^Do you come/ })).toHaveCount(0);
});

test('a calendar elsewhere is looked into, brought in, read again, and given up with its sessions kept', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/calendar');
  await maud.getByRole('link', { name: 'Other calendars' }).click();
  await maud.getByRole('button', { name: 'Bring in a calendar' }).click();
  const form = maud.getByRole('dialog');
  const day = (days: number): string =>
    new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10).replaceAll('-', '');
  const file = (...lines: string[]) => ({
    name: 'ferry.ics',
    mimeType: 'text/calendar',
    buffer: Buffer.from(
      ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//x//EN', ...lines, 'END:VCALENDAR', ''].join('\r\n'),
    ),
  });
  const crossing = [
    'BEGIN:VEVENT',
    'UID:ferry',
    'SUMMARY:Ferry with the harvest',
    `DTSTART:${day(3)}T120000Z`,
    'DURATION:PT2H',
    'RRULE:FREQ=WEEKLY;COUNT=3',
    'END:VEVENT',
  ];
  await form.getByLabel(/a file/).setInputFiles({ ...file(), buffer: Buffer.from('no calendar') });
  await form.getByRole('button', { name: 'See what is in it' }).click();
  await expect(form.getByText(/This is no iCalendar text/)).toBeVisible();
  await form.getByLabel(/a file/).setInputFiles(file(...crossing));
  await form.getByRole('button', { name: 'See what is in it' }).click();
  await expect(form.getByText('1 session is ahead:')).toBeVisible();
  await expect(form.getByText(/Ferry with the harvest.*and 2 more/)).toBeVisible();
  await form.getByRole('textbox', { name: 'Whose calendar it is' }).fill('The ferry');
  await form.getByRole('checkbox', { name: 'Begin with everyone' }).check();
  await form.getByRole('button', { name: 'Bring it in' }).click();
  const line = maud.getByRole('listitem').filter({ hasText: 'From a file' });
  await expect(line).toContainText('1 session ahead, for everyone');

  await maud.goto('/calendar');
  await maud.getByRole('link', { name: 'Look after Ferry with the harvest' }).first().click();
  await expect(maud.getByText('It follows The ferry')).toBeVisible();
  await expect(maud.getByRole('button', { name: /^Move / })).toHaveCount(0);
  await maud.getByRole('link', { name: 'The ferry' }).click();
  await maud.getByRole('button', { name: 'Read The ferry now' }).click();
  await expect(maud.getByText('The ferry is read.')).toBeVisible();
  await maud.getByRole('button', { name: 'Follow The ferry no more' }).click();
  await maud.getByRole('dialog').getByRole('button', { name: 'Keep its sessions' }).click();
  await expect(maud.getByText('From a file')).toHaveCount(0);
  await maud.goto('/calendar');
  await maud.getByRole('link', { name: 'Look after Ferry with the harvest' }).first().click();
  await expect(maud.getByRole('button', { name: /^Move / })).toHaveCount(3);
});
