import { expect, houseUrl, test, visit } from './people.ts';

test('who leaves at the source is out here within the second', async ({ browser, request }) => {
  const { page: desk } = await visit(browser, 'Maud Fenwright');
  await desk.goto('/accounts');
  await desk.getByRole('textbox', { name: 'A system to let in, by name' }).fill('The personnel office');
  await desk.getByRole('button', { name: 'Let it in' }).click();
  const token = (await desk.getByRole('group', { name: 'The token' }).locator('pre').textContent()) ?? '';
  expect(token).toMatch(/^[\w-]{43}$/);
  const base = (await desk.getByText(/\/scim\/v2$/).textContent()) ?? '';
  expect(base).toBe(`${houseUrl()}/scim/v2`);

  const { page: member } = await visit(browser, 'Keola Palakiko');
  await member.goto('/boards');
  const headers = { authorization: `Bearer ${token}`, 'content-type': 'application/scim+json' };
  const filter = encodeURIComponent('userName eq "keola@thistledown.example"');
  const found = (await (await request.get(`${base}/Users?filter=${filter}`, { headers })).json()) as {
    Resources: { id: string; active: boolean }[];
  };
  expect(found.Resources).toMatchObject([{ active: true }]);
  const change = async (active: boolean): Promise<void> => {
    const answer = await request.patch(`${base}/Users/${found.Resources[0]!.id}`, {
      headers,
      data: {
        schemas: ['urn:ietf:params:scim:api:messages:2.0:PatchOp'],
        Operations: [{ op: 'replace', path: 'active', value: active }],
      },
    });
    expect(answer.ok()).toBe(true);
  };
  await change(false);
  await member.goto('/for-me');
  await expect(member).toHaveURL(/\/sign-in/);
  await expect(member.getByRole('button', { name: /Keola Palakiko/ })).toHaveCount(0);

  await desk.goto(`/person/${found.Resources[0]!.id}`);
  await expect(desk.getByText(/The personnel office/).first()).toBeVisible();
  await change(true);
  await desk.goto('/accounts');
  await desk.getByRole('button', { name: 'Remove The personnel office' }).click();
  await desk.getByRole('dialog').getByRole('button', { name: 'Remove it' }).click();
  await expect(desk.getByRole('list', { name: 'Systems' })).toHaveCount(0);
  expect((await request.get(`${base}/Users`, { headers })).status()).toBe(401);
});

test('a member asks to come into a group on a phone, its owner lets them in, and brings in a newcomer', async ({
  browser,
}) => {
  const { page: asking } = await visit(browser, 'Keola Palakiko', { viewport: { width: 390, height: 844 } });
  await asking.goto('/boards');
  await asking.getByRole('link', { name: 'Your groups' }).click();
  await asking.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await asking.getByRole('button', { name: 'Ask to come into Catalogue working party' }).click();
  await asking.getByRole('textbox', { name: /A word to its owner/ }).fill('Tuesdays suit me.');
  await asking.getByRole('button', { name: 'Ask', exact: true }).click();
  await expect(asking.getByRole('button', { name: 'Ask Catalogue working party no longer' })).toBeVisible();

  const { page: owner } = await visit(browser, 'Wren Ashdown');
  await owner.goto('/groups/mine');
  await expect(owner.getByText('Tuesdays suit me.')).toBeVisible();
  await owner
    .getByRole('button', { name: 'Let Keola Palakiko into Catalogue working party', exact: true })
    .click();
  await expect(owner.getByText('Tuesdays suit me.')).toHaveCount(0);
  // Whoever asked sees it without asking again.
  await expect(asking.getByRole('button', { name: 'Go out of Catalogue working party' })).toBeVisible();

  const bring = owner.getByRole('form', { name: 'Bring somebody into Catalogue working party' });
  await bring.getByRole('textbox', { name: 'Mail address' }).fill('ines.farrow@thistledown.example');
  await bring.getByRole('button', { name: 'Bring in' }).click();
  await expect(bring.getByText('Nobody here has this address yet')).toBeVisible();
  await bring.getByRole('textbox', { name: 'Name, of somebody new' }).fill('Ines Farrow');
  await bring.getByRole('button', { name: 'Bring in' }).click();
  await expect(owner.getByText('Ines Farrow is invited.')).toBeVisible();

  await asking.getByRole('button', { name: 'Go out of Catalogue working party' }).click();
  await expect(
    asking.getByRole('button', { name: 'Ask to come into Catalogue working party' }),
  ).toBeVisible();
});

