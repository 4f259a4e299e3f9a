import { chooseName } from './fields.ts';
import { expect, test, visit } from './people.ts';

test('a member is made an editor, writes to the groups chosen for them, and is a member again', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  const { page: wren } = await visit(browser, 'Wren Ashdown');
  await wren.goto('/for-me');
  await expect(wren.getByRole('link', { name: 'Write', exact: true })).toHaveCount(0);
  await maud.goto('/rights');
  await chooseName(maud, 'Make somebody an editor', 'Wren', /^Wren Ashdown/);
  await maud.getByRole('dialog').getByRole('button', { name: 'Make them an editor' }).click();
  const editors = maud.getByRole('region', { name: 'Editors' });
  await expect(editors.getByRole('listitem').filter({ hasText: 'Wren Ashdown' })).toContainText(
    'may write to no group yet',
  );
  await maud.getByRole('button', { name: 'Choose whom Wren Ashdown may write to' }).click();
  await maud.getByRole('dialog').getByRole('checkbox', { name: 'Sant Elm' }).check();
  await maud.getByRole('dialog').getByRole('button', { name: 'Let them write to 1 group' }).click();
  await expect(editors.getByRole('listitem').filter({ hasText: 'Wren Ashdown' })).toContainText(
    'may write to Sant Elm',
  );
  // It holds from the next press on, without signing in anew.
  await wren.goto('/write');
  await expect(wren.getByRole('button', { name: 'New announcement' })).toBeVisible();
  // What is for coordinators alone leads an editor to the run sheet.
  for (const path of ['/rights', '/kinds', '/audit', '/first-steps', '/people/import', '/people/import/1']) {
    await wren.goto(path);
    await expect(wren).toHaveURL(/\/run-sheet$/);
  }

  await editors.getByRole('link', { name: 'Wren Ashdown' }).click();
  await expect(maud.getByText('changed whom they may write to: Wren Ashdown')).toBeVisible();
  await maud.goto('/rights');
  await maud.getByRole('button', { name: 'Make Wren Ashdown a member' }).click();
  await maud.getByRole('dialog').getByRole('button', { name: 'Make them a member' }).click();
  await expect(editors.getByRole('listitem').filter({ hasText: 'Wren Ashdown' })).toHaveCount(0);
  await wren.goto('/write');
  await expect(wren.getByRole('button', { name: 'New announcement' })).toHaveCount(0);
  await maud.goto('/audit');
  await maud.getByRole('searchbox', { name: 'Name' }).fill('Wren');
  await maud.getByRole('combobox', { name: 'About' }).selectOption('people');
  await expect(maud.getByText('Maud Fenwright changed whom they may write to: Wren Ashdown')).toBeVisible();
  const csv = maud.waitForEvent('download');
  await maud.getByRole('link', { name: 'As CSV' }).click();
  expect((await csv).suggestedFilename()).toBe('audit.csv');
});

test('people are found by a sentence, many are moved at once, and it is undone; a person’s page is changed', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/people');
  await page.getByRole('button', { name: 'By a sentence' }).click();
  await page.getByRole('combobox', { name: 'Chosen by' }).selectOption('station');
  await page.getByRole('combobox', { name: 'Which' }).selectOption('Oru Terrace');
  await page.getByRole('combobox', { name: 'Shown' }).selectOption('those who are here');
  const rows = page.getByRole('row').filter({ has: page.getByRole('checkbox', { name: /^Choose/ }) });
  await expect(rows.first()).toContainText('Oru Terrace');
  await expect(rows.filter({ hasNotText: 'Oru Terrace' })).toHaveCount(0);
  const found = page.getByRole('status').filter({ hasText: /^\d+ people$/ });
  const before = Number.parseInt(await found.innerText(), 10);
  await rows.nth(0).getByRole('checkbox').check();
  await rows.nth(1).getByRole('checkbox').check();
  const bar = page.getByRole('group', { name: 'Those who are chosen' });
  await expect(bar).toContainText('2 people chosen');
  await bar.getByRole('combobox', { name: 'Move them to a station' }).selectOption('Cinder Bay');
  await expect(page.getByText('2 people moved to Cinder Bay')).toBeVisible();
  await expect(found).toHaveText(`${before - 2} people`);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(found).toHaveText(`${before} people`);

  await rows.first().getByRole('link').first().click();
  await page.getByRole('button', { name: 'Change', exact: true }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Add an attribute' }).click();
  await dialog.getByRole('combobox', { name: 'Name', exact: true }).last().fill('first aid');
  await dialog.getByRole('button', { name: 'Change it' }).click();
  await expect(dialog.getByText('Write what it is, or take the attribute out')).toBeVisible();
  await dialog.getByRole('textbox', { name: 'What it is' }).last().fill('until 2028');
  await dialog.getByRole('button', { name: 'Change it' }).click();
  await expect(page.getByText('until 2028')).toBeVisible();
});

