import { Secret, TOTP } from 'otpauth';
import type { Page } from '@playwright/test';
import { expect, houseUrl, test, visit } from './people.ts';

/** A device with a passkey in it, as a browser has one that looks at a finger. */
async function deviceFor(page: Page) {
  const client = await page.context().newCDPSession(page);
  await client.send('WebAuthn.enable');
  const { authenticatorId } = await client.send('WebAuthn.addVirtualAuthenticator', {
    options: {
      protocol: 'ctap2',
      transport: 'internal',
      hasResidentKey: true,
      hasUserVerification: true,
      isUserVerified: true,
      automaticPresenceSimulation: true,
    },
  });
  return { client, authenticatorId };
}

/** What a press needs: the page's islands. */
const awake = (page: Page) =>
  page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);

const signOut = async (page: Page, name: string): Promise<void> => {
  await awake(page);
  await page.getByText(name, { exact: true }).click();
  await page.getByRole('button', { name: 'Sign out', exact: true }).click();
  await expect(page).toHaveURL(/\/sign-in/);
  await awake(page);
};

test('a passkey is added, signs in by itself and as the second step, and is taken away', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Jago Quillfeather');
  await page.goto('/');
  await deviceFor(page);
  await page.goto('/settings');
  await page.getByRole('button', { name: 'Add a passkey' }).click();
  await page.getByRole('button', { name: 'Make the passkey' }).click();
  await expect(page.getByText('Give it a name by which you know the device')).toBeVisible();
  await page.getByRole('textbox', { name: /^A name for it/ }).fill('Laptop');
  await page.getByRole('button', { name: 'Make the passkey' }).click();
  const codes = page.getByRole('group', { name: 'Recovery codes' });
  await expect(codes).toContainText(/[0-9A-Z]{5}-[0-9A-Z]{5}/);
  const recovery = /[0-9A-Z]{5}-[0-9A-Z]{5}/.exec((await codes.textContent()) ?? '')![0];
  const kept = page.getByRole('list', { name: 'What the second step is taken with' });
  await expect(kept).toContainText('Laptop');
  await expect(kept).toContainText('10 of 10 can still be used');

  // By itself.
  await signOut(page, 'Jago Quillfeather');
  await page.getByRole('button', { name: 'Sign in with a passkey' }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/sign-in'));

  // As the second step: the first alone leads nowhere.
  await signOut(page, 'Jago Quillfeather');
  await page.getByRole('button', { name: /Jago Quillfeather/ }).click();
  await expect(page).toHaveURL(/\/sign-in\/second/);
  await page.goto('/settings');
  await expect(page).toHaveURL(/\/sign-in/);
  await page.goto('/sign-in?next=%2Fsettings');
  await page.getByRole('button', { name: /Jago Quillfeather/ }).click();
  await expect(page.getByRole('heading', { name: 'The second step' })).toBeVisible();
  await awake(page);
  await page.getByRole('button', { name: 'Sign in with a passkey' }).click();
  await expect(page).toHaveURL(/\/settings$/);
  await awake(page);

  // Without the device, by a recovery code, as it stands on paper.
  await signOut(page, 'Jago Quillfeather');
  await page.goto('/sign-in?next=%2Fsettings');
  await page.getByRole('button', { name: /Jago Quillfeather/ }).click();
  await page.getByRole('textbox', { name: 'Code' }).fill('AAAAA-AAAAA');
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText('This code is not right');
  await page.getByRole('textbox', { name: 'Code' }).fill(recovery.toLowerCase());
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
  await expect(page).toHaveURL(/\/settings$/);
  await expect(kept).toContainText('9 of 10 can still be used');
  await awake(page);
  await page.getByRole('button', { name: 'Take away the passkey Laptop' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Take it away' }).click();
  await expect(kept).toHaveCount(0);
});

test('codes from an app are set up on a phone, asked for, and taken away by a coordinator when the phone is lost', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Marli Saltbrook', { viewport: { width: 390, height: 844 } });
  await page.goto('/settings');
  await page.getByRole('button', { name: 'Use codes from an app' }).click();
  await expect(page.getByRole('img', { name: 'The secret as a picture, for the app to read' })).toBeVisible();
  const secret = ((await page.locator('code').first().textContent()) ?? '').replace(/\s/g, '');
  const code = (steps: number): string =>
    new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: Date.now() + steps * 30_000 });
  await page.getByRole('textbox', { name: 'The code it shows now' }).fill('000000');
  await page.getByRole('button', { name: 'Use it from now on' }).click();
  await expect(page.getByText('This code is not the one of now')).toBeVisible();
  await page.getByRole('textbox', { name: 'The code it shows now' }).fill(code(0));
  await page.getByRole('button', { name: 'Use it from now on' }).click();
  await expect(page.getByRole('list', { name: 'What the second step is taken with' })).toContainText(
    'Codes from an app',
  );

  const { page: again } = await visitFirstStep(browser, 'Marli Saltbrook');
  await again.getByRole('textbox', { name: 'Code' }).fill(code(1));
  await again.getByRole('button', { name: 'Sign in', exact: true }).click();
  await again.waitForURL((url) => !url.pathname.startsWith('/sign-in'));

  const { page: desk } = await visit(browser, 'Maud Fenwright');
  await desk.goto('/people');
  await desk.getByRole('searchbox', { name: /^Find/ }).fill('marli@thistledown');
  await desk.getByRole('link', { name: 'Marli Saltbrook' }).click();
  await desk.waitForURL(/\/person\/\d+$/);
  await awake(desk);
  await desk.getByRole('button', { name: 'Take it away' }).click();
  await desk.getByRole('dialog').getByRole('button', { name: 'Take it away' }).click();
  await expect(desk.getByText('taken when signing in')).toHaveCount(0);
  await expect(desk.getByText(/changed the second step of/).first()).toBeVisible();
  const { page: without } = await visit(browser, 'Marli Saltbrook');
  await without.goto('/');
  await expect(without).toHaveURL(/\/for-me/);
});

/** Takes the first step of signing in as one of the demo people, up to the second. */
async function visitFirstStep(browser: Parameters<typeof visit>[0], name: string) {
  const context = await browser.newContext({ baseURL: houseUrl() });
  const page = await context.newPage();
  await page.goto('/sign-in');
  await page.getByRole('button', { name: new RegExp(name) }).click();
  await expect(page).toHaveURL(/\/sign-in\/second/);
  return { page };
}
