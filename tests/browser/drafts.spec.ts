import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { chooseGroup, chooseName, openPhrase } from './fields.ts';
import { expect, mailboxUrl, test, visit } from './people.ts';

test('a draft is seen in two hands, shared for comments, and handed on to somebody by name', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/write');
  await maud.getByRole('button', { name: 'New announcement' }).click();
  await maud.getByRole('textbox', { name: 'Title' }).fill('The gate in the north');
  await maud.getByRole('textbox', { name: 'Text' }).click();
  await maud.keyboard.type('It sticks. Lift it as you push.');
  await openPhrase(maud, /^Who gets it/);
  await chooseGroup(maud, 'Trustees');
  await maud.getByRole('button', { name: 'Done' }).click();
  await maud.getByText('Shared for comments').click();
  await chooseName(maud, 'Share it with', 'Wren Ash', /Wren Ashdown/);
  await expect(maud.getByText(/They do not work at the desk/)).toBeVisible();
  await chooseName(maud, 'Share it with', 'Jago', /Jago Quillfeather/);
  await expect(maud.getByText('Shared for comments')).toContainText('Jago Quillfeather');

  const { page: jago } = await visit(browser, 'Jago Quillfeather');
  await jago.goto('/for-me/notices');
  await jago.getByRole('link', { name: /shares a draft with you: The gate in the north/ }).click();
  await expect(jago.getByText('Maud Fenwright has it open too.')).toBeVisible();
  await maud.bringToFront();
  await maud.evaluate(() => document.dispatchEvent(new Event('visibilitychange')));
  await expect(maud.getByText('Jago Quillfeather has it open too.')).toBeVisible();
  await jago.close();
  await maud.evaluate(() => document.dispatchEvent(new Event('visibilitychange')));
  await expect(maud.getByText('Jago Quillfeather has it open too.')).toHaveCount(0);

  await maud.getByRole('button', { name: 'Hand on for review' }).click();
  await maud.getByLabel('Who is asked to look at it').selectOption({ label: 'Jago Quillfeather' });
  await maud.getByRole('dialog').getByRole('button', { name: 'Hand it on' }).click();
  await expect(maud.getByText('Jago Quillfeather is asked to look at it.')).toBeVisible();
});

test('a short video with its captions plays in its place, and is a picture with a link in the mail', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/write');
  await page.getByRole('button', { name: 'New announcement' }).click();
  await page.getByRole('textbox', { name: 'Title' }).fill('A tour of the vault');
  await page.getByRole('textbox', { name: 'Text' }).click();
  await page.keyboard.type('In two minutes.');
  // A video that this browser records itself.
  const recorded = await page.evaluate(async () => {
    const canvas = document.createElement('canvas');
    canvas.width = 320;
    canvas.height = 180;
    const pen = canvas.getContext('2d');
    const recorder = new MediaRecorder(canvas.captureStream(10), { mimeType: 'video/webm' });
    const parts: Blob[] = [];
    recorder.ondataavailable = (event) => parts.push(event.data);
    const stopped = new Promise((resolve) => (recorder.onstop = resolve));
    recorder.start();
    for (let i = 0; i < 12; i++) {
      if (pen) {
        pen.fillStyle = i % 2 === 0 ? '#1c6b60' : '#8a4b12';
        pen.fillRect(0, 0, 320, 180);
      }
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
    recorder.stop();
    await stopped;
    return Array.from(new Uint8Array(await new Blob(parts).arrayBuffer()));
  });
  const choose = async (words: string, file: { name: string; mimeType: string; buffer: Buffer }) =>
    page.locator('label', { hasText: words }).locator('input[type=file]').setInputFiles(file);
  await choose('Add a short video', {
    name: 'tour.webm',
    mimeType: 'video/webm',
    buffer: Buffer.from(recorded),
  });
  const field = page.getByRole('group', { name: /^Video, / });
  await expect(field.locator('img')).toBeVisible();
  await openPhrase(page, /^Who gets it/);
  await page.getByRole('combobox', { name: /^Chosen by/ }).selectOption('person');
  await chooseName(page, 'Name', 'Wren Ash', /Wren Ashdown/);
  await page.getByRole('button', { name: 'Done' }).click();

  // Without captions and without a text beside it, it does not go out.
  await page.getByRole('button', { name: /^Send to 1 person/ }).click();
  await expect(page.getByRole('alert')).toContainText('neither captions nor a text');
  await field.getByLabel('What it shows, in a line').fill('The door of the vault');
  await choose('Add captions', {
    name: 'tour.vtt',
    mimeType: 'text/vtt',
    buffer: Buffer.from('WEBVTT\n\n00:00.000 --> 00:01.000\nHere is the door.\n'),
  });
  await expect(field.getByRole('button', { name: 'Take the captions out' })).toBeVisible();
  await page.getByRole('button', { name: /^Send to 1 person/ }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Send to 1 person/ })
    .click();
  await page.waitForURL(/\/sends\/\d+$/);

  const { page: wren } = await visit(browser, 'Wren Ashdown', { viewport: { width: 390, height: 780 } });
  await expect(async () => {
    await wren.goto('/for-me');
    await wren.getByRole('link', { name: 'A tour of the vault' }).click({ timeout: 2_000 });
  }).toPass({ timeout: 40_000 });
  const ranges: number[] = [];
  wren.on('response', (response) => {
    if (response.url().includes('/video.webm')) ranges.push(response.status());
  });
  const video = wren.locator('video');
  await expect(video).toBeVisible();
  await video.evaluate(async (element: HTMLVideoElement) => {
    element.muted = true;
    await element.play();
  });
  await expect
    .poll(() => video.evaluate((element: HTMLVideoElement) => element.currentTime))
    .toBeGreaterThan(0);
  await expect
    .poll(() => video.evaluate((element: HTMLVideoElement) => element.textTracks[0]?.cues?.length ?? 0))
    .toBe(1);
  expect(ranges[0]).toBe(206);
  expect(await wren.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);

  const mailbox = await browser.newPage();
  await expect(async () => {
    await mailbox.goto(`${mailboxUrl()}/?to=wren`);
    await mailbox.getByText('A tour of the vault').first().click({ timeout: 2_000 });
  }).toPass({ timeout: 20_000 });
});

