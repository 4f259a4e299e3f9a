import { readFile } from 'node:fs/promises';
import { request as requests, type Page } from '@playwright/test';
import sharp from 'sharp';
import { filesIn } from '../server/zipFiles.ts';
import { expect, houseUrl, test, visit } from './people.ts';

test('a way in is made, posted through with its secret, and what came is on the board, in its log, and told to an outside system', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/gateways');
  await maud.getByRole('button', { name: 'Make a way in' }).click();
  const making = maud.getByRole('dialog');
  await making.getByRole('button', { name: 'Make it' }).click();
  await expect(making.getByText('Give it a name: which system posts here')).toBeVisible();
  await making.getByRole('textbox', { name: 'Which system posts here' }).fill('The drying rooms');
  await making.getByRole('combobox', { name: 'The board' }).selectOption('Vault alerts');
  await making.getByRole('combobox', { name: 'From whom it comes' }).selectOption('The vault desk');
  await making.getByRole('button', { name: 'Make it' }).click();
  const told = maud.getByRole('dialog', { name: 'Its secret' });
  const secret =
    (await told.getByRole('group', { name: 'The secret' }).locator('pre').textContent())?.trim() ?? '';
  expect(secret).toMatch(/^whsec_/);
  await told.getByRole('button', { name: 'I have kept it' }).click();
  await maud.waitForURL(/\/gateways\/in\/\d+$/);
  await expect(maud.getByText('What it sends goes up on Vault alerts, from The vault desk')).toBeVisible();
  const address =
    (await maud.getByRole('group', { name: 'Its address' }).locator('pre').textContent())?.trim() ?? '';
  const post = (body: unknown, token = secret): Promise<Response> =>
    fetch(address, {
      method: 'POST',
      headers: { 'content-type': 'application/json', authorization: `Bearer ${token}` },
      body: JSON.stringify(body),
    });
  expect((await post({ title: 'x', text: 'x' }, 'whsec_AAAA')).status).toBe(401);
  expect((await post({ text: 'Nothing to stand over it' })).status).toBe(422);
  const up = await post({
    id: 'fan-1',
    title: 'Drying room two: the fan has stopped',
    text: 'The air **stands**. Open the flap.',
    fields: [{ label: 'Room', value: 'Two' }],
  });
  expect(up.status).toBe(201);
  // The log follows by itself.
  const line = maud.getByRole('listitem').filter({ hasText: 'fan-1' });
  await expect(line).toContainText('taken');
  await expect(maud.getByText('title: This is missing. Give a text.')).toBeVisible();
  expect(
    ((await (await post({ id: 'fan-1', title: 'x', text: 'x' })).json()) as { repeated: boolean }).repeated,
  ).toBe(true);

  const { page: otieno } = await visit(browser, 'Otieno Barasi');
  await otieno.goto(up.headers.get('location') ?? '');
  await expect(otieno.getByRole('heading', { name: 'Drying room two: the fan has stopped' })).toBeVisible();
  await expect(otieno.getByText('The vault desk')).toBeVisible();
  // Its sender's picture stands beside the name, and is there.
  const picture = otieno.locator('p', { hasText: 'The vault desk' }).locator('img').first();
  await expect
    .poll(() => picture.evaluate((image) => (image as HTMLImageElement).naturalWidth))
    .toBeGreaterThan(0);
  await expect(otieno.getByText(/by “The drying rooms”, which Maud Fenwright looks after/)).toBeVisible();
  await expect(otieno.getByRole('row', { name: 'Room Two' })).toBeVisible();

  await maud.goto('/gateways');
  await maud.getByRole('link', { name: 'The records system' }).click();
  await expect(
    maud.getByRole('listitem').filter({ hasText: 'A post went up: Drying room two: the fan has stopped' }),
  ).toContainText('handed over');
  await maud.getByRole('button', { name: 'Send a trial' }).click();
  await expect(maud.getByRole('main').getByRole('listitem').filter({ hasText: 'A trial' })).toContainText(
    'handed over 204',
  );
});

