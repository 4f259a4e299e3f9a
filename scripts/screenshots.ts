import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { bringUp, ROOT } from './house/bringUp.ts';
import { until } from './house/processes.ts';
import { CHROMIUM, CHROMIUM_COMMANDS } from '../tests/browser/chromium.ts';
import { ensureCommands } from './house/debian.ts';

/** Takes one picture of each main view from fresh demo data, into docs/screenshots. */
const folder = join(ROOT, 'docs', 'screenshots');
mkdirSync(folder, { recursive: true });
const house = await bringUp({
  place: 'screenshots',
  port: 0,
  fresh: true,
  demo: true,
  durable: false,
  say: console.log,
  environment: { LOG_LEVEL: 'warn' },
});
ensureCommands(CHROMIUM_COMMANDS, console.log);
const browser = await chromium.launch(CHROMIUM);

async function signedIn(name: string, width = 1280, height = 800): Promise<Page> {
  const context = await browser.newContext({
    baseURL: house.url,
    viewport: { width, height },
    colorScheme: 'light',
  });
  const page = await context.newPage();
  await page.goto('/sign-in');
  await page.getByRole('button', { name: new RegExp(name) }).click();
  await page.waitForURL((url) => !url.pathname.startsWith('/sign-in'));
  return page;
}

/** Waits until what the server sent has come alive: what is written before is lost. */
const alive = (page: Page): Promise<unknown> =>
  page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);

async function shot(page: Page, name: string, path?: string): Promise<void> {
  if (path !== undefined) await page.goto(path);
  await page.waitForFunction(
    () =>
      document.querySelector('astro-island[ssr], fieldset[disabled]') === null &&
      document.fonts.status === 'loaded',
  );
  // What has just come alive lights up over a fifth of a second.
  await page.waitForTimeout(1000);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  console.log(`docs/screenshots/${name}.png`);
}

