import { expect, test, visit } from './people.ts';

test('what is wrong is told at its field, which has the focus and is in sight', async ({ browser }) => {
  const { page } = await visit(browser, 'Maud Fenwright', { viewport: { width: 390, height: 780 } });
  await page.goto('/boards');
  await page.getByRole('link', { name: 'Cinder Bay', exact: true }).first().click();
  await page.getByRole('button', { name: /^Write on/ }).click();
  const text = page.getByRole('textbox', { name: 'Text' });
  await text.click();
  for (let i = 0; i < 30; i++) await page.keyboard.press('Enter');
  await page.keyboard.type('Below the fold.');
  await page.getByRole('button', { name: /^Post on/ }).click();
  const title = page.getByRole('textbox', { name: 'Title' });
  await expect(title).toBeFocused();
  await expect(title).toBeInViewport();
  await expect(title).toHaveAccessibleDescription(/It has no title/);
  await title.fill('A title');
  await page.getByRole('button', { name: /^Post on/ }).click();
  await expect(page.getByText('It has no title')).toHaveCount(0);
});

test('the focus never falls to the page: what had it comes back, or what stands nearest', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/write');
  await page.getByRole('button', { name: 'New announcement' }).click();
  await page.getByRole('button', { name: 'Add a section' }).click();
  const onThePage = (): Promise<boolean> =>
    page.evaluate(() => document.activeElement === document.body || document.activeElement === null);
  await page.getByRole('button', { name: 'Take section 2 out' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Take section 2 out' })).toHaveCount(0);
  await expect.poll(onThePage).toBe(false);

  // A comment is settled by the keyboard; its button is another one then, and keeps the focus.
  await page.getByText(/^Comments/).click();
  await page.getByRole('textbox', { name: 'Comment' }).fill('Is it so?');
  await page.getByRole('button', { name: 'Comment', exact: true }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText('Is it so?')).toBeVisible();
  await expect.poll(onThePage).toBe(false);

  // Pressing beside everything gives the focus up, and it stays given up.
  await page.getByRole('textbox', { name: 'Title' }).click();
  await page.mouse.click(640, 790);
  await page.getByRole('heading', { level: 1 }).click();
  await expect.poll(onThePage).toBe(true);
});
