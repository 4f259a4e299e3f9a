import { expect, houseUrl, test, visit } from './people.ts';

test('a member sees why there is no place to write, and the endpoint refuses too', async ({ browser }) => {
  const { page, context } = await visit(browser, 'Keola Palakiko');
  await page.goto('/');
  await page.getByRole('link', { name: 'Boards' }).click();
  await page.getByRole('link', { name: 'House rules' }).click();
  await expect(
    page.getByText('Only those who moderate House rules post here: Maud Fenwright.'),
  ).toBeVisible();
  await expect(page.getByRole('button', { name: /^Pin/ })).toHaveCount(0);
  const board = /\d+$/.exec(page.url())?.[0] ?? '';
  const document = {
    type: 'doc',
    content: [{ type: 'paragraph', content: [{ type: 'text', text: 'Hello' }] }],
  };
  const post = (headers: Record<string, string>) =>
    context.request.post(`/api/boards/${board}/posts`, { data: { title: 'Hello', document }, headers });
  const refused = await post({ origin: houseUrl(), 'idempotency-key': 'member-tries' });
  expect(refused.status()).toBe(403);
  expect(refused.headers()['content-type']).toBe('application/problem+json');
  const problem = (await refused.json()) as { detail: string };
  expect(problem.detail).toContain('Only those who moderate');
  expect(problem).toMatchObject({
    status: 403,
  });
  // The same from another site's page is refused before anything is read.
  for (const origin of ['https://elsewhere.example', 'null', 'not an origin'])
    expect((await post({ origin, 'idempotency-key': 'other-site' })).status(), origin).toBe(403);
});

test('a moderator pins and unpins, and another reader sees it without a reload', async ({ browser }) => {
  const { page: member } = await visit(browser, 'Keola Palakiko');
  await member.goto('/');
  const { page: moderator } = await visit(browser, 'Kailani Mahoe-Lani');
  await member.getByRole('link', { name: 'Boards' }).click();
  await member.getByRole('link', { name: 'Cinder Bay' }).click();
  await member.getByRole('button', { name: 'Write on Cinder Bay' }).click();
  await member.getByRole('button', { name: 'Post on Cinder Bay' }).click();
  await expect(member.getByText('It has no title.')).toBeVisible();
  await member.getByRole('textbox', { name: 'Title' }).fill('Lost: one left boot');
  await member.getByRole('textbox', { name: 'Text' }).fill('Green, size 42.\n\nAsk me.');
  await member.getByRole('button', { name: 'Post on Cinder Bay' }).click();
  await expect(member.getByRole('article', { name: 'Lost: one left boot' })).toBeVisible();

  await moderator.goto(member.url());
  await moderator.getByRole('button', { name: 'Pin Lost: one left boot' }).click();
  await moderator.getByRole('dialog').getByRole('button', { name: 'Pin it' }).click();
  await expect(
    member.getByRole('region', { name: 'Pinned' }).getByRole('article', { name: 'Lost: one left boot' }),
  ).toBeVisible();
  await moderator
    .getByRole('region', { name: 'Pinned' })
    .getByRole('button', { name: 'Unpin Lost: one left boot' })
    .click();
  await expect(member.getByRole('region', { name: 'Pinned' })).toHaveCount(0);
});

