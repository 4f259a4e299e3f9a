import type { Page } from '@playwright/test';
import { expect, mailboxUrl, test, visit } from './people.ts';

/** Writes a mail as somebody with a mail program does; gives what the receiver answered. */
async function write(page: Page, mail: Record<'From' | 'To' | 'Subject' | 'Text', string>): Promise<string> {
  await page.goto(`${mailboxUrl()}/write`);
  for (const [name, value] of Object.entries(mail)) await page.getByRole('textbox', { name }).fill(value);
  await page.getByRole('button', { name: 'Send it' }).click();
  return (await page.getByText(/^It was (taken|refused)/).textContent()) ?? '';
}

test('a board is written to by mail, by those who may post there and by nobody else', async ({ browser }) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/gateways');
  await maud.getByRole('button', { name: 'Make a way in' }).click();
  const making = maud.getByRole('dialog');
  await making.getByRole('textbox', { name: 'Which system posts here' }).fill('The post room');
  await making.getByRole('combobox', { name: 'The board' }).selectOption('Vault alerts');
  await making.getByRole('checkbox', { name: /It takes mail too/ }).check();
  const members = making.getByRole('checkbox', { name: /Whoever may post on the board/ });
  await members.uncheck();
  await making.getByRole('button', { name: 'Make it' }).click();
  await expect(making.getByText('Say from which addresses it takes mail.')).toBeVisible();
  await members.check();
  await making.getByRole('textbox', { name: /Also from these addresses/ }).fill('@vaults.example');
  await making.getByRole('button', { name: 'Make it' }).click();
  await maud
    .getByRole('dialog', { name: 'Its secret' })
    .getByRole('button', { name: 'I have kept it' })
    .click();
  await maud.waitForURL(/\/gateways\/in\/\d+$/);
  await expect(maud.getByText('whoever may post on the board or anybody at vaults.example')).toBeVisible();
  const to =
    (await maud.getByRole('group', { name: 'Its mail address' }).locator('pre').textContent())?.trim() ?? '';

  const mailbox = await maud.context().newPage();
  const text = { To: to, Subject: 'The key of vault two is at the gate', Text: 'Ask the porter.' };
  expect(await write(mailbox, { ...text, From: 'otieno@thistledown.example' })).toContain('taken');
  expect(await write(mailbox, { ...text, From: 'wren@thistledown.example' })).toContain('550 5.7.1');
  expect(await write(mailbox, { ...text, From: 'anybody@elsewhere.example' })).toContain('550 5.7.1');
  // The log follows by itself.
  await expect(maud.getByText('Mail from anybody@elsewhere.example is not taken here.')).toBeVisible();
  await maud.getByRole('link', { name: 'What it became' }).click();
  await expect(maud.getByRole('heading', { name: text.Subject })).toBeVisible();
  await expect(maud.getByText('Ask the porter.')).toBeVisible();
  await expect(maud.getByText('Otieno Barasi').first()).toBeVisible();
});

test('whose mail comes back is found, and gets mail again once somebody says so', async ({ browser }) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/people');
  await maud.getByRole('combobox', { name: 'Shown' }).selectOption('those whose mail comes back');
  const listed = maud.getByRole('row').getByRole('link');
  await expect(listed).toHaveCount(1);
  await listed.click();
  await expect(maud.getByText('Mail there comes back, and none is sent')).toBeVisible();
  await maud.getByRole('button', { name: 'Send mail there again' }).click();
  await expect(maud.getByText('Mail there comes back, and none is sent')).toHaveCount(0);
  await expect(maud.getByText('let mail go again to').first()).toBeVisible();
});
