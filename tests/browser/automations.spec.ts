import { chooseName } from './fields.ts';
import { expect, test, visit } from './people.ts';

test('a welcome is written as a sentence, tried, put to work, and greets whoever comes into the group', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/automations');
  await maud.getByRole('button', { name: 'Make an automation' }).click();
  const making = maud.getByRole('dialog');
  await making.getByRole('textbox', { name: 'Name' }).fill('Welcome to the first aiders');
  await making.getByRole('radio', { name: 'Somebody comes into a group' }).check();
  await making.getByRole('combobox', { name: 'The group' }).selectOption('First aiders');
  await making.getByRole('button', { name: 'Write it' }).click();
  await maud.waitForURL(/\/automations\/\d+$/);
  await maud.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  const sentence = maud.getByRole('region', { name: 'The automation in a sentence' });
  await expect(sentence).toContainText('When somebody comes into First aiders');
  // Before anything is written it says what it lacks, and is refused.
  await expect(sentence).toContainText('It has no title');
  await maud.getByRole('textbox', { name: 'Title' }).fill('Welcome, ');
  await maud.getByRole('combobox', { name: 'Put a field into the title' }).selectOption('their first name');
  await maud.getByRole('textbox', { name: 'Text', exact: true }).fill('The red bag hangs by the door.');
  await sentence.getByRole('button', { name: /^Whom it comes from/ }).click();
  const from = sentence.getByRole('group', { name: 'Whom it comes from' });
  await from.getByRole('textbox').fill('The aid desk');
  await from.getByRole('button', { name: 'Make it' }).click();
  await from.getByRole('button', { name: 'Done' }).click();
  await expect(sentence).toContainText('from The aid desk, saying “Welcome, {their first name}”');

  const bench = maud.getByRole('region', { name: 'The bench' });
  await chooseName(maud, 'Try it on somebody', 'Otieno', /^Otieno Barasi/);
  await bench.getByRole('button', { name: 'Try it' }).click();
  await expect(bench.getByRole('heading', { name: 'Welcome, Otieno' })).toBeVisible();
  await expect(bench).toContainText('from The aid desk');
  await maud.getByRole('button', { name: 'Run it over the past' }).click();
  await expect(maud.getByRole('region', { name: 'Replay' })).toContainText('It really said 0');
  await maud.getByRole('button', { name: 'Put it to work' }).click();
  await expect(maud.getByText('at work', { exact: true })).toBeVisible();

  // Whoever was in the group before is not greeted; whoever comes is.
  await maud.goto('/groups');
  await maud.getByRole('link', { name: 'First aiders' }).click();
  await maud.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  // What is further down comes as one gets there.
  await maud.getByRole('heading', { name: 'Put people in' }).scrollIntoViewIfNeeded();
  await chooseName(maud, 'By name', 'Wren', /^Wren Ashdown/);
  const { page: wren } = await visit(browser, 'Wren Ashdown');
  await wren.goto('/for-me');
  await wren.getByRole('link', { name: 'Welcome, Wren' }).click();
  await expect(wren.getByText('The red bag hangs by the door.')).toBeVisible();
  await expect(
    wren.getByText(/by the automation “Welcome to the first aiders”, which Maud Fenwright looks after/),
  ).toBeVisible();
});