test('the directory is read to its end, ordered by its columns, and shows those one chooses', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/people');
  const table = page.getByRole('table', { name: 'People' });
  const rows = table.getByRole('row').filter({ has: page.getByRole('checkbox') });
  await expect(rows.first()).toBeVisible();
  // Far fewer rows stand on the page than there are people; the last is read when one comes to it.
  expect(await rows.count()).toBeLessThan(60);
  const count = Number(await table.getAttribute('aria-rowcount')) - 1;
  expect(count).toBeGreaterThan(200);
  const last = table.locator(`[aria-rowindex="${count + 1}"]`);
  // The page has its whole height once its script has taken over, and each row is measured as it comes into sight.
  await expect(async () => {
    await table.evaluate((box) => box.scrollTo(0, box.scrollHeight));
    await expect(last.getByRole('link')).toBeVisible({ timeout: 2_000 });
  }).toPass();
  const lastName = await last.getByRole('link').innerText();

  // Turned round, the last comes first.
  await table.getByRole('button', { name: 'Name' }).click();
  await expect(table.getByRole('columnheader', { name: 'Name' })).toHaveAttribute('aria-sort', 'descending');
  await expect(rows.first().getByRole('link')).toHaveText(lastName);
  await expect(page).toHaveURL(/turned=yes/);
  await table.getByRole('button', { name: 'Station' }).click();
  await expect(page).toHaveURL(/order=station/);
  await expect(rows.first()).toContainText('Cinder Bay');

  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'Joined' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'Occupation' }).click();
  await page.keyboard.press('Escape');
  await expect(table.getByRole('columnheader', { name: 'Joined' })).toBeVisible();
  await page.reload();
  await expect(table.getByRole('columnheader', { name: 'Joined' })).toBeVisible();
  await expect(table.getByRole('columnheader', { name: 'Occupation' })).toHaveCount(0);

  // From one to another with the shift key, and all that are listed.
  const boxes = table.getByRole('checkbox');
  await boxes.nth(1).check();
  await boxes.nth(4).click({ modifiers: ['Shift'] });
  const bar = page.getByRole('group', { name: 'Those who are chosen' });
  await expect(bar).toContainText('4 people chosen');
  await page.getByRole('button', { name: `Choose all ${count}` }).click();
  await expect(bar).toContainText(`${count} people chosen`);
  await bar.getByRole('button', { name: 'Choose nobody' }).click();
  await expect(bar).toHaveCount(0);
});

test('an attribute is said what it holds, and two entries of one person are made one', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/kinds');
  await page.getByRole('button', { name: 'Make an attribute' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('textbox', { name: 'Name' }).fill('Boat licence');
  await dialog.getByRole('combobox', { name: 'What it holds' }).selectOption('one of some choices');
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await expect(dialog.getByText('Write what can be chosen, each on a line of its own')).toBeVisible();
  await dialog.getByRole('textbox', { name: 'What can be chosen' }).fill('inland\ncoast');
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByText('one of: inland, coast; 0 people')).toBeVisible();

  // Somebody was entered twice, the second time in a hurry.
  await page.goto('/people');
  await page.getByRole('button', { name: 'Add a person' }).click();
  await dialog.getByRole('textbox', { name: 'Name' }).fill('Jago Quilfether');
  await dialog.getByRole('textbox', { name: /^Mail address/ }).fill('jago@boats.example');
  await dialog.getByRole('button', { name: 'Add to the organisation' }).click();
  await page.getByRole('searchbox', { name: /^Find by name/ }).fill('Jago Quillf');
  await page.getByRole('link', { name: 'Jago Quillfeather' }).click();
  const addresses = page.getByRole('region', { name: 'Further addresses' });
  await addresses.getByRole('textbox', { name: 'Another address' }).fill('jago@boats.example');
  await addresses.getByRole('button', { name: 'Note it' }).click();
  await expect(addresses.getByText(/Somebody has this mail address already/)).toBeVisible();
  await page.getByRole('button', { name: 'Merge' }).click();
  await chooseName(page, 'The other entry', 'Quilfether', /^Jago Quilfether/);
  await expect(dialog.getByText('Nothing stands under it.')).toBeVisible();
  await dialog.getByRole('button', { name: 'Merge for good' }).click();
  await expect(dialog.getByText('Write “Jago Quilfether” as it stands there.')).toBeVisible();
  await dialog.getByRole('textbox', { name: 'Write “Jago Quilfether” to go on' }).fill('Jago Quilfether');
  await dialog.getByRole('button', { name: 'Merge for good' }).click();
  await expect(addresses.getByRole('listitem').filter({ hasText: 'jago@boats.example' })).toBeVisible();
  await addresses.getByRole('button', { name: 'Let mail go to jago@boats.example' }).click();
  await expect(addresses.getByRole('listitem').filter({ hasText: 'jago@thistledown.example' })).toBeVisible();
});