test('an outside place is made from a template, sent to, and has what it was handed; what it may not be handed is told by name', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/gateways');
  const arrived = await maud.getByRole('link', { name: 'The outside systems' }).getAttribute('href');
  await maud.getByRole('button', { name: 'Make a way out' }).click();
  const making = maud.getByRole('dialog');
  await making.getByRole('textbox', { name: 'Which system is told' }).fill('The town bulletin');
  await making.getByRole('textbox', { name: 'At which address' }).fill(`${arrived ?? ''}events`);
  await making.getByRole('radio', { name: 'Announcements travel to it' }).check();
  const template = making.getByRole('textbox', { name: 'The body it gets, in JSON' });
  await template.fill('{"headline": "{{ heading }}"}');
  await making.getByRole('button', { name: 'See it filled in' }).click();
  await expect(making.getByText('undefined variable: heading')).toBeVisible();
  await making.getByRole('button', { name: 'Make it' }).click();
  await expect(template).toHaveAttribute('aria-invalid', 'true');
  await template.fill('{"headline": "{{ title }}", "says": "{{ text }}"}');
  await making.getByRole('button', { name: 'See it filled in' }).click();
  await expect(making.getByText('"headline": "A trial"')).toBeVisible();
  await making.getByRole('button', { name: 'Make it' }).click();
  await maud
    .getByRole('dialog', { name: 'Its secret' })
    .getByRole('button', { name: 'I have kept it' })
    .click();
  await maud.waitForURL(/\/gateways\/out\/\d+$/);
  await expect(maud.getByText('Announcements travel there; coordinators send them')).toBeVisible();
  await maud.getByRole('link', { name: 'See what arrived' }).click();
  await expect(maud.getByRole('heading', { name: 'What an outside system was told' })).toBeVisible();

  // An editor sees that they may not, and why.
  const { page: nuria } = await visit(browser, 'Núria Ferragut');
  await writeDraft(nuria, 'Not from here');
  await nuria.getByRole('button', { name: 'no way chosen yet' }).click();
  await expect(nuria.getByRole('checkbox', { name: /The town bulletin/ })).toBeDisabled();
  await expect(nuria.getByText('Only coordinators send to The town bulletin.')).toBeVisible();

  // The screens of the demo know their secret.
  await writeDraft(maud, 'The north gate is shut');
  await maud.getByRole('button', { name: 'no way chosen yet' }).click();
  await maud.getByRole('checkbox', { name: 'The screens at the gates' }).check();
  await maud.getByRole('button', { name: 'Done' }).click();
  await maud.getByRole('button', { name: 'Send to 1 outside place …' }).click();
  const last = maud.getByRole('dialog');
  await expect(last.getByText('what is handed over there cannot be fetched back')).toBeVisible();
  await last.getByRole('button', { name: 'Send to 1 outside place' }).click();
  await maud.waitForURL(/\/sends\/\d+$/);
  const place = maud.getByRole('listitem').filter({ hasText: 'The screens at the gates' });
  await expect(place).toContainText('it has it', { timeout: 30_000 });
  const came = (await (await fetch(`${arrived ?? ''}came`)).json()) as { proof: string; body: string }[];
  const ours = came.find((each) => each.body.includes('The north gate is shut'));
  expect(ours?.proof).toBe('good');
  await place.getByRole('link').click();
  await maud.getByRole('button', { name: 'An announcement went there: The north gate is shut' }).click();
  await expect(maud.getByText('"headline": "The north gate is shut"')).toBeVisible();
});

/** Begins a draft with a title and a line. */
async function writeDraft(page: Page, title: string): Promise<void> {
  await page.goto('/write');
  await page.getByRole('button', { name: 'New announcement' }).click();
  await page.waitForURL(/\/write\/\d+$/);
  await page.getByRole('textbox', { name: 'Title' }).fill(title);
  await page.getByRole('textbox', { name: 'Text' }).fill('Use the south gate.');
}