test('several images stand in a post, in the order chosen, each described', async ({ browser }) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/boards');
  await page.getByRole('link', { name: 'Cinder Bay', exact: true }).first().click();
  await page.getByRole('button', { name: /^Write on/ }).click();
  await page.getByRole('textbox', { name: 'Title' }).fill('Three shelves');
  const picture = async (colour: string) => ({
    name: 'shelf.png',
    mimeType: 'image/png',
    buffer: await sharp({ create: { width: 800, height: 500, channels: 3, background: colour } })
      .png()
      .toBuffer(),
  });
  const choose = async (words: string, colour: string) =>
    page
      .locator('label', { hasText: words })
      .locator('input[type=file]')
      .setInputFiles(await picture(colour));
  await choose('Add an image', '#8a4b12');
  await page.getByLabel('What it shows').fill('A brown shelf');
  await choose('Add a further image', '#1c6b60');
  await page.getByLabel('What further image 1 shows').fill('A green shelf');
  await choose('Add a further image', '#34506b');
  await expect(page.getByLabel('What further image 2 shows')).toBeVisible();
  await page.getByRole('button', { name: /^Post on/ }).click();
  await expect(page.getByText('Further image 2 has no description', { exact: false })).toBeVisible();
  await page.getByLabel('What further image 2 shows').fill('A blue shelf');
  await page.getByRole('button', { name: 'Move further image 2, place 2 of 2' }).press('ArrowUp');
  await page.getByRole('button', { name: /^Post on/ }).click();
  const post = page.getByRole('article').filter({ hasText: 'Three shelves' }).first();
  await expect(post.getByRole('img')).toHaveCount(3);
  await expect(post.locator('.gallery img').first()).toHaveAttribute('alt', 'A blue shelf');
});

test('routine matter is chosen to come together, and the rehearsal says so', async ({ browser }) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/settings');
  await page.getByLabel('Routine announcements come to me').selectOption('daily');
  await expect(page.getByText('When they come to you is saved.')).toBeVisible();
  await page.goto('/settings');
  await expect(page.getByLabel('Routine announcements come to me')).toHaveValue('daily');
  await page.getByLabel('Routine announcements come to me').selectOption('');
  await expect(page.getByText('When they come to you is saved.').first()).toBeVisible();
});

test('a text is taken as a file and becomes a draft again', async ({ browser }) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/write');
  const choose = maud.getByLabel('A file of Markdown');
  await choose.setInputFiles({
    name: 'broken.md',
    mimeType: 'text/markdown',
    buffer: Buffer.from('---\ntitle: x\nimportance: loud\n---\nx'),
  });
  await expect(maud.getByRole('alert')).toBeVisible();
  await choose.setInputFiles({
    name: 'press.md',
    mimeType: 'text/markdown',
    buffer: Buffer.from('# The press is ready\n\nCome **today**.\n\n* * *\n\nOr tomorrow.\n'),
  });
  await maud.waitForURL(/\/write\/\d+$/);
  await expect(maud.getByRole('textbox', { name: 'Title' })).toHaveValue('The press is ready');
  await expect(maud.getByText('Or tomorrow.').first()).toBeVisible();
  await maud.getByText('Take it as Markdown').scrollIntoViewIfNeeded();
  const [download] = await Promise.all([
    maud.waitForEvent('download'),
    maud.getByRole('button', { name: 'Take it as Markdown' }).click(),
  ]);
  const path = await download.path();
  await maud.goto('/write');
  await choose.setInputFiles({ name: 'again.md', mimeType: 'text/markdown', buffer: readFileSync(path) });
  await maud.waitForURL(/\/write\/\d+$/);
  await expect(maud.getByRole('textbox', { name: 'Title' })).toHaveValue('The press is ready');
  await expect(maud.getByText('Come today.').first()).toBeVisible();
});
