import { expect, type Locator, type Page } from '@playwright/test';

type Name = string | RegExp;
const field = (scope: Page | Locator, name: Name, nth: number): Locator =>
  scope.getByRole('group', { name, exact: typeof name === 'string' }).nth(nth);

async function type(of: Locator, parts: readonly string[]): Promise<void> {
  const segments = of.getByRole('spinbutton');
  await expect(segments).toHaveCount(parts.length);
  for (const [i, part] of parts.entries()) await segments.nth(i).pressSequentially(part);
}

/** Types a date (YYYY-MM-DD) as a reader in London does: day, month, year. */
export function fillDate(scope: Page | Locator, name: Name, date: string, nth = 0): Promise<void> {
  return type(field(scope, name, nth), date.split('-').reverse());
}

/** Types a time of day (HH:MM). */
export function fillTime(scope: Page | Locator, name: Name, time: string, nth = 0): Promise<void> {
  return type(field(scope, name, nth), time.split(':'));
}

/** Expects a time of day (HH:MM) to stand in a field. */
export async function expectTime(scope: Page | Locator, name: Name, time: string): Promise<void> {
  const segments = field(scope, name, 0).getByRole('spinbutton');
  await expect(segments).toHaveText(time.split(':'));
}

/** Presses a phrase of the sentence so that its panel is open: what the count says may push it aside under the press. */
export async function openPhrase(page: Page, name: RegExp): Promise<void> {
  const phrase = page.getByRole('button', { name });
  await expect(async () => {
    if ((await phrase.getAttribute('aria-expanded')) !== 'true') await phrase.click();
    await expect(phrase).toHaveAttribute('aria-expanded', 'true', { timeout: 2_000 });
  }).toPass();
}

/** Finds somebody by name in a field and takes them; letters that come before the field has the focus are written again. */
export async function chooseName(page: Page, label: Name, letters: string, name: Name): Promise<void> {
  const field = page.getByRole('combobox', { name: label });
  const option = page.getByRole('option', { name }).first();
  await expect(async () => {
    await field.fill('');
    await field.pressSequentially(letters);
    await expect(option).toBeVisible({ timeout: 5_000 });
  }).toPass();
  await option.click();
}

/** Puts a group in, or leaves it out, in the open panel of whom it goes to. */
export async function chooseGroup(page: Page, name: string, side: 'To' | 'Except' = 'To'): Promise<void> {
  await page.getByRole('searchbox', { name: 'Find a group' }).fill(name);
  await page
    .getByRole('group', { name, exact: true })
    .getByRole('button', { name: side, exact: true })
    .click();
}
