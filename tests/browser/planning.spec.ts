import sharp from 'sharp';
import { expect, mailboxUrl, test, visit } from './people.ts';
import { chooseGroup, expectTime, fillTime, openPhrase, chooseName } from './fields.ts';

test('a weekly letter by readers’ clocks is planned with an exception, cleared by a second person, moved and skipped', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/write');
  await maud.getByRole('button', { name: 'New announcement' }).click();
  await maud.getByRole('textbox', { name: 'Title' }).fill('The trustees’ weekly letter');
  await maud.getByRole('textbox', { name: 'Text' }).click();
  await maud.keyboard.type('What the week was, in four lines.');
  await openPhrase(maud, /^Who gets it/);
  await chooseGroup(maud, 'Trustees');
  await openPhrase(maud, /^When it goes out/);
  await maud.getByRole('radio', { name: 'Again and again' }).check();
  await maud.getByRole('combobox', { name: /^By/ }).selectOption('readers');
  const next = maud.getByRole('heading', { name: 'The next 10' });
  await expect(next).toBeVisible();
  await maud
    .getByRole('button', { name: /^Leave out/ })
    .nth(1)
    .click();
  const plan = maud.getByRole('region', { name: 'The plan' });
  await expect(plan).toContainText(/every \w+day at 09:00 their time, leaving out /);
  await maud.getByRole('button', { name: 'Done' }).click();

  // The trustees ask for a second person.
  await maud.getByRole('button', { name: /^Plan for \d+ people/ }).click();
  await expect(maud.getByRole('alert')).toContainText('second person’s clearance');
  await maud.getByRole('button', { name: 'Hand on for review' }).click();
  await maud.getByRole('dialog').getByRole('button', { name: 'Hand it on' }).click();
  await expect(maud.getByText('It waits for a second person now.')).toBeVisible();
  await expect(maud.getByText('Nobody clears what they wrote in')).toBeVisible();

  const { page: jago } = await visit(browser, 'Jago Quillfeather');
  await jago.goto('/');
  const needs = jago.getByRole('complementary', { name: 'Needs you' });
  await needs.getByRole('link', { name: 'The trustees’ weekly letter' }).first().click();
  await jago.getByRole('button', { name: 'Clear it' }).click();
  await expect(jago.getByText('It is cleared.')).toBeVisible();

  // Maud's page follows without a reload.
  await expect(plan.getByText('cleared', { exact: true })).toBeVisible();
  await maud.getByRole('button', { name: /^Plan for \d+ people/ }).click();
  await maud
    .getByRole('dialog')
    .getByRole('button', { name: /^Plan for/ })
    .click();
  await maud.waitForURL(/\/sends\/\d+$/);
  await expect(maud.getByText(/Goes out in/)).toBeVisible();
  await expect(maud.getByRole('heading', { name: 'By the clock of each zone' })).toBeVisible();

  // On the run sheet: one this week, none next week, which was left out.
  await maud.goto('/run-sheet');
  await maud.getByRole('radio', { name: 'fortnight' }).click();
  const axis = maud.getByRole('region', { name: 'On the axis of time' });
  const marks = axis.getByRole('link', { name: /The trustees’ weekly letter, scheduled/ });
  await expect(marks).toHaveCount(1);

  // Moved by the keyboard: a quarter of an hour later, then to eleven.
  await marks.press('Shift+ArrowRight');
  const dialog = maud.getByRole('dialog', { name: 'Move it to another time?' });
  await expectTime(dialog, 'Time', '09:15');
  await fillTime(dialog, 'Time', '11:00');
  await dialog.getByRole('button', { name: 'Move it' }).click();
  await expect(dialog).toHaveCount(0);
  await marks.click();
  await expect(maud.getByText('it was moved from its rule')).toBeVisible();

  // The one after the left-out week is skipped; nobody gets it.
  await maud.goto('/run-sheet');
  await maud.getByRole('radio', { name: 'fortnight' }).click();
  await maud.getByRole('button', { name: 'After', exact: true }).click();
  // The one after it lies beyond what is planned, and is shown as its rule gives it; late in the day a third begins to show.
  await expect.poll(() => marks.count()).toBeGreaterThanOrEqual(2);
  await marks.first().click();
  await maud.getByRole('button', { name: 'Skip this one' }).click();
  await expect(maud.getByText('It was skipped; nobody got this one.')).toBeVisible();
});