test('a session elsewhere is ended from the settings and signed out at its next press', async ({
  browser,
}) => {
  const { page: here } = await visit(browser, 'Maud Fenwright');
  const { page: elsewhere } = await visit(browser, 'Maud Fenwright', {
    userAgent: 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0',
  });
  await here.goto('/settings');
  const sessions = here.getByRole('list', { name: 'Sessions' });
  await expect(sessions.getByText('this one')).toHaveCount(1);
  await sessions.getByRole('button', { name: 'End the session of Firefox on Linux' }).first().click();
  await expect(here.getByText('Firefox on Linux is signed out.')).toBeVisible();
  await elsewhere.goto('/people');
  await expect(elsewhere).toHaveURL(/sign-in/);
  await here.reload();
  await expect(here.getByRole('heading', { name: 'Where you are signed in' })).toBeVisible();
});

test('a station is retired and merged, and a group is there to be called on by whoever is on a board with it', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/stations');
  await maud.getByRole('button', { name: 'Make a station' }).click();
  const dialog = maud.getByRole('dialog');
  await dialog.getByRole('textbox', { name: 'Name' }).fill('Old Slipway');
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await maud.getByRole('button', { name: 'Retire Old Slipway' }).click();
  const line = maud.locator('.ledger').getByRole('listitem').filter({ hasText: 'Old Slipway' });
  await expect(line).toContainText('retired');
  await maud.getByRole('button', { name: 'Undo' }).click();
  await expect(line).not.toContainText('retired');
  await maud.getByRole('button', { name: 'Merge Old Slipway into another' }).click();
  await dialog.getByRole('button', { name: 'Merge them' }).click();
  await expect(dialog.getByText('Choose the other station')).toBeVisible();
  await dialog.getByRole('combobox', { name: 'The one that stays' }).selectOption('Sant Elm');
  await dialog.getByRole('button', { name: 'Merge them' }).click();
  await expect(maud.getByText('Old Slipway is merged into Sant Elm.')).toBeVisible();
  await expect(line).toHaveCount(0);

  await maud.goto('/groups?q=Catalogue');
  await maud.getByRole('link', { name: 'Catalogue working party' }).click();
  const calling = maud.getByRole('checkbox', { name: /^Whoever is on a board with them/ });
  await calling.check();
  await expect(calling).toBeEnabled();
  const { page: member } = await visit(browser, 'Keola Palakiko', { viewport: { width: 390, height: 844 } });
  await member.goto('/boards');
  await member.getByRole('link', { name: 'House rules' }).first().click();
  await member.getByRole('button', { name: 'Members', exact: true }).click();
  await expect(member.getByRole('region', { name: 'Groups to call on' })).toContainText(
    'Catalogue working party',
  );
  await calling.uncheck();
});

test('what people are called in another system is brought in from a list, after a look at what fits', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/directory');
  await page.getByRole('button', { name: 'Bring in a list' }).click();
  const dialog = page.getByRole('dialog');
  const list = 'Name;Badge\nWren Ashdown;W-17\nNobody Atall;N-1\nKeola Palakiko;w-17\nSarita Thapali;S-4\n';
  await dialog
    .getByLabel('Choose a CSV or JSON file')
    .setInputFiles({ name: 'badges.csv', mimeType: 'text/csv', buffer: Buffer.from(list) });
  await dialog.getByLabel('The system is called').fill('badges');
  await dialog.getByRole('button', { name: 'See what fits' }).click();
  await expect(dialog.getByText('2 names are new, 0 are there already, 2 are left out:')).toBeVisible();
  await expect(
    dialog.getByText('Line 3, Nobody Atall, “N-1”: Nobody has this address or name.'),
  ).toBeVisible();
  await expect(
    dialog.getByText('Line 4, Keola Palakiko, “w-17”: Line 2 says that this is somebody else.'),
  ).toBeVisible();
  await dialog.getByRole('button', { name: 'Bring in 2 names' }).click();
  const badges = page.getByRole('listitem').filter({ hasText: 'badges' });
  await expect(badges.getByText('2 people known in it')).toBeVisible();
  await badges.getByRole('button', { name: 'Who lacks one' }).click();
  await expect(badges.getByRole('link').first()).toBeVisible();
  await expect(badges.getByRole('link', { name: 'Wren Ashdown' })).toHaveCount(0);
});