test('a guest from outside sees what is chosen for them and nothing that is everybody’s', async ({
  browser,
}) => {
  const { page: desk } = await visit(browser, 'Maud Fenwright');
  const { page: keola } = await visit(browser, 'Keola Palakiko', { viewport: { width: 390, height: 844 } });
  await keola.goto('/boards');
  await expect(keola.getByRole('link', { name: 'House rules' }).first()).toBeVisible();
  const until = async (keys: string[]): Promise<void> => {
    await desk.goto('/people?search=Keola');
    await desk.getByRole('button', { name: 'Change Keola Palakiko' }).click();
    const dialog = desk.getByRole('dialog');
    await dialog.getByRole('spinbutton', { name: /day.*Guest from outside/ }).click();
    for (const key of keys) await desk.keyboard.press(key);
    await dialog.getByRole('button', { name: 'Change it' }).click();
    await expect(dialog).toHaveCount(0);
  };
  await until(['3', '1', '1', '2', '2', '0', '3', '0']);
  await expect(desk.getByText('guest until 31 Dec 2030')).toBeVisible();
  await keola.goto('/boards');
  await expect(keola.getByRole('link', { name: 'House rules' })).toHaveCount(0);
  await expect(keola.getByRole('link', { name: 'Shelf', exact: true })).toHaveCount(0);
  await keola.goto('/shelf');
  await expect(keola).toHaveURL(/\/for-me$/);
  expect((await keola.request.get('/api/shelf/best?q=vault')).status()).toBe(403);
  await until([
    'Backspace',
    'Backspace',
    'ArrowRight',
    'Backspace',
    'Backspace',
    'ArrowRight',
    ...Array<string>(4).fill('Backspace'),
  ]);
  await keola.goto('/boards');
  await expect(keola.getByRole('link', { name: 'House rules' }).first()).toBeVisible();
});

test('a leave is noted with its days, and somebody who has left is erased by their name', async ({
  browser,
}) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/people');
  await page.getByRole('searchbox', { name: /^Find/ }).fill('Suryo');
  await page.getByRole('link', { name: 'Suryo', exact: true }).first().click();
  await page.waitForFunction(() => document.querySelector('astro-island[ssr]') === null);
  await page.getByRole('button', { name: 'Note a leave' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Note it' }).click();
  await expect(dialog.getByText('A date is needed')).toBeVisible();
  await dialog.getByRole('button', { name: 'Leave it' }).click();

  await page.getByRole('button', { name: 'Mark as left' }).click();
  await dialog.getByRole('button', { name: 'Mark as left' }).click();
  await page.getByRole('button', { name: 'Erase', exact: true }).click();
  await dialog.getByRole('textbox').fill('Somebody');
  await dialog.getByRole('button', { name: 'Erase for good' }).click();
  await expect(dialog.getByText(/Write “Suryo” as it stands there/)).toBeVisible();
  await dialog.getByRole('textbox').fill('Suryo');
  await dialog.getByRole('button', { name: 'Erase for good' }).click();
  await expect(page).toHaveURL(/\/people$/);
  await page.getByRole('searchbox', { name: /^Find/ }).fill('Erased person');
  await expect(page.getByRole('link', { name: 'Erased person' })).toHaveCount(0);
  await expect(page.getByText(/Nobody/).first()).toBeVisible();
});
