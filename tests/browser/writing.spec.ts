import { expect, test, visit } from './people.ts';
import { fillDate, fillTime, openPhrase } from './fields.ts';

test.describe('pasting', () => {
  // The browser tells of every handler and style in the pasted text that it would not run.
  // What it is tried to send with nothing in it is refused.
  test.use({ expectedFaults: /Content Security Policy|status of 422/ });

  test('says what is missing, refuses unsafe links, and cleans what is pasted', async ({ browser }) => {
    const { page } = await visit(browser, 'Maud Fenwright');
    await page.goto('/write');
    await page.getByRole('button', { name: 'New announcement' }).click();
    await page.getByRole('button', { name: 'Send …' }).click();
    const alert = page.getByRole('alert');
    await expect(alert).toContainText('It has no title');
    await expect(alert).toContainText('There is no text yet');
    await expect(alert).toContainText('It goes to nobody');

    const text = page.getByRole('textbox', { name: 'Text' });
    await text.click();
    await page.evaluate(() => {
      const html =
        '<h2 onclick="x()">Plan</h2><script>window.hacked=1</script><p style="color:red">Walk <b>slowly</b> <a href="javascript:hack()">here</a> <img src=x onerror="window.hacked=1"></p><table><tr><td>cell</td></tr></table>';
      const data = new DataTransfer();
      data.setData('text/html', html);
      document
        .querySelector('.ProseMirror')
        ?.dispatchEvent(
          new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
        );
    });
    const seen = page.getByRole('region', { name: 'What the reader sees' });
    await expect(seen.getByRole('heading', { name: 'Plan' })).toBeVisible();
    await expect(seen).toContainText('Walk slowly here');
    await expect(seen.getByRole('link')).toHaveCount(0);
    await expect(seen.locator('img, script, table, [style]')).toHaveCount(0);
    expect(await page.evaluate(() => 'hacked' in window)).toBe(false);

    await page.getByRole('button', { name: 'Link', exact: true }).click();
    await page.getByRole('textbox', { name: 'Link to' }).fill('javascript:alert(1)');
    await page.getByRole('button', { name: 'Set link' }).click();
    await expect(page.getByText('That is no address.')).toBeVisible();
    // Without a scheme it is completed.
    await page.getByRole('textbox', { name: 'Link to' }).fill('thistledown.example/plan');
    await page.getByRole('button', { name: 'Set link' }).click();
    await expect(seen.getByRole('link', { name: 'https://thistledown.example/plan' })).toBeVisible();

    // An emoji, a right-to-left title, and an hour that does not exist.
    await page.getByRole('textbox', { name: 'Title' }).fill('🌱 שלום لكم');
    await openPhrase(page, /^When it goes out/);
    await page.getByRole('radio', { name: 'At a date and time' }).check();
    await page.getByLabel('Zone').selectOption('Europe/Madrid');
    await fillDate(page, 'Date', '2031-03-30');
    await fillTime(page, 'Time', '02:30');
    await expect(page.getByText('there is no 02:30: it counts as 03:30')).toBeVisible();
    await expect(page.getByText(/Saved at/)).toBeVisible();
    await page.reload();
    await expect(page.getByRole('textbox', { name: 'Title' })).toHaveValue('🌱 שלום لكم');
    await expect(page.getByRole('region', { name: 'The plan' })).toContainText(
      '03:30 on Sunday 30 March 2031 in Madrid',
    );
  });
});

test('two people on one draft never overwrite each other unseen', async ({ browser }) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/write');
  await maud.getByRole('link', { name: 'Rota for the winter readings', exact: true }).click();
  const { page: jago } = await visit(browser, 'Jago Quillfeather');
  await jago.goto(maud.url());

  await jago.getByRole('textbox', { name: 'Title' }).fill('Rota, as Jago has it');
  await expect(jago.getByText(/Saved at/)).toBeVisible();
  await expect(async () => {
    await jago.reload();
    await expect(jago.getByRole('textbox', { name: 'Title' })).toHaveValue('Rota, as Jago has it', {
      timeout: 500,
    });
  }).toPass();
  await maud.getByRole('textbox', { name: 'Title' }).fill('Rota, as Maud has it');
  const conflict = maud.getByRole('dialog', { name: 'Two texts of this draft' });
  await expect(conflict).toContainText('Jago Quillfeather saved another text');
  // It waits for an answer: Esc leaves it where it is, and the text with it.
  for (let presses = 0; presses < 3; presses++) await maud.keyboard.press('Escape');
  await expect(conflict).toBeVisible();
  await conflict.getByRole('button', { name: 'Keep mine as a separate draft' }).click();
  await maud.waitForURL((url) => url.pathname.startsWith('/write/') && url.href !== jago.url());
  await expect(maud.getByRole('textbox', { name: 'Title' })).toHaveValue('Rota, as Maud has it');
  await jago.reload();
  await expect(jago.getByRole('textbox', { name: 'Title' })).toHaveValue('Rota, as Jago has it');
});

