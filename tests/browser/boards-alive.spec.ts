import type { BrowserContext, Page } from '@playwright/test';
import { devicesUrl, expect, houseUrl, test, visit } from './people.ts';
import { fillDate, chooseName } from './fields.ts';

const idOf = (page: Page): number => Number(/\d+$/.exec(new URL(page.url()).pathname)?.[0]);
let keys = 0;
/** Writes a post straight to a board of the demo. */
async function post(context: BrowserContext, board: number, title: string): Promise<number> {
  const response = await context.request.post(`/api/boards/${board}/posts`, {
    data: {
      title,
      document: {
        type: 'doc',
        content: [{ type: 'paragraph', content: [{ type: 'text', text: 'As the title says.' }] }],
      },
    },
    headers: { origin: houseUrl(), 'idempotency-key': `alive-${++keys}-${title.length}` },
  });
  return ((await response.json()) as { id: number }).id;
}
async function openBoard(page: Page, name: string): Promise<number> {
  await page.goto('/boards');
  await page.getByRole('listitem').getByRole('link', { name, exact: true }).last().click();
  await expect(page.getByRole('heading', { level: 1, name })).toBeVisible();
  return idOf(page);
}

test('a coordinator changes a switch, and the page of a member follows without a reload', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  const { page: wren, context } = await visit(browser, 'Wren Ashdown');
  const board = await openBoard(wren, 'Marrow Fen');
  const id = await post(context, board, 'Who has the ladder');
  await wren.goto(`/posts/${id}`);
  await expect(wren.getByRole('button', { name: 'Reply' })).toBeVisible();
  await wren.getByRole('textbox', { name: 'Your reply' }).click();
  await wren.keyboard.type('I am still writing this.');

  await maud.goto(`/boards/${board}/settings`);
  await maud.getByRole('combobox', { name: 'Who replies' }).selectOption('nobody');
  await expect(maud.getByText('Saved; everybody here sees it at once.')).toBeVisible();
  await expect(wren.getByText('Posts on Marrow Fen take no replies.')).toBeVisible();
  // Who is writing keeps what was written, and cannot send it.
  await expect(wren.getByRole('button', { name: 'Reply' })).toBeDisabled();
  await expect(wren.getByText('What you wrote is kept here.')).toBeVisible();
  await maud.getByRole('combobox', { name: 'Who replies' }).selectOption('everyone here');
  await expect(wren.getByRole('button', { name: 'Reply' })).toBeEnabled();
  await expect(wren.getByRole('textbox', { name: 'Your reply' })).toHaveText('I am still writing this.');
  await wren.getByRole('button', { name: 'Reply' }).click();
  await expect(wren.getByRole('article', { name: 'Reply by Wren Ashdown' })).toContainText(
    'I am still writing this.',
  );

  // Members may look at the settings, and not change them.
  await wren.goto(`/boards/${board}/settings`);
  await expect(wren.getByText(/Only those who moderate Marrow Fen change its settings/)).toBeVisible();
  await expect(wren.getByRole('combobox', { name: 'Who replies' })).toBeDisabled();
});

