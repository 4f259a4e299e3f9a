import AxeBuilder from '@axe-core/playwright';
import { expect, test, visit } from './people.ts';

test('a coordinator keeps a place as a pattern, makes one from it, takes what changes, and takes another back', async ({
  browser,
}) => {
  test.slow();
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/boards');
  await page.getByRole('link', { name: 'Mallee Reach', exact: true }).first().click();
  await page.waitForURL(/\/boards\/\d+$/);
  const board = page.url();
  await page.goto(`${board}/settings`);
  await page.getByRole('link', { name: 'Keep as a pattern' }).click();
  await page.getByLabel('The pattern’s name').fill('A reach');
  await page.getByRole('button', { name: 'Keep it as a pattern' }).click();
  await expect(page.getByRole('heading', { name: 'A reach' })).toBeVisible();
  const pattern = page.url();

  // Under a name that is taken nothing can be made, and it says why.
  await page.getByLabel('Which station').selectOption('Cinder Bay');
  await expect(page.getByLabel('What it is called')).toHaveValue('Cinder Bay');
  await page.getByRole('button', { name: 'Show what would be made' }).click();
  await expect(page.getByText('There is a group of this name already.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Make it' })).toHaveCount(0);

  const make = async (name: string): Promise<string> => {
    await page.goto(pattern);
    await page.getByLabel('Which station').selectOption('Cinder Bay');
    await page.getByLabel('What it is called').fill(name);
    await page.getByRole('button', { name: 'Show what would be made' }).click();
    await expect(page.getByRole('list', { name: 'What would be made' })).toContainText(
      `everyone at Cinder Bay`,
    );
    await page.getByRole('button', { name: 'Make it' }).click();
    await page.waitForURL(/\/patterns\/places\/\d+/);
    await expect(page.getByRole('heading', { name, exact: true })).toBeVisible();
    return page.url();
  };
  const first = await make('Cinder Flats');
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.map(({ id }) => id)).toEqual([]);
  await page.getByRole('main').getByRole('link', { name: 'Cinder Flats' }).nth(1).click();
  await expect(page.getByText('Everything around the station at Cinder Flats.')).toBeVisible();

  // The place it was taken from becomes better; the pattern takes that, and the place made from it is offered it.
  await page.goto(`${board}/settings`);
  await page.getByLabel('What it is for').fill('All that Mallee Reach hears.');
  await page.getByRole('button', { name: 'Save' }).and(page.locator(':enabled')).first().click();
  await expect(page.getByText(/^Saved;/)).toBeVisible();
  await page.goto(pattern);
  await page.getByRole('link', { name: 'Take it anew' }).click();
  await page.getByRole('button', { name: 'Take it anew' }).click();
  await page.waitForURL(pattern);
  await expect(page.getByText('the pattern has changed since')).toBeVisible();
  await page.goto(first);
  await expect(
    page.getByText('Would change what it is for to “All that Cinder Flats hears.”.'),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Take what is chosen' }).click();
  await expect(page.getByText('The pattern has changed since')).toHaveCount(0);
  await page.getByRole('main').getByRole('link', { name: 'Cinder Flats' }).nth(1).click();
  await expect(page.getByText('All that Cinder Flats hears.')).toBeVisible();

  await make('Cinder Cliffs');
  await page.getByRole('button', { name: 'Take it all back' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Take it all back' }).click();
  await page.waitForURL(pattern);
  await expect(page.getByRole('link', { name: 'Cinder Flats' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Cinder Cliffs' })).toHaveCount(0);
  await page.goto('/boards');
  await expect(page.getByRole('link', { name: 'Cinder Flats', exact: true })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Cinder Cliffs' })).toHaveCount(0);
});