test('sections, an image, a field and an event are seen as the reader sees them, and corrected after they went', async ({
  browser,
}) => {
  const { page: desk } = await visit(browser, 'Maud Fenwright');
  await desk.goto('/write');
  await desk.getByRole('button', { name: 'New announcement' }).click();
  await desk.getByRole('textbox', { name: 'Title' }).fill('Open shelves');
  await desk.getByRole('textbox', { name: 'Text' }).click();
  await desk.keyboard.type('Dear ');
  await desk.getByRole('button', { name: 'Field', exact: true }).click();
  await desk.getByRole('button', { name: 'Put it in' }).click();
  await desk.keyboard.type(', come and see.');
  await desk.getByRole('button', { name: 'Add a section' }).click();
  const second = desk.getByRole('region', { name: 'Section 2' });
  await second.getByRole('textbox', { name: 'Heading' }).fill('What to bring');
  await second.getByRole('textbox', { name: 'Text of section 2' }).click();
  // Markdown that is pasted is read as such.
  await desk.evaluate(() => {
    const data = new DataTransfer();
    data.setData('text/plain', '- a **torch**\n- a friend');
    document
      .querySelectorAll('.ProseMirror')[1]
      ?.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }));
  });
  const picture = await sharp({ create: { width: 800, height: 500, channels: 3, background: '#8a4b12' } })
    .png()
    .toBuffer();
  await second
    .locator('input[type=file]')
    .first()
    .setInputFiles({ name: 'shelf.png', mimeType: 'image/png', buffer: picture });
  await expect(second.getByLabel(/What it shows/)).toBeVisible();

  const seen = desk.getByRole('region', { name: 'What the reader sees' });
  await expect(seen.getByRole('heading', { name: 'What to bring' })).toBeVisible();
  await expect(seen.getByRole('listitem').filter({ hasText: 'torch' })).toBeVisible();
  await expect(seen).toContainText('Dear Maud, come and see.');
  await chooseName(desk, /As somebody else/, 'Sarita Th', /Sarita Thapali/);
  await expect(seen).toContainText('Dear Sarita, come and see.');

  // The order changes by the keyboard.
  await second.getByRole('button', { name: 'Move section 2, place 2 of 2' }).press('ArrowUp');
  await expect(
    desk.getByRole('region', { name: 'Section 1' }).getByRole('textbox', { name: 'Heading' }),
  ).toHaveValue('What to bring');
  // An image says what it shows, or it does not go out.
  await openPhrase(desk, /^Who gets it/);
  await desk.getByRole('combobox', { name: /^Chosen by/ }).selectOption('person');
  await chooseName(desk, 'Name', 'Wren Ash', /Wren Ashdown/);
  await desk.getByRole('button', { name: 'Done' }).click();
  await desk.getByRole('checkbox', { name: /^An event/ }).check();
  await desk.getByRole('textbox', { name: 'Place' }).fill('Reading room');
  await desk.getByRole('button', { name: /^Send to 1 person/ }).click();
  await expect(desk.getByRole('alert')).toContainText('has no description');
  await desk.getByLabel(/What it shows/).fill('A brown shelf');

  await desk.getByRole('button', { name: 'Rehearse' }).click();
  await expect(desk.getByRole('heading', { name: 'Rehearsal' })).toBeVisible();
  // The headings, and one reader.
  await expect(desk.getByRole('table', { name: 'Recipients' }).getByRole('row')).toHaveCount(2);
  await expect(desk.getByRole('table', { name: 'Recipients' })).toContainText('Wren Ashdown');
  await desk.getByRole('link', { name: 'Back to writing' }).click();

  await desk.getByRole('button', { name: /^Send to 1 person/ }).click();
  await desk
    .getByRole('dialog')
    .getByRole('button', { name: /^Send to/ })
    .click();
  await expect(desk.getByText('sent', { exact: true })).toBeVisible({ timeout: 30_000 });

  const { page: wren } = await visit(browser, 'Wren Ashdown');
  await wren.goto('/for-me');
  await wren.getByRole('link', { name: 'Open shelves' }).first().click();
  await expect(wren.getByText('Dear Wren, come and see.')).toBeVisible();
  await expect(wren.getByRole('img', { name: 'A brown shelf' })).toBeVisible();
  await expect(wren.getByRole('link', { name: 'Add to my calendar' })).toBeVisible();
  const mailbox = await wren.context().newPage();
  await expect(async () => {
    await mailbox.goto(`${mailboxUrl()}/?to=wren@`);
    await expect(mailbox.getByRole('link', { name: /Open shelves/ })).toBeVisible({ timeout: 1000 });
  }).toPass({ timeout: 20_000 });

  await desk.getByRole('button', { name: 'Correct it' }).click();
  await desk.waitForURL(/\/write\/\d+$/);
  await desk.getByRole('textbox', { name: 'Title' }).fill('Open shelves on Friday');
  await desk.getByRole('button', { name: 'Publish the correction …' }).click();
  const dialog = desk.getByRole('dialog', { name: 'Publish the correction?' });
  await dialog.getByLabel('What was corrected, in a few words').fill('The day was missing');
  await dialog.getByRole('radio', { name: /^Everybody who got it \d+ (person|people)/ }).check();
  await dialog.getByRole('button', { name: /^Publish it and tell \d+ (person|people)/ }).click();
  await desk.waitForURL(/\/sends\/\d+$/);
  await wren.reload();
  await expect(wren.getByRole('heading', { name: 'Open shelves on Friday' })).toBeVisible();
  await expect(wren.getByText('The day was missing')).toBeVisible();
  await expect(async () => {
    await wren.goto('/for-me');
    await expect(wren.getByRole('link', { name: 'Corrected: Open shelves on Friday' }).first()).toBeVisible({
      timeout: 1000,
    });
  }).toPass({ timeout: 30_000 });
  // It is the new text itself, and leads to where it stands.
  await wren.getByRole('link', { name: 'Corrected: Open shelves on Friday' }).first().click();
  await expect(wren.getByText('The day was missing')).toBeVisible();
  await wren.getByRole('link', { name: 'Open it where it stands' }).click();
  await expect(wren.getByRole('heading', { name: 'Open shelves on Friday', exact: true })).toBeVisible();
});