test('a held post goes from its author to the moderators and up, each seeing it happen', async ({
  browser,
}) => {
  const { page: wren } = await visit(browser, 'Wren Ashdown');
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await openBoard(wren, 'Catalogue working party');
  await openBoard(maud, 'Catalogue working party');
  await wren.getByRole('button', { name: 'Write on Catalogue working party' }).click();
  await expect(wren.getByText(/waits until somebody who moderates Catalogue working party/)).toBeVisible();
  await wren.getByRole('textbox', { name: 'Title' }).fill('Drawer nine is empty');
  await wren.getByRole('textbox', { name: 'Text' }).click();
  await wren.keyboard.type('All of it. I have asked around.');
  await wren.getByRole('button', { name: 'Hand it to the moderators' }).click();
  await expect(wren.getByText('It waits until a moderator has looked. You will be told.')).toBeVisible();
  await expect(
    wren
      .getByRole('region', { name: 'Yours, not up' })
      .getByRole('article', { name: 'Drawer nine is empty' }),
  ).toBeVisible();

  const held = maud.getByRole('article', { name: 'Held: Drawer nine is empty' });
  await expect(held).toBeVisible();
  const row = maud.getByRole('listitem').filter({ has: held });
  await row.getByRole('button', { name: 'Give it back with a word' }).click();
  await maud.getByRole('dialog').getByRole('button', { name: 'Give it back' }).click();
  await expect(maud.getByText('Say why, in a few words.')).toBeVisible();
  await maud.getByRole('dialog').getByRole('textbox').fill('Whom did you ask?');
  await maud.getByRole('dialog').getByRole('button', { name: 'Give it back' }).click();
  await expect(wren.getByText('Whom did you ask?')).toBeVisible();

  await wren.getByRole('link', { name: 'Drawer nine is empty' }).click();
  await wren.getByRole('button', { name: 'Change' }).click();
  await wren.getByRole('textbox', { name: 'Title' }).fill('Drawer nine is empty, says Jago too');
  await wren.getByRole('button', { name: 'Save the change' }).click();
  await expect(wren.getByText('Waits until a moderator has looked.')).toBeVisible();

  const again = maud.getByRole('listitem').filter({
    has: maud.getByRole('article', { name: 'Held: Drawer nine is empty, says Jago too' }),
  });
  await again.getByRole('button', { name: 'Let it go up' }).click();
  await expect(
    maud.getByRole('article', { name: 'Drawer nine is empty, says Jago too', exact: true }),
  ).toBeVisible();
  // Its author, who is looking at it, sees it go up, and finds it among what they were told.
  await expect(wren.getByText('Waits until a moderator has looked.')).toHaveCount(0);
  await wren.goto('/for-me/notices');
  await expect(
    wren.getByRole('link', { name: 'Drawer nine is empty, says Jago too: went up' }),
  ).toBeVisible();
});

test('talking: a reply with a name in it, a reaction, a report, hidden with a reason, and edited', async ({
  browser,
}) => {
  const { page: keola, context } = await visit(browser, 'Keola Palakiko');
  const { page: kailani } = await visit(browser, 'Kailani Mahoe-Lani');
  const board = await openBoard(keola, 'Cinder Bay');
  const id = await post(context, board, 'The boat is back');
  await kailani.goto(`/posts/${id}`);
  await keola.goto(`/posts/${id}`);
  await keola.getByRole('textbox', { name: 'Your reply' }).click();
  await keola.keyboard.type('Ask ');
  await keola.getByRole('button', { name: 'Mention' }).click();
  await chooseName(keola, 'Whom to call on', 'Kailani', /Kailani Mahoe-Lani/);
  await keola.keyboard.type(', she has the key.');
  await keola.getByRole('button', { name: 'Reply', exact: true }).click();
  const reply = kailani.getByRole('article', { name: 'Reply by Keola Palakiko' });
  await expect(reply).toContainText('Ask Kailani Mahoe-Lani, she has the key.');
  await expect(keola.getByRole('heading', { name: '1 reply' })).toBeVisible();

  await kailani
    .getByRole('article', { name: 'The boat is back' })
    .getByRole('button', { name: 'React' })
    .click();
  await kailani.getByRole('button', { name: 'Glad of it' }).click();
  await expect(keola.getByRole('button', { name: 'Glad of it: 1' })).toBeVisible();

  await reply.getByRole('button', { name: 'Hide' }).click();
  await kailani.getByRole('dialog').getByRole('textbox').fill('I do not have it any more.');
  await kailani.getByRole('dialog').getByRole('button', { name: 'Hide it' }).click();
  await expect(keola.getByText('I do not have it any more.')).toBeVisible();
  await kailani.getByRole('button', { name: 'Show again' }).click();
  await keola
    .getByRole('article', { name: 'Reply by Keola Palakiko' })
    .getByRole('button', { name: 'Change' })
    .click();
  await keola.getByRole('textbox', { name: 'The reply' }).click();
  await keola.keyboard.press('Control+a');
  await keola.keyboard.type('Ask in the office.');
  await keola.getByRole('button', { name: 'Save the change' }).click();
  await expect(reply).toContainText('Ask in the office.');
  await expect(reply).toContainText('edited');
  await reply.getByRole('button', { name: 'Earlier texts' }).click();
  await expect(kailani.getByRole('dialog')).toContainText('she has the key');
  await kailani.getByRole('dialog').getByRole('button', { name: 'Close' }).click();

  await kailani.getByRole('button', { name: 'Close replies' }).click();
  await expect(keola.getByText('Replies to this post are closed.')).toBeVisible();
  // The name called on was told, and the press on it leads to the post.
  await kailani.goto('/for-me/notices');
  await kailani.getByRole('link', { name: 'Re: The boat is back' }).first().click();
  await expect(kailani.getByRole('heading', { level: 1, name: 'The boat is back' })).toBeVisible();
});

