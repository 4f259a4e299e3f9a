import { expect, mailboxUrl, test, visit } from './people.ts';
import { chooseGroup, openPhrase, chooseName } from './fields.ts';

test('the next issue of a series begins from the frame of the last, and its number is given when it goes out', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/series/1');
  await page.getByRole('link', { name: 'Methods', exact: true }).click();
  // Among the issues alone: on a Monday the ribbon above has the one that goes out that day.
  const issues = page.getByRole('main');
  await expect(issues.getByRole('link', { name: /The Seed Tray No\. 213/ })).toBeVisible();
  await expect(issues.getByRole('link', { name: /The Seed Tray No\. 214/ })).toHaveCount(0);
  const number =
    /Begin No\. (\d+)/.exec(await page.getByRole('button', { name: /^Begin No/ }).innerText())?.[1] ?? '';
  await page.getByRole('button', { name: /^Begin No/ }).click();
  await page.waitForURL(/\/write\/\d+$/);
  // The headings and accents of the last one, without its texts.
  await expect(
    page.getByRole('region', { name: 'Section 2' }).getByRole('textbox', { name: 'Heading' }),
  ).toHaveValue('From the vaults');
  await page.getByRole('textbox', { name: 'Title' }).fill('The Seed Tray No. {number}: tried');
  const seen = page.getByRole('region', { name: 'What the reader sees' });
  await expect(seen.getByRole('heading', { name: `The Seed Tray No. ${number}: tried` })).toBeVisible();
  await expect(seen.getByRole('img', { name: 'Hills, with seeds on the wind' })).toBeVisible();
  // As mail, in a frame in which nothing runs; and as text.
  await seen.getByRole('tab', { name: 'mail', exact: true }).click();
  const letter = page.frameLocator('iframe[title="The mail"]');
  await expect(letter.getByRole('heading', { name: `The Seed Tray No. ${number}: tried` })).toBeVisible();
  await seen.getByRole('tab', { name: 'mail as text' }).click();
  await expect(seen.locator('pre')).toContainText('From the vaults\n===============');
  await seen.getByRole('tab', { name: 'push' }).click();
  await expect(seen).toContainText('Clear Bell');
  await seen.getByRole('combobox', { name: /^Colours/ }).selectOption('night');
  await expect(seen.locator('[data-theme=night]')).toBeVisible();
  await page.getByRole('button', { name: 'Throw this draft away' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Throw it away' }).click();
  await page.waitForURL(/\/write$/);
});

test('an audience is built by what people are and have, kept under a name, and taken up again', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/write');
  await page.getByRole('button', { name: 'New announcement' }).click();
  const plan = page.getByRole('region', { name: 'The plan' });
  await openPhrase(page, /^Who gets it/);
  await page.getByRole('combobox', { name: /^Chosen by/ }).selectOption('occupation');
  await page.getByRole('combobox', { name: /^Which/ }).selectOption('driver');
  await expect(plan).toContainText(/To every driver,/);
  const drivers = Number(/Goes to (\d+)/.exec(await plan.innerText())?.[1]);
  await page.getByRole('combobox', { name: /^Add/ }).selectOption('also');
  await page.getByRole('combobox', { name: /^Chosen by/ }).selectOption('attribute');
  await page.getByRole('combobox', { name: /^Which/ }).selectOption({ label: 'licence: lorry' });
  await page.getByRole('combobox', { name: /^Add/ }).selectOption('except');
  await page.getByRole('combobox', { name: /^Chosen by/ }).selectOption('person');
  await chooseName(page, 'Name', 'Marli', /Marli Saltbrook/);
  await expect(plan).toContainText(
    'To every driver, only those whose licence is lorry except Marli Saltbrook,',
  );
  await expect
    .poll(async () => Number(/Goes to (\d+)/.exec(await plan.innerText())?.[1]))
    .toBeLessThan(drivers);
  await page.getByLabel('Keep this one under a name').fill('Lorries without Marli');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await page.getByRole('button', { name: 'Take out: Marli Saltbrook' }).click();
  await expect(plan).not.toContainText('except Marli');
  await page
    .getByRole('group', { name: 'Audiences to begin with' })
    .getByRole('button', { name: /^Lorries without Marli/ })
    .click();
  await expect(plan).toContainText('except Marli Saltbrook');
  // The same name again is refused, and nothing is lost.
  await page.getByLabel('Keep this one under a name').fill('lorries without marli');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText('An audience has this name already')).toBeVisible();
  // Post only where the chosen groups have their place.
  await chooseGroup(page, 'Tarn Hollow');
  await page.getByRole('button', { name: /^Post only on the board/ }).click();
  await expect(plan).toContainText('To readers of the board, on the board Tarn Hollow');
});

