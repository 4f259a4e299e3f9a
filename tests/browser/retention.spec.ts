import { expect, test, visit } from './people.ts';

test('a coordinator sees what would go before it does, and takes a choice back', async ({ browser }) => {
  const maud = await visit(browser, 'Maud Fenwright');
  await maud.page.goto('/settings');
  await maud.page.getByRole('link', { name: 'How long things are kept' }).click();
  await maud.page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  // What was done is told in a list of its own, beside the page.
  const line = maud.page.locator('#content').getByRole('listitem').filter({ hasText: 'Who was sent what' });
  const choice = line.getByRole('combobox', { name: 'Kept' });
  await expect(choice).toHaveValue('good');

  await expect(choice).toBeEnabled();
  await choice.focus();
  await choice.selectOption('30');
  const question = maud.page.getByRole('dialog', { name: 'Keep “Who was sent what” for 30 days?' });
  await expect(question).toContainText(/[\d,]+ of [\d,]+ deliveries are older, the oldest of /);
  await question.getByRole('button', { name: 'Leave it' }).click();
  await expect(choice).toHaveValue('good');
  await expect(choice).toBeFocused();

  await choice.selectOption('365');
  await maud.page.getByRole('dialog').getByRole('button', { name: 'Keep it for a year' }).click();
  await expect(line).toContainText('until then it is kept for good.');
  await maud.page.reload();
  await expect(line).toContainText('Chosen by Maud Fenwright');
  await maud.page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await line.getByRole('button', { name: 'Take it back' }).click();
  await expect(choice).toHaveValue('good');
  await expect(line).not.toContainText('until then');
});

test('nobody else sees it', async ({ browser }) => {
  const otieno = await visit(browser, 'Otieno Barasi');
  await otieno.page.goto('/retention');
  await expect(otieno.page).not.toHaveURL(/retention/);
  await expect(otieno.page.getByRole('combobox')).toHaveCount(0);
});