test('a record sheet follows an outside service, and is as it is there', async ({ browser }) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/gateways');
  const service = (await maud.getByRole('link', { name: 'The records service' }).getAttribute('href')) ?? '';
  await maud.goto('/sheets');
  await maud.getByRole('link', { name: 'Consignments' }).click();
  await expect(maud.getByText('4 records come from there.')).toBeVisible();
  await expect(maud.getByRole('row', { name: /C-1042 Cinder Bay Sant Elm on the way/ })).toBeVisible();
  // Changed by hand at the service, through its own page.
  const there = await maud.context().newPage();
  await there.goto(service);
  const row = there.getByRole('row').filter({ hasText: 'C-1042' });
  await row.getByLabel('state').fill('arrived');
  await row.getByRole('button', { name: 'Change' }).click();
  await maud.getByRole('button', { name: 'Read it now' }).click();
  await expect(maud.getByRole('row', { name: /C-1042 Cinder Bay Sant Elm arrived/ })).toBeVisible();
  await maud
    .getByRole('row', { name: /C-1042/ })
    .getByRole('button', { name: 'Open' })
    .click();
  const record = maud.getByRole('dialog');
  await record.getByRole('textbox', { name: /Notes/ }).fill('Signed for by Ines');
  await record.getByRole('button', { name: 'Change it' }).click();
  await expect(maud.getByRole('row', { name: /C-1042 .* Signed for by Ines/ })).toBeVisible();
  // Another sheet is made and begins to follow it, its columns guessed by their names.
  await maud.goto('/sheets');
  await maud.getByRole('button', { name: 'Make a sheet' }).click();
  const making = maud.getByRole('dialog');
  await making.getByRole('textbox', { name: 'Name', exact: true }).first().fill('Parcels');
  await making.getByRole('textbox', { name: 'Name', exact: true }).last().fill('State');
  await making.getByRole('button', { name: 'Make it' }).click();
  await maud.waitForURL(/\/sheets\/\d+$/);
  await maud.getByRole('button', { name: 'More', exact: true }).click();
  await maud.getByRole('menuitem', { name: 'Follow a source' }).click();
  const follow = maud.getByRole('dialog');
  await follow.getByLabel('Its address, which answers in JSON').fill(`${service}tables/nowhere`);
  await follow.getByRole('button', { name: 'Look at it' }).click();
  await expect(follow.getByText('It answers something that is no JSON.')).toBeVisible();
  await follow.getByLabel('Its address, which answers in JSON').fill(`${service}tables/consignments`);
  await follow.getByRole('button', { name: 'Look at it' }).click();
  await expect(follow.getByRole('combobox', { name: 'State' })).toHaveValue('/state');
  await follow.getByRole('button', { name: 'Follow it' }).click();
  await expect(maud.getByText('4 records come from there.')).toBeVisible();
  await there.close();
});

test('a sender is made with a picture, changed, and deleted where nothing speaks under it', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/gateways');
  await maud.getByRole('button', { name: 'Make a sender' }).click();
  const dialog = maud.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await expect(dialog.getByText('Give the sender a name')).toBeVisible();
  await dialog.getByRole('textbox', { name: /^Its name/ }).fill('The kettle desk');
  const png = await sharp({ create: { width: 60, height: 60, channels: 3, background: '#204060' } })
    .png()
    .toBuffer();
  await dialog
    .getByLabel('Add a picture')
    .setInputFiles({ name: 'kettle.png', mimeType: 'image/png', buffer: png });
  await expect(dialog.getByRole('button', { name: 'Take it out' })).toBeVisible();
  await dialog.getByRole('button', { name: 'Make it' }).click();
  const line = maud
    .getByRole('region', { name: 'Senders' })
    .getByRole('listitem')
    .filter({ hasText: 'The kettle desk' });
  await expect(line).toContainText('Nothing speaks under it.');
  await expect
    .poll(() => line.locator('img').evaluate((image) => (image as HTMLImageElement).naturalWidth))
    .toBeGreaterThan(0);
  await line.getByRole('button', { name: 'Change The kettle desk' }).click();
  await dialog.getByRole('textbox', { name: /^Its name/ }).fill('The vault desk');
  await dialog.getByRole('button', { name: 'Change it' }).click();
  await expect(dialog.getByText('There is a sender of this name already.').first()).toBeVisible();
  await dialog.getByRole('button', { name: 'Leave it' }).click();
  await line.getByRole('button', { name: 'Delete The kettle desk' }).click();
  await dialog.getByRole('button', { name: 'Delete it' }).click();
  await expect(line).toHaveCount(0);
});

test('what was sent, and what stands on a board, is taken out as mail', async ({ browser }) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/sends/1');
  const [mail] = await Promise.all([
    maud.waitForEvent('download'),
    maud.getByRole('link', { name: 'as mail' }).click(),
  ]);
  expect(await readFile(await mail.path(), 'latin1')).toMatch(/^From: .*desk@/m);
  await maud.goto('/boards/1/files');
  const [folder] = await Promise.all([
    maud.waitForEvent('download'),
    maud.getByRole('link', { name: 'as mail' }).click(),
  ]);
  const names = [...(await filesIn(await readFile(await folder.path()))).keys()];
  expect(names.length).toBeGreaterThan(3);
  expect(names.filter((name) => !name.endsWith('.eml'))).toEqual([]);
});