test('on a board for everybody a post says first how many it reaches; the pins say what they replace', async ({
  browser,
}) => {
  const { page: wren, context } = await visit(browser, 'Wren Ashdown');
  const board = await openBoard(wren, 'Thanks');
  await wren.getByRole('button', { name: 'Write on Thanks' }).click();
  await wren.getByRole('textbox', { name: 'Title' }).fill('Thank you, all of you');
  await wren.getByRole('textbox', { name: 'Text' }).click();
  await wren.keyboard.type('For the year.');
  await wren.getByRole('button', { name: 'Post on Thanks' }).click();
  const question = wren.getByRole('dialog');
  await expect(question.getByRole('heading', { name: /^This reaches 2\d\d people$/ })).toBeVisible();
  await expect(question).toContainText('everybody');
  await question.getByRole('button', { name: /^Post to 2\d\d people$/ }).click();
  await expect(wren.getByRole('article', { name: 'Thank you, all of you' })).toBeVisible();

  const { page: otieno } = await visit(browser, 'Otieno Barasi');
  await otieno.goto(`/boards/${board}/settings`);
  await otieno.getByRole('spinbutton', { name: 'Posts pinned at once, at most' }).fill('1');
  await otieno.getByRole('button', { name: 'Save' }).nth(2).click();
  await expect(otieno.getByText('Saved; everybody here sees it at once.')).toBeVisible();
  const second = await post(context, board, 'And thank you again');
  await otieno.goto(`/boards/${board}`);
  await otieno.getByRole('button', { name: 'Pin Thank you, all of you' }).click();
  await fillDate(otieno.getByRole('dialog'), /^Last day it is pinned/, '2099-12-24');
  await otieno.getByRole('dialog').getByRole('button', { name: 'Pin it' }).click();
  await expect(otieno.getByText(/until 24 December 2099/)).toHaveCount(2);
  await otieno.goto(`/posts/${second}`);
  await otieno.getByRole('button', { name: 'Pin', exact: true }).click();
  await otieno.getByRole('dialog').getByRole('button', { name: 'Pin it' }).click();
  await expect(otieno.getByText('1 posts are pinned here already')).toBeVisible();
  await otieno.getByRole('radio', { name: 'Thank you, all of you' }).check();
  await otieno.getByRole('button', { name: 'Pin it in place of “Thank you, all of you”' }).click();
  await expect(otieno.getByRole('button', { name: 'Unpin' })).toBeVisible();
});