test('a complete record reaches the one its handle names; where nobody is found the directory is told, and it is run again', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  const { page: nuria } = await visit(browser, 'Núria Ferragut');
  const add = async (accession: string, curator: string): Promise<void> => {
    await maud.goto('/sheets');
    await maud.getByRole('link', { name: 'Seed loans requested' }).click();
    await maud.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
    await maud.getByRole('button', { name: 'Add a record' }).click();
    const record = maud.getByRole('dialog');
    await record.getByRole('textbox', { name: /^Accession/ }).fill(accession);
    await record.getByRole('textbox', { name: /^Grams/ }).fill('a handful');
    await record.getByRole('textbox', { name: /^For/ }).fill('Isle Herbarium');
    await record.getByRole('textbox', { name: /^Curator/ }).fill(curator);
    await record.getByRole('button', { name: 'Add it' }).click();
    await expect(record.getByText(/“a handful” is no number/)).toBeVisible();
    await record.getByRole('textbox', { name: /^Grams/ }).fill('12,5 g');
    await record.getByRole('button', { name: 'Add it' }).click();
    await expect(maud.getByRole('gridcell', { name: accession })).toBeVisible();
  };
  await add('Red fescue 0801', '@K.Ferragut');
  await nuria.goto('/for-me');
  await nuria.getByRole('link', { name: 'Red fescue 0801: a loan to decide on' }).click();
  await expect(nuria.getByText('12.5 g of Red fescue 0801 are asked for by Isle Herbarium.')).toBeVisible();

  // Of one whom nobody is, the coordinators are told instead.
  await add('Sea pea 0044', 'n.new');
  await maud.goto('/for-me');
  await expect(maud.getByRole('link', { name: 'Sea pea 0044: a loan to decide on' })).toBeVisible();
  await maud.goto('/directory');
  const line = maud.getByRole('listitem').filter({ hasText: 'n.new' });
  await line.getByRole('button', { name: 'Say who that is' }).click();
  await chooseName(maud, 'Who is that?', 'Otieno', /^Otieno Barasi/);
  await expect(line.getByText('That is Otieno Barasi.')).toBeVisible();
  await maud.goto('/automations/runs');
  await expect(
    maud.getByRole('listitem').filter({ hasText: 'A loan request is complete' }).first(),
  ).toContainText('said');
});

test('a form is filled in on a phone, once however often it is pressed, and tells those who pack', async ({
  browser,
}, { retry }) => {
  const needed = retry === 0 ? 'Two ropes' : `Two ropes, asked for ${retry + 1} times`;
  const { page: wren } = await visit(browser, 'Wren Ashdown', { viewport: { width: 390, height: 844 } });
  await wren.goto('/forms/fieldkitfieldkitfield1');
  await wren.getByRole('button', { name: 'Send it' }).click();
  await expect(wren.getByText('Station is needed.').first()).toBeVisible();
  await wren.getByRole('textbox', { name: 'Station' }).fill('Marrow Fen');
  await wren.getByRole('textbox', { name: 'What is needed' }).fill(needed);
  await wren.getByRole('button', { name: 'Send it' }).dblclick();
  await expect(wren.getByText('The field desk has it and packs it.')).toBeVisible();
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  // The first of them is the run of just now, once there is one.
  const run = maud.getByRole('listitem').filter({ hasText: 'Field kit asked for' }).first();
  const told = run.getByRole('link', { name: 'Marrow Fen' });
  await expect(async () => {
    await maud.goto('/automations/runs');
    await run.getByRole('button').click();
    await expect(told).toBeVisible({ timeout: 2_000 });
  }).toPass();
  await expect(run).toContainText('1 message');
  await told.click();
  await expect(maud.getByRole('heading', { name: 'Pack for Marrow Fen' })).toBeVisible();
  await maud.goto('/sheets');
  await maud.getByRole('link', { name: 'Field kit asked for' }).click();
  await expect(maud.getByRole('gridcell', { name: needed, exact: true })).toHaveCount(1);
});

test('a reminder before a session begins from its template, and is tried on the next date', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/automations');
  await maud.getByRole('button', { name: 'Make an automation' }).click();
  const making = maud.getByRole('dialog');
  await making.getByRole('textbox', { name: 'Name' }).fill('Before the harvest day');
  await making.getByRole('combobox', { name: 'It begins as' }).selectOption('before a session');
  await making.getByRole('combobox', { name: 'Which session' }).selectOption('Harvest day');
  await making.getByRole('button', { name: 'Write it' }).click();
  await maud.waitForURL(/\/automations\/\d+$/);
  await maud.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  const sentence = maud.getByRole('region', { name: 'The automation in a sentence' });
  await expect(sentence).toContainText('When it is 20 minutes before “Harvest day” begins');
  await sentence.getByRole('button', { name: /^Who is told/ }).click();
  const told = sentence.getByRole('group', { name: 'Who is told' });
  await told.getByRole('combobox', { name: 'Which of them' }).selectOption('those who come');
  await told.getByRole('button', { name: 'Done' }).click();
  await expect(sentence).toContainText('tell those who come by inbox and mail');
  const bench = maud.getByRole('region', { name: 'The bench' });
  await bench.getByRole('button', { name: 'Try it' }).click();
  await expect(bench.getByRole('heading', { name: 'In twenty minutes: Harvest day' })).toBeVisible();
  await maud.getByRole('button', { name: 'Put it to work' }).click();
  await expect(maud.getByText('at work', { exact: true })).toBeVisible();
});