test('a text that is saved over on purpose can be brought back', async ({ browser }) => {
  const { page: one, context } = await visit(browser, 'Jago Quillfeather');
  await one.goto('/write');
  await one.getByRole('button', { name: 'New announcement' }).click();
  await one.getByRole('textbox', { name: 'Title' }).fill('First tab');
  await expect(one.getByText(/Saved at/)).toBeVisible();
  const two = await context.newPage();
  await two.goto(one.url());
  await expect(two.getByRole('toolbar', { name: 'Text' })).toBeVisible();
  await one.getByRole('textbox', { name: 'Title' }).fill('First tab, later');
  await expect(one.getByText('Saving …')).toBeVisible();
  await expect(one.getByText(/Saved at/)).toBeVisible();
  await two.getByRole('textbox', { name: 'Title' }).fill('Second tab');
  await two.getByRole('button', { name: 'Save mine over theirs' }).click();
  await expect(two.getByText(/Saved at/)).toBeVisible();
  await two.reload();
  await expect(two.getByRole('textbox', { name: 'Title' })).toHaveValue('Second tab');
  await expect(two.getByRole('toolbar', { name: 'Text' })).toBeVisible();
  await two.getByText('Texts that were saved over').click();
  await two.getByRole('button', { name: 'Bring back First tab, later' }).click();
  await expect(two.getByRole('textbox', { name: 'Title' })).toHaveValue('First tab, later');
});

test('a text that cannot be saved is kept in the browser and brought back', async ({ browser }) => {
  const { page, context } = await visit(browser, 'Maud Fenwright');
  await page.goto('/write');
  await page.getByRole('button', { name: 'New announcement' }).click();
  await page.waitForURL(/\/write\/\d+$/);
  await expect(page.getByText(/Saved at/)).toBeVisible();
  // What the page is made with must be there before the network goes.
  await expect(page.getByRole('textbox', { name: 'Title' })).toBeEnabled();
  await context.setOffline(true);
  await page.getByRole('textbox', { name: 'Title' }).fill('Written on the train');
  await expect(page.getByText(/Not saved.*kept in this browser/)).toBeVisible();
  page.on('dialog', (dialog) => void dialog.accept());
  const address = page.url();
  await page.close();
  await context.setOffline(false);
  const again = await context.newPage();
  await again.goto(address);
  await again.getByRole('button', { name: 'Bring it back' }).click();
  await expect(again.getByRole('textbox', { name: 'Title' })).toHaveValue('Written on the train');
  await expect(again.getByText(/Saved at/)).toBeVisible();
});

test('many tabs of one browser leave room for saving: a page has one stream, and a hidden one none', async ({
  browser,
}) => {
  const { page, context } = await visit(browser, 'Maud Fenwright');
  await page.goto('/write');
  await page.getByRole('button', { name: 'New announcement' }).click();
  await page.waitForURL(/\/write\/\d+$/);
  for (let i = 0; i < 4; i++) {
    const tab = await context.newPage();
    await tab.goto(page.url());
    await expect(tab.getByRole('toolbar', { name: 'Text' })).toBeVisible();
  }
  const streams: string[] = [];
  page.on('request', (request) => {
    if (request.url().includes('/api/live')) streams.push(request.url());
  });
  await page.reload();
  await expect(page.getByRole('toolbar', { name: 'Text' })).toBeVisible();
  await page.getByRole('textbox', { name: 'Title' }).fill('Saved among five tabs');
  await expect(page.getByText('Saving …')).toBeVisible();
  await expect(page.getByText(/Saved at/)).toBeVisible();
  // What stands around the page listens once the browser has had time for it: then all of it by one stream.
  await expect.poll(() => streams.at(-1) ?? '').toContain('topic=desk');
  expect(streams.at(-1)).toContain('topic=draft');
});