test('whoever is passed a link signs up under it, and the coordinator sees by whose', async ({ browser }) => {
  const { page: wren } = await visit(browser, 'Wren Ashdown');
  const { page: desk } = await visit(browser, 'Maud Fenwright');
  await desk.goto('/write');
  await desk.getByRole('button', { name: 'New announcement' }).click();
  await desk.getByRole('textbox', { name: 'Title' }).fill('An open afternoon');
  await desk.getByLabel('Importance').selectOption('urgent');
  await desk.getByRole('textbox', { name: 'Text' }).click();
  await desk.keyboard.type('Bring somebody.');
  await desk.getByRole('checkbox', { name: /^An event/ }).check();
  await desk.getByRole('textbox', { name: 'Place' }).fill('The vault');
  await desk.getByRole('checkbox', { name: /^Each reader gets a link/ }).check();
  await openPhrase(desk, /^Who gets it/);
  await desk.getByRole('combobox', { name: /^Chosen by/ }).selectOption('person');
  await chooseName(desk, 'Name', 'Wren Ash', /Wren Ashdown/);
  await desk.getByRole('button', { name: 'Done' }).click();
  await desk.getByRole('button', { name: /^Send to 1 person/ }).click();
  await desk
    .getByRole('dialog')
    .getByRole('button', { name: /^Send to/ })
    .click();
  await expect(desk.getByText('sent', { exact: true })).toBeVisible({ timeout: 30_000 });

  await expect(async () => {
    await wren.goto('/for-me');
    await wren.getByRole('link', { name: 'An open afternoon' }).first().click({ timeout: 1000 });
  }).toPass();
  const link =
    (await wren.getByRole('group', { name: 'Your own link to pass on' }).locator('pre').textContent()) ?? '';
  const stranger = await browser.newContext();
  const guest = await stranger.newPage();
  await guest.goto(link);
  await expect(guest.getByText('Wren Ashdown passed this on to you.')).toBeVisible();
  await guest.getByRole('button', { name: 'Sign up' }).click();
  await expect(guest.getByText('Write your name')).toBeVisible();
  await guest.getByLabel('Your name').fill('Linnet Guest');
  await guest.getByLabel('Your mail address').fill('nowhere');
  await guest.getByRole('button', { name: 'Sign up' }).click();
  await expect(guest.getByText('Write a mail address')).toBeVisible();
  await expect(guest.getByLabel('Your name')).toHaveValue('Linnet Guest');
  await guest.getByLabel('Your mail address').fill('linnet@visitors.example');
  await guest.getByRole('button', { name: 'Sign up' }).click();
  await expect(guest.getByText('You are signed up.')).toBeVisible();
  // The desk follows without a reload.
  await expect(desk.getByRole('heading', { name: '1 signed up, by whose link' })).toBeVisible();

  // Her mail holds the event for her calendar.
  const mailbox = await stranger.newPage();
  await expect(async () => {
    await mailbox.goto(`${mailboxUrl()}/?to=wren@`);
    await mailbox.getByRole('link', { name: /An open afternoon/ }).click({ timeout: 1000 });
  }).toPass({ timeout: 20_000 });
  const raw = (await (await mailbox.request.get(`${mailboxUrl()}/api/mails?most=20`)).json()) as {
    mails: { subject: string; raw: string }[];
  };
  const mail = raw.mails.find((each) => each.subject === 'An open afternoon');
  expect(mail?.raw).toMatch(/Content-Type: text\/calendar; [^]*method=PUBLISH/i);

  // The guest's mail confirms it, and lets her take her name off.
  let off = '';
  await expect(async () => {
    const got = (await (await mailbox.request.get(`${mailboxUrl()}/api/mails?most=40`)).json()) as {
      mails: { to: string; subject: string; text: string }[];
    };
    const confirmed = got.mails.find((each) => each.to === 'linnet@visitors.example');
    expect(confirmed?.subject).toBe('You are signed up: An open afternoon');
    off = /\/m\/sign-up\/\S+/.exec(confirmed?.text ?? '')?.[0] ?? '';
  }).toPass({ timeout: 20_000 });
  await guest.goto(new URL(off, link).href);
  await expect(guest.getByText('Linnet Guest is signed up.')).toBeVisible();
  await guest.getByRole('button', { name: 'Take the name off' }).click();
  await expect(guest.getByText(/Your name is off the list/)).toBeVisible();
  await expect(desk.getByRole('heading', { name: '0 signed up, by whose link' })).toBeVisible();
});

test('a recurring send is paused and let go on, and a group is asked for clearance', async ({ browser }) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/run-sheet');
  await page.getByRole('radio', { name: 'fortnight' }).click();
  const words = page.getByRole('region', { name: 'In words' });
  await words.getByRole('link', { name: 'Your lines for the next Seed Tray' }).last().click();
  await page.getByRole('button', { name: 'Pause it' }).click();
  await expect(page.getByText(/It is paused: it does not go out/)).toBeVisible();
  await page.getByRole('button', { name: 'Let it go on' }).click();
  await expect(page.getByText(/^Goes out in/)).toBeVisible();
  await page.getByRole('button', { name: 'Change it from the next one on' }).click();
  await page.waitForURL(/\/write\/\d+$/);
  await expect(page.getByRole('heading', { name: 'Change what recurs' })).toBeVisible();
  await page.getByRole('button', { name: 'Leave it as it was' }).click();
  await page.waitForURL(/\/run-sheet$/);

  await page.goto('/groups');
  await page.getByRole('link', { name: 'First aiders' }).click();
  const box = page.getByRole('checkbox', { name: /cleared by a second person/ });
  const kept = page.waitForResponse(/\/clearance$/);
  await box.check();
  expect((await kept).ok()).toBe(true);
  await page.reload();
  await expect(box).toBeChecked();
  await box.uncheck();
  await page.goto('/people');
  const person = page.getByRole('row').filter({ hasText: 'Aitana' }).first();
  // The scripts of the next page come late: what is written and pressed waits for them.
  await page.route(/\/PersonDesk[^/]*\.js/, async (route) => {
    await new Promise((go) => setTimeout(go, 2_000));
    await route.continue();
  });
  await person.getByRole('link', { name: /^Aitana/ }).click();
  const contacts = page.getByRole('region', { name: 'Linked contacts' });
  await contacts.getByLabel('Name').fill('A sister');
  await contacts.getByLabel('Mail address').fill('sister@visitors.example');
  await contacts.getByRole('button', { name: 'Link them' }).click();
  await expect(contacts.getByRole('listitem').filter({ hasText: 'A sister' })).toBeVisible();
});