test('an automation begins from a template that asks only for what differs, is taken out, and brought in as another', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/automations');
  await maud.getByRole('button', { name: 'Make an automation' }).click();
  const making = maud.getByRole('dialog');
  await making.getByRole('textbox', { name: 'Name' }).fill('Vaults past their limit');
  await making
    .getByRole('combobox', { name: 'It begins as' })
    .selectOption('Post a table of those past a limit, and nothing where there are none');
  await making.getByRole('combobox', { name: 'Which record sheet' }).selectOption('Vault readings');
  await making.getByRole('combobox', { name: 'On which board' }).selectOption('Vault alerts');
  await making.getByRole('button', { name: 'Write it' }).click();
  await maud.waitForURL(/\/automations\/\d+$/);
  const sentence = maud.getByRole('region', { name: 'The automation in a sentence' });
  await expect(sentence).toContainText('Humidity is over nine tenths of');
  await expect(sentence).toContainText('on the board Vault alerts');
  await expect(maud.getByRole('button', { name: 'Put it to work' })).toBeEnabled();

  const [file] = await Promise.all([
    maud.waitForEvent('download'),
    maud.getByRole('button', { name: 'Take out' }).click(),
  ]);
  await maud.goto('/automations');
  await maud.getByRole('button', { name: 'Make an automation' }).click();
  await making
    .getByRole('combobox', { name: 'It begins as' })
    .selectOption('one that was taken out, from a file');
  await making.getByLabel('The file').setInputFiles({
    name: 'other.json',
    mimeType: 'application/json',
    buffer: Buffer.from('{"format":"other"}'),
  });
  await making.getByRole('button', { name: 'Write it' }).click();
  await expect(making.getByText('It is no automation that was taken out of Clear Bell')).toBeVisible();
  await making.getByRole('textbox', { name: 'Name' }).fill('Brought in');
  await making.getByLabel('The file').setInputFiles(await file.path());
  await making.getByRole('button', { name: 'Write it' }).click();
  await maud.waitForURL(/\/automations\/\d+$/);
  await expect(maud.getByRole('textbox', { name: 'Name' })).toHaveValue('Brought in');
  await expect(sentence).toContainText('Humidity is over nine tenths of');
});

test('what was put to work is held against the version before, word by word, and written again as it was', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/automations');
  await maud.getByRole('link', { name: 'Humidity near its limit' }).click();
  await maud.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  const title = maud.getByRole('textbox', { name: 'Title' });
  const before = await title.inputValue();
  await title.fill(`${before}, all of you`);
  await maud.getByRole('button', { name: 'Put the change to work' }).click();
  await expect(maud.getByText(/It is at work, by version \d+\./)).toBeVisible();
  const versions = maud.getByRole('region', { name: 'Versions' });
  await versions.getByRole('button', { name: `“${before}, all of you”` }).click();
  await expect(versions.getByText(', all of you', { exact: true }).first()).toBeVisible();
  await expect(versions.locator('ins').first()).toContainText('all of you');
  await expect(versions.getByText('What is written now is the same.')).toBeVisible();
  await versions
    .getByRole('button', { name: `“${before}”`, exact: true })
    .first()
    .click();
  await expect(
    versions.getByRole('heading', { name: 'What changed from then to what is written now' }),
  ).toBeVisible();
  await versions.getByRole('button', { name: 'Write it as it was then' }).click();
  await maud.getByRole('dialog').getByRole('button', { name: 'Write it so' }).click();
  await expect(title).toHaveValue(before);
  // What runs is what was put to work, until this is.
  await expect(maud.getByText('What is written differs from what is at work.')).toBeVisible();
  await maud.getByRole('button', { name: 'Put the change to work' }).click();
  await expect(maud.getByText('What is written differs from what is at work.')).toHaveCount(0);
});
