import { expect, houseUrl, test, visit } from './people.ts';

test('comes in with the account of the organisation, and out of both', async ({ browser }) => {
  const context = await browser.newContext({
    baseURL: houseUrl(),
    viewport: { width: 390, height: 844 },
  });
  const page = await context.newPage();
  await page.goto('/boards');
  await page.getByRole('link', { name: 'Sign in with Thistledown House' }).click();
  await expect(page.getByRole('heading', { name: 'Thistledown House' })).toBeVisible();
  await page.getByRole('textbox', { name: 'Mail address' }).fill('nobody@thistledown.example');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(
    page.getByText(/nobody@thistledown.example at Thistledown House is nobody here yet/),
  ).toBeVisible();

  // Another account: the provider still knows the one before, so a browser of its own.
  const other = await (await browser.newContext({ baseURL: houseUrl() })).newPage();
  await other.goto('/boards');
  await other.getByRole('link', { name: 'Sign in with Thistledown House' }).click();
  await other.getByRole('textbox', { name: 'Mail address' }).fill('marli@thistledown.example');
  await other.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(other).toHaveURL(`${houseUrl()}/boards`);
  await other.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);

  const { page: desk } = await visit(browser, 'Maud Fenwright');
  await desk.goto('/accounts');
  await expect(desk.getByRole('list', { name: 'Providers' })).toContainText('1 person signed in with it');
  await desk.getByRole('button', { name: 'Try Thistledown House' }).click();
  await expect(desk.getByText('Thistledown House answers as it should')).toBeVisible();

  await other.getByText('Marli Saltbrook', { exact: true }).click();
  await other.getByRole('button', { name: 'Sign out', exact: true }).click();
  await expect(other.getByRole('heading', { name: 'Sign out of Thistledown House?' })).toBeVisible();
  await other.getByRole('button', { name: 'Sign out' }).click();
  await expect(other).toHaveURL(/\/sign-in/);
  await other.getByRole('link', { name: 'Sign in with Thistledown House' }).click();
  // It asks anew who one is.
  await expect(other.getByRole('textbox', { name: 'Mail address' })).toBeVisible();
});

test('a provider is added, changed and removed, with what is wrong at its field', async ({ browser }) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/accounts');
  await page.getByRole('button', { name: 'Add a provider' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('textbox', { name: 'What your people call it' }).fill('The university');
  await dialog.getByRole('button', { name: 'Add it' }).click();
  await expect(dialog.getByText('Write the address of the provider')).toBeVisible();
  await dialog
    .getByRole('textbox', { name: 'Its address (issuer)' })
    .fill('https://login.university.example');
  await dialog.getByRole('textbox', { name: 'Client id' }).fill('bell');
  await dialog.getByRole('checkbox', { name: /whoever has the mail address/ }).uncheck();
  await dialog.getByRole('button', { name: 'Add it' }).click();
  await expect(dialog.getByText('Say how people are found')).toBeVisible();
  await dialog.getByRole('checkbox', { name: 'whoever is called so in a system' }).check();
  await dialog.getByRole('textbox', { name: 'The system' }).fill('university');
  await dialog.getByRole('button', { name: 'Add it' }).click();
  const list = page.getByRole('list', { name: 'Providers' });
  await expect(list).toContainText('The university');
  await page.getByRole('button', { name: 'Change The university' }).click();
  await dialog.getByRole('checkbox', { name: 'It is offered on the sign-in page' }).uncheck();
  await dialog.getByRole('button', { name: 'Change it' }).click();
  await expect(list).toContainText('not offered');
  await page.getByRole('button', { name: 'Remove The university' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Remove it' }).click();
  await expect(list).not.toContainText('The university');
});