try {
  const desk = await signedIn('Maud Fenwright');
  await shot(desk, 'run-sheet', '/run-sheet');
  await desk.getByRole('radio', { name: 'fortnight' }).click();
  await desk.waitForLoadState('networkidle');
  await desk.getByRole('searchbox', { name: 'Find' }).fill('The Seed Tray');
  await desk.getByRole('button', { name: 'Before' }).click();
  await desk
    .getByRole('region', { name: 'In words' })
    .getByRole('link', { name: /^The Seed Tray/ })
    .first()
    .click();
  await desk.getByRole('heading', { name: 'Over time' }).waitFor();
  await desk.waitForLoadState('networkidle');
  await shot(desk, 'send');
  await shot(desk, 'board', '/boards/6');
  await shot(desk, 'boards', '/boards');
  await shot(desk, 'people', '/people');
  await desk.goto('/groups');
  await alive(desk);
  await desk.getByRole('link', { name: 'Field collectors on the road' }).click();
  await desk.waitForURL(/groups.\d+$/);
  await alive(desk);
  await desk.getByRole('button', { name: 'Change the rule' }).click();
  await desk.getByText(/would be in it/).waitFor();
  await shot(desk, 'group');
  const list = await (await desk.request.get('/api/people.csv')).text();
  const [headings = '', ...lines] = list.trim().split('\r\n');
  // A list as another system keeps it: one has another address, one another name, and one is new.
  const rows = lines.slice(0, 60).map((line, at) => {
    if (at === 4) return line.replace('@', '.home@');
    return at === 9 ? line.replace(/^[^,]+/, 'Somebody Else') : line.replace('driver', 'lorry driver');
  });
  await desk.goto('/people/import');
  await alive(desk);
  await desk.locator('input[type=file]').setInputFiles({
    name: 'autumn rota.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from([headings, ...rows, 'Nell Newcome,nell@thistledown.example,Mill House'].join('\r\n')),
  });
  await desk.getByRole('button', { name: /^Compare/ }).click();
  await desk.waitForURL(/import.\d+$/);
  await desk.getByText(/^It would/).waitFor();
  await shot(desk, 'import');
  await shot(desk, 'answers', '/answers');
  await shot(desk, 'roll', '/answers/2');
  await shot(desk, 'calendar', '/calendar');
  await desk.goto('/answers');
  await alive(desk);
  // The last round that everybody has got.
  await desk.getByRole('main').getByRole('link', { name: 'Catalogue round' }).nth(1).click();
  await desk.getByRole('link', { name: 'What was said' }).click();
  await shot(desk, 'check-in');
  await desk.goto('/automations');
  await alive(desk);
  await desk.getByRole('link', { name: 'Humidity near its limit' }).click();
  await desk.waitForURL(/automations.\d+$/);
  await alive(desk);
  await desk.getByRole('button', { name: 'Try it' }).click();
  await desk.getByText(/meet the conditions/).waitFor();
  await shot(desk, 'automation');
  await desk.goto('/gateways');
  await alive(desk);
  await shot(desk, 'gateways');
  await desk.goto('/write');
  await desk.getByRole('button', { name: 'Start from it' }).last().click();
  await desk.getByRole('toolbar', { name: 'Text of section 1' }).waitFor();
  await desk.waitForLoadState('networkidle');
  await shot(desk, 'write');
  await desk.getByRole('button', { name: 'Rehearse' }).click();
  await desk.getByRole('table', { name: 'Recipients' }).getByRole('row').first().waitFor();
  await shot(desk, 'rehearsal');
  await desk.goto('/write');
  await desk.getByRole('link', { name: 'Rota for the winter readings' }).click();
  await desk.getByRole('toolbar', { name: 'Text' }).waitFor();
  // What is urgent waits for nobody's quiet hours.
  await desk.getByLabel('Importance').selectOption('urgent');
  await desk.getByRole('button', { name: /^Who gets it/ }).click();
  await desk.getByRole('button', { name: /^What is asked back/ }).click();
  await desk.getByRole('radio', { name: /^A poll/ }).check();
  await desk.getByRole('textbox', { name: 'The question' }).fill('Which week suits you?');
  await desk.getByRole('textbox', { name: 'Option 1' }).fill('The first of December');
  await desk.getByRole('textbox', { name: 'Option 2' }).fill('The second of December');
  await desk.getByRole('checkbox', { name: /chase those/ }).check();
  await desk.getByRole('textbox', { name: 'The question' }).focus();
  await desk.getByRole('button', { name: 'Done' }).click();
  await desk.getByRole('button', { name: /^Send to \d+ people/ }).click();
  await desk
    .getByRole('dialog')
    .getByRole('button', { name: /^Send to/ })
    .click();
  await desk.getByText(/Goes out in/).waitFor();
  await desk.getByText('sent', { exact: true }).waitFor({ timeout: 60_000 });

  const mailbox = await browser.newPage({
    baseURL: house.mailboxUrl,
    viewport: { width: 1280, height: 800 },
  });
  const count = async (): Promise<number> => mailbox.getByRole('link', { name: /Rota/ }).count();
  await until(async () => {
    await mailbox.goto('/?to=wren@');
    return (await count()) > 0;
  }, 20_000);
  await mailbox.getByRole('link', { name: /Rota/ }).click();
  await mailbox.waitForLoadState('networkidle');
  await mailbox.screenshot({ path: join(folder, 'mail.png') });
  await shot(await signedIn('Wren Ashdown', 390, 800), 'for-me-phone', '/for-me');
  const sarita = await signedIn('Sarita Thapali');
  await sarita.goto('/boards');
  await sarita.getByRole('listitem').getByRole('link', { name: 'Field season' }).click();
  await sarita.getByRole('link', { name: 'Best find of the week' }).click();
  await sarita.getByRole('textbox', { name: 'Your reply' }).waitFor();
  await shot(sarita, 'post');
  await sarita.goto('/shelf');
  await alive(sarita);
  await sarita.getByRole('searchbox').fill('who can have a vault key');
  await sarita.getByRole('link', { name: 'Who may hold a vault key?' }).waitFor();
  await shot(sarita, 'shelf');
} finally {
  await browser.close();
  await house.stop();
}