test('somebody is thanked with a ribbon, is told, and has it on their page', async ({ browser }) => {
  const { page: sarita } = await visit(browser, 'Sarita Thapali');
  await sarita.goto('/thanks/give');
  await sarita.getByText('Open door').click();
  await chooseName(sarita, 'Whom you thank', 'Keola', /Keola Palakiko/);
  await sarita.getByRole('textbox', { name: 'What for, in a sentence' }).fill('For the couch, in the rain.');
  await expect(sarita.getByRole('region', { name: 'How it will stand' })).toContainText(
    'To Keola Palakiko, from Sarita Thapali',
  );
  await sarita.getByRole('button', { name: 'Thank Keola Palakiko on Thanks' }).click();
  await expect(sarita.getByRole('heading', { name: 'Open door: thank you, Keola Palakiko' })).toBeVisible();

  const { page: keola } = await visit(browser, 'Keola Palakiko');
  await keola.goto('/');
  await expect(
    keola
      .getByRole('region', { name: 'Told to you' })
      .getByRole('link', { name: 'You were thanked: Open door' }),
  ).toBeVisible();
  await sarita.getByRole('link', { name: 'Keola Palakiko' }).first().click();
  await expect(sarita.getByRole('heading', { name: 'Ribbons' })).toBeVisible();
  await expect(sarita.getByRole('img', { name: 'Ribbon: Open door' }).first()).toBeVisible();

  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/thanks');
  await maud.getByRole('button', { name: /^Gather the thanks of/ }).click();
  await maud.waitForURL(/\/write\/\d+$/);
  await expect(maud.getByText('For the couch, in the rain.').first()).toBeVisible();
});

test('a member asks the shelf, the coordinator answers, and it is there for all with one press', async ({
  browser,
}) => {
  const { page: keola } = await visit(browser, 'Keola Palakiko');
  await keola.goto('/');
  await keola.getByRole('link', { name: 'Shelf' }).click();
  // The guided way: choose, narrow, arrive.
  await keola.getByRole('button', { name: /^Vaults/ }).click();
  await keola.getByRole('button', { name: /^Keys/ }).click();
  await expect(keola.getByRole('link', { name: 'Who may hold a vault key?' })).toBeVisible();
  const field = keola.getByRole('searchbox', { name: 'What do you want to know?' });
  await field.fill('lost key');
  await keola.getByRole('button', { name: 'This helped: I have lost my vault key. What now?' }).click();
  await expect(keola.getByText('Good. That helps others to find it too.')).toBeVisible();
  await field.fill('May I bring my own tent?');
  await keola.getByRole('button', { name: 'Ask the coordinators' }).click();
  await expect(keola.getByText('Your question is with the coordinators.')).toBeVisible();

  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/shelf/desk');
  const row = maud.getByRole('listitem').filter({ hasText: 'May I bring my own tent?' }).first();
  await row.getByRole('button', { name: 'Answer it' }).click();
  await maud.getByRole('textbox', { name: 'The answer' }).click();
  await maud.keyboard.type('Yes, on the lower meadow.');
  await maud.getByRole('checkbox', { name: /^On the shelf for all/ }).uncheck();
  await maud.getByRole('button', { name: 'Send the answer' }).click();
  await expect(maud.getByText('Choose a subject')).toBeVisible();
  await maud.getByRole('combobox', { name: 'Subject' }).selectOption({ label: 'Being here' });
  await maud.getByRole('button', { name: 'Send the answer' }).click();
  await expect(maud.getByText('Keola Palakiko has been told.')).toBeVisible();

  await keola.goto('/for-me');
  await keola
    .getByRole('region', { name: 'Told to you' })
    .getByRole('link', { name: 'Your question is answered' })
    .click();
  await expect(keola.getByText('Yes, on the lower meadow.')).toBeVisible();
  const { page: wren } = await visit(browser, 'Wren Ashdown');
  expect((await wren.goto(new URL(keola.url()).pathname))?.status()).toBe(404);
  await maud.getByRole('button', { name: 'Publish “May I bring my own tent?” to all' }).click();
  await expect(maud.getByText('It is on the shelf for all.')).toBeVisible();
  await wren.goto('/shelf');
  await wren.getByRole('searchbox').fill('tents');
  await expect(wren.getByRole('link', { name: 'May I bring my own tent?' })).toBeVisible();
});

test('a slash leads to the search, which marks the words and keeps what is asked in the address', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Wren Ashdown');
  await page.goto('/for-me');
  await page.keyboard.press('/');
  await page.waitForURL(/\/search$/);
  await page.getByRole('searchbox').fill('humid');
  await expect(page.locator('mark').first()).toHaveText(/humid/i);
  await expect(page).toHaveURL(/q=humid/);
  await page.getByText('Narrow it').click();
  await page.getByRole('combobox', { name: 'Among' }).selectOption('answer');
  await expect(page.getByRole('link', { name: 'Which humidity is too high?' })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('link', { name: 'Which humidity is too high?' })).toBeVisible();
  await page.getByRole('heading', { name: 'Search' }).click();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
});