test("another role's addresses lead nowhere", async ({ browser }) => {
  const { page, context } = await visit(browser, 'Keola Palakiko');
  for (const path of ['/run-sheet', '/write', '/answers', '/people', '/sends/1', '/write/1']) {
    await page.goto(path);
    await expect(page, path).toHaveURL(/\/for-me$/);
  }
  // A board and an announcement that are not his do not even give away their names.
  for (const path of [
    '/boards/6',
    '/for-me/11',
    '/boards/999999',
    '/for-me/x',
    '/answers/1',
    '/answers/1/print',
    '/check-ins/1',
    '/check-ins/1/history',
  ]) {
    const response = await page.goto(path);
    expect(response?.status(), path).toBe(404);
    await expect(page.getByRole('heading', { level: 1 })).toHaveText('There is nothing here');
  }
  const origin = { origin: houseUrl() };
  const tries: [string, string, unknown][] = [
    ['GET', '/api/run-sheet', undefined],
    ['GET', '/api/ribbon', undefined],
    ['GET', '/api/people', undefined],
    ['GET', '/api/asks/1', undefined],
    ['GET', '/api/asks/1/roll.csv', undefined],
    ['GET', '/api/sends/1', undefined],
    ['GET', '/api/live?topic=roll:11', undefined],
    ['GET', '/api/asks', undefined],
    ['GET', '/api/asks/1/results', undefined],
    ['GET', '/api/asks/1/people', undefined],
    ['GET', '/api/asks/1/ballots.csv', undefined],
    ['POST', '/api/asks/1/close', undefined],
    ['POST', '/api/asks/1/chase', undefined],
    ['GET', '/api/asks/11/box', undefined],
    ['POST', '/api/asks/11/answer', { choices: [1] }],
    ['GET', '/api/check-ins/1', undefined],
    ['GET', '/api/check-ins/1/history', undefined],
    ['POST', '/api/check-ins/1/people/1/replies', { text: 'Mine' }],
    ['PUT', '/api/groups/1/owners', { personId: 9, looksAfter: true }],
    ['POST', '/api/organisation-settings/holidays', { on: '2027-01-01', name: 'Mine', stationId: null }],
    ['DELETE', '/api/me/absences/999999', undefined],
    ['GET', '/api/live?topic=board:6', undefined],
    ['GET', '/api/announcements/1', undefined],
    ['POST', '/api/announcements', undefined],
    ['POST', '/api/announcements/1/send', { revision: 1 }],
    ['POST', '/api/sends/1/take-back', undefined],
    ['PUT', '/api/posts/1/pin', { pinned: true }],
    ['PUT', '/api/people/2/standing', { left: true }],
    ['POST', '/api/for-me/11/acknowledge', undefined],
    ['POST', '/api/boards', { name: 'Mine', about: 'Mine.', purpose: 'talk', groupId: null }],
    ['GET', '/api/boards/6/settings', undefined],
    ['PUT', '/api/boards/1/settings', { posting: 'members' }],
    ['PUT', '/api/boards/1/moderators', { personId: 9, moderates: true }],
    ['PUT', '/api/boards/1/links', { links: [] }],
    ['PUT', '/api/boards/order', { ids: [1] }],
    ['GET', '/api/boards/6/names?q=a', undefined],
    ['GET', '/api/boards/6/reach', undefined],
    ['PUT', '/api/boards/6/seen', { toMs: 1 }],
    ['GET', '/api/shelf/desk', undefined],
    ['POST', '/api/ribbons', { name: 'Mine', emblem: 'key', colour: 'slate' }],
    ['POST', '/api/thanks/digest', { month: '2026-11' }],
    ['GET', '/api/live?topic=person:1', undefined],
    ['GET', '/api/live?topic=group:1', undefined],
    ['GET', '/api/live?topic=people', undefined],
    ['POST', '/api/sends/1/board', undefined],
  ];
  for (const [method, path, data] of tries) {
    const response = await context.request.fetch(path, {
      method,
      headers: { ...origin, 'idempotency-key': 'not-mine-at-all' },
      ...(data ? { data } : {}),
    });
    expect([403, 404], `${method} ${path}`).toContain(response.status());
  }
  const stranger = await browser.newContext({ baseURL: houseUrl() });
  expect((await stranger.request.get('/api/for-me')).status()).toBe(401);
});

test('a coordinator adds a person, marks them as left, and brings them back', async ({ browser }) => {
  const { page } = await visit(browser, 'Maud Fenwright');
  await page.goto('/people');
  await page.getByRole('button', { name: 'Add a person' }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Perpetua Oakes');
  await page.getByRole('textbox', { name: 'Mail address, if there is one' }).fill('not an address');
  await page.getByRole('button', { name: 'Add to the organisation' }).click();
  await expect(page.getByText('That is not a mail address')).toBeVisible();
  await page
    .getByRole('textbox', { name: 'Mail address, if there is one' })
    .fill('perpetua@thistledown.example');
  await page.getByRole('button', { name: 'Add to the organisation' }).click();
  await expect(page.getByText('Perpetua Oakes was added')).toBeVisible();
  await page.getByRole('searchbox').fill('perpetua@');
  const row = page.getByRole('row').filter({ hasText: 'perpetua@thistledown.example' });
  await expect(row.getByText('has not been invited')).toBeVisible();
  await row.getByRole('button', { name: 'Change Perpetua Oakes' }).click();
  await page.getByRole('textbox', { name: 'Occupation' }).fill('seed librarian');
  await page.getByRole('combobox', { name: 'Role' }).selectOption('editor');
  await page.getByRole('button', { name: 'Change it' }).click();
  await expect(row.getByRole('cell', { name: 'seed librarian' })).toBeVisible();
  await expect(row.getByRole('cell', { name: 'Perpetua Oakes editor' })).toBeVisible();
  await page.getByRole('button', { name: 'Mark Perpetua Oakes as left' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Mark as left' }).click();
  await page.getByRole('button', { name: 'Mark Perpetua Oakes as back' }).click();
  await expect(page.getByText('Perpetua Oakes is back.')).toBeVisible();
});
