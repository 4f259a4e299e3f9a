import { expect, mailboxUrl, test, visit } from './people.ts';
import { chooseGroup, openPhrase } from './fields.ts';

test('write, send, receive, acknowledge from the mail, and see the roll change without a reload', async ({
  browser,
}) => {
  const { page: desk } = await visit(browser, 'Maud Fenwright');
  await desk.goto('/');
  await expect(desk.getByRole('heading', { name: 'Needs you' })).toBeVisible();

  // Write.
  await desk.getByRole('navigation', { name: 'Places' }).getByRole('link', { name: 'Write' }).click();
  await desk.getByRole('button', { name: 'New announcement' }).click();
  await desk.getByRole('textbox', { name: 'Title' }).fill('Keys: count them tonight');
  // What is urgent waits for nobody's quiet hours, at whatever hour this test runs.
  await desk.getByLabel('Importance').selectOption('urgent');
  const text = desk.getByRole('textbox', { name: 'Text' });
  await text.click();
  await desk.keyboard.type('Count every key and write the number down.');
  await desk.keyboard.press('Enter');
  await desk.getByRole('button', { name: 'Bullets' }).click();
  await desk.keyboard.type('the red ones too');
  await expect(desk.getByRole('region', { name: 'What the reader sees' }).getByRole('listitem')).toHaveText(
    'the red ones too',
  );

  // To whom: the phrase is pressed, groups go in and out, and the count follows.
  await openPhrase(desk, /^Who gets it/);
  await chooseGroup(desk, 'Vault keyholders');
  await chooseGroup(desk, 'On leave', 'Except');
  const plan = desk.getByRole('region', { name: 'The plan' });
  await expect(plan).toContainText('Vault keyholders except On leave');
  await expect(plan).toContainText(/Goes to \d+ people/);
  await desk.keyboard.press('Escape');
  await expect(desk.getByRole('button', { name: /^Who gets it/ })).toBeFocused();

  await openPhrase(desk, /^What is asked back/);
  await desk.getByRole('radio', { name: /An acknowledgement/ }).check();
  await desk.getByRole('button', { name: 'Done' }).click();
  await expect(desk.getByText(/Saved at/)).toBeVisible();

  // The last question, with the facts in it; pressed twice.
  await plan.getByRole('button', { name: /^Send to \d+ people/ }).click();
  const question = desk.getByRole('dialog', { name: /^Send to \d+ people\?$/ });
  await expect(question).toContainText('without a mail address: the inbox only');
  await expect(question).toContainText('can be taken back');
  await question.getByRole('button', { name: /^Send to \d+ people$/ }).dblclick();
  await desk.waitForURL(/\/sends\/\d+$/);
  const occurrence = /\d+$/.exec(desk.url())?.[0] ?? '';
  await expect(desk.getByText(/Goes out in \d+ s/)).toBeVisible();
  await expect(desk.getByText('sent', { exact: true })).toBeVisible({ timeout: 30_000 });
  await expect(desk.getByRole('row', { name: /Inbox/ })).toContainText('all within 1.0 s');

  // The roll is open while a reader acknowledges from the mail.
  await desk.goto(`/answers/${occurrence}`);
  await expect(desk.getByText(/^0 of \d+ have acknowledged$/)).toBeVisible();

  const reader = await browser.newContext();
  const mail = await reader.newPage();
  await mail.goto(`${mailboxUrl()}/?to=wren@`);
  await mail.getByRole('link', { name: 'Keys: count them tonight' }).click();
  const letter = mail.frameLocator('iframe');
  await expect(letter.getByText('Count every key and write the number down.', { exact: true })).toBeVisible();
  // What only fetches the link, as the scanner of a mail server does, answers for nobody.
  const address = (await letter.getByRole('link', { name: 'Acknowledge' }).getAttribute('href')) ?? '';
  expect((await desk.request.get(address)).status()).toBe(200);
  await expect(desk.getByText(/^0 of \d+ have acknowledged$/)).toBeVisible();
  // A reader's own browser shows the text and has acknowledged; it can be undone, and then takes a press.
  const opened = reader.waitForEvent('page');
  await letter.getByRole('link', { name: 'Acknowledge' }).click();
  const link = await opened;
  await expect(link.getByText('Count every key and write the number down.')).toBeVisible();
  await expect(link.getByText(/Acknowledged for Wren Ashdown/)).toBeVisible();
  await expect(desk.getByText(/^1 of \d+ have acknowledged$/)).toBeVisible();
  await link.getByRole('button', { name: 'Undo' }).click();
  await expect(link.getByText(/Wren Ashdown, press once/)).toBeVisible();
  await expect(desk.getByText(/^0 of \d+ have acknowledged$/)).toBeVisible();
  await link.getByRole('button', { name: 'Acknowledge' }).click();
  await expect(link.getByText(/Acknowledged for Wren Ashdown/)).toBeVisible();
  await expect(desk.getByText(/^1 of \d+ have acknowledged$/)).toBeVisible();
  await desk.getByRole('radio', { name: /^Have \d/ }).click();
  await expect(desk.getByRole('listitem').filter({ hasText: 'Wren Ashdown' })).toContainText(
    'acknowledged by mail',
  );

  // Another reads it on a phone, under For me, and acknowledges there.
  const { page: phone } = await visit(browser, 'Sarita Thapali', {
    viewport: { width: 360, height: 740 },
    hasTouch: true,
  });
  await phone.goto('/');
  await phone.getByRole('button', { name: 'Acknowledge: Keys: count them tonight' }).tap();
  await expect(phone.getByText(/Acknowledged at .* Thank you/)).toBeVisible();
  await expect(desk.getByText(/^2 of \d+ have acknowledged$/)).toBeVisible();

  const download = desk.waitForEvent('download');
  await desk.getByRole('link', { name: 'As CSV' }).click();
  expect((await download).suggestedFilename()).toBe(`roll-${occurrence}.csv`);
});

test('a send is taken back within the hold, and nobody gets it', async ({ browser }) => {
  const { page } = await visit(browser, 'Jago Quillfeather');
  await page.goto('/write');
  await page.getByRole('link', { name: 'Rota for the winter readings', exact: true }).click();
  await page.getByRole('button', { name: /^Send to \d+ people/ }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Send to/ })
    .click();
  await page.getByRole('button', { name: 'Take it back' }).click();
  await page.waitForURL(/\/write\/\d+$/);
  await expect(page.getByRole('textbox', { name: 'Title' })).toHaveValue('Rota for the winter readings');
  await page.goto('/run-sheet');
  await expect(
    page
      .getByRole('listitem')
      .filter({ hasText: 'Rota for the winter readings' })
      .filter({ hasText: 'recalled' }),
  ).toBeVisible();
});