test('a moderator makes ways in to their own board, and sees no others', async ({ browser }) => {
  const { page: otieno } = await visit(browser, 'Otieno Barasi');
  await otieno.goto('/gateways');
  await expect(otieno.getByRole('link', { name: 'The vault monitor' })).toBeVisible();
  await expect(otieno.getByRole('link', { name: 'The courier' })).toHaveCount(0);
  await expect(otieno.getByRole('heading', { name: 'Ways out' })).toHaveCount(0);
  await otieno.getByRole('button', { name: 'Make a way in' }).click();
  await expect(otieno.getByRole('radio', { name: 'It reaches a group' })).toHaveCount(0);
  const { page: wren } = await visit(browser, 'Wren Ashdown');
  await wren.goto('/gateways');
  await expect(wren).toHaveURL(/\/for-me$/);
});

test('a token is made for a program, which then posts and sends with it, and is refused once it is revoked', async ({
  browser,
}) => {
  const request = await requests.newContext({ baseURL: houseUrl() });
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/gateways');
  await page.getByRole('button', { name: 'Make a token' }).click();
  const making = page.getByRole('dialog');
  await making.getByRole('button', { name: 'Make it' }).click();
  await expect(making.getByText('Say which program it is for')).toBeVisible();
  await expect(making.getByText('Choose at least one thing it may do')).toBeVisible();
  await making.getByLabel('Which program it is for').fill('The wall display');
  await making.getByRole('checkbox', { name: /post and reply/ }).check();
  await making.getByRole('checkbox', { name: /read boards/ }).check();
  await making.getByRole('button', { name: 'Make it' }).click();
  const told = page.getByRole('dialog', { name: 'The token' });
  const token = (await told.locator('pre').textContent())?.trim() ?? '';
  await told.getByRole('button', { name: 'I have kept it' }).click();
  const line = page.getByRole('listitem').filter({ hasText: 'The wall display' });
  await expect(line).toContainText('boards:read, boards:write');

  const headers = { authorization: `Bearer ${token}` };
  const boards = (await (await request.get('/api/v1/boards', { headers })).json()) as {
    items: { id: number; name: string; mayPost: boolean }[];
  };
  const board = boards.items.find((each) => each.name === 'Vault alerts' && each.mayPost);
  const posted = await request.post(`/api/v1/boards/${board?.id}/posts`, {
    headers: { ...headers, 'idempotency-key': 'posted-by-a-program' },
    data: { title: 'Room three is dry', text: 'At **40 %**.' },
  });
  expect(posted.status()).toBe(201);
  // What its scopes do not say it may not, and a cookie in its place counts for nothing.
  expect((await request.get('/api/v1/people', { headers })).status()).toBe(403);
  const status = await page.evaluate(() => fetch('/api/v1/token').then((response) => response.status));
  expect(status).toBe(401);
  await page.goto(`/boards/${board?.id}`);
  await expect(page.getByRole('heading', { name: 'Room three is dry' })).toBeVisible();

  await page.goto('/gateways');
  await expect(line).toContainText('Last used today');
  await line.getByRole('button', { name: 'Revoke The wall display' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Revoke it' }).click();
  await expect(line).toHaveCount(0);
  expect((await request.get('/api/v1/token', { headers })).status()).toBe(401);

  // What programs can do is described for whoever has no account yet.
  const stranger = await (await browser.newContext({ baseURL: houseUrl() })).newPage();
  await stranger.goto('/developers');
  await expect(stranger.getByRole('heading', { name: 'Post on a board', exact: true })).toBeVisible();
  const described = await request.get('/api/v1/openapi.json');
  expect(((await described.json()) as { openapi: string }).openapi).toBe('3.1.0');
});

test('what stands on one’s boards is followed by a feed reader', async ({ browser }) => {
  const request = await requests.newContext({ baseURL: houseUrl() });
  const { page } = await visit(browser, 'Wren Ashdown');
  await page.goto('/settings');
  await page.getByRole('button', { name: 'Make new addresses of feeds' }).click();
  const address = page.getByRole('group', { name: 'The address of Catalogue working party' }).locator('pre');
  const atom = new URL((await address.textContent())?.trim() ?? '').pathname;
  const read = await request.get(atom);
  expect(read.headers()['content-type']).toContain('application/atom+xml');
  expect(await read.text()).toContain('<title type="text">');
  const again = await request.get(atom, { headers: { 'if-none-match': read.headers().etag ?? '' } });
  expect(again.status()).toBe(304);
  await page.getByRole('combobox', { name: 'As', exact: true }).selectOption('JSON Feed');
  await expect(address).toContainText('.json');
});