test('For me can be read without a connection, and an answer given then is sent when it is back', async ({
  browser,
}) => {
  const { page, context } = await visit(browser, 'Marli Saltbrook', {
    viewport: { width: 390, height: 800 },
    serviceWorkers: 'allow',
  });
  await page.goto('/for-me');
  await expect(page.getByRole('heading', { name: /your answer/ })).toBeVisible();
  // What the page is made of is kept once the worker has taken over.
  await expect
    .poll(() =>
      page.evaluate(async () => {
        const [kept, parts] = await Promise.all([caches.open('pages-2'), caches.open('parts-2')]);
        return (
          navigator.serviceWorker.controller !== null &&
          (await kept.match('/for-me')) !== undefined &&
          (await parts.keys()).length > 5
        );
      }),
    )
    .toBe(true);
  await context.setOffline(true);
  await page.reload();
  await expect(page.getByText('No connection.')).toBeVisible();
  // What was not read here says so, and is not shown as something else.
  await page.goto('/posts/1');
  await expect(page.getByRole('heading', { name: 'Not kept on this device' })).toBeVisible();
  await page.getByRole('link', { name: /^For me, as it was/ }).click();
  await expect(page.getByText('No connection.')).toBeVisible();
  const button = page.getByRole('button', { name: /^Acknowledge/ }).first();
  const name = (await button.getAttribute('aria-label'))?.replace('Acknowledge: ', '') ?? '';
  await button.click();
  await expect(page.getByText('Your answer is kept on this device.')).toBeVisible();
  await context.setOffline(false);
  await expect(page.getByText('Your answer is kept on this device.')).toHaveCount(0);
  await page.goto('/for-me');
  await expect(page.getByRole('button', { name: `Acknowledge: ${name}` })).toHaveCount(0);
  // Signed out, the device keeps no page for whoever comes next.
  await page.getByRole('button', { name: 'Marli Saltbrook' }).click();
  await page.getByRole('button', { name: 'Sign out', exact: true }).click();
  await page.waitForURL(/sign-in/);
  expect(await page.evaluate(async () => (await (await caches.open('pages-2')).keys()).length)).toBe(0);
});

test('what one chose to be told of by push arrives on the device, and an urgent announcement always', async ({
  browser,
}) => {
  const { page: sarita } = await visit(browser, 'Sarita Thapali');
  await sarita.goto('/settings');
  await sarita.getByRole('button', { name: 'Connect a practice device' }).click();
  await expect(sarita.getByText('A practice device takes push messages now.')).toBeVisible();
  await sarita
    .getByRole('combobox', { name: 'A reply to what I wrote, or follow: by mail' })
    .selectOption('at once');
  await expect(sarita.getByText('Saved.')).toBeVisible();
  const { page: nuria, context } = await visit(browser, 'Núria Ferragut');
  const board = await openBoard(nuria, 'Field season');
  const { page: writer, context: hers } = await visit(browser, 'Sarita Thapali');
  await writer.goto(`/boards/${board}`);
  const id = await post(hers, board, 'Snow on the pass');
  await context.request.post(`/api/posts/${id}/replies`, {
    data: {
      document: {
        type: 'doc',
        content: [{ type: 'paragraph', content: [{ type: 'text', text: 'How deep?' }] }],
      },
    },
    headers: { origin: houseUrl(), 'idempotency-key': 'snow-on-the-pass' },
  });
  const devices = await (await browser.newContext()).newPage();
  await expect(async () => {
    await devices.goto(devicesUrl());
    await expect(devices.getByText('Re: Snow on the pass')).toBeVisible({ timeout: 500 });
  }).toPass();
  await expect(devices.getByText('You wrote, replied to or follow this on Field season.')).toBeVisible();
});
