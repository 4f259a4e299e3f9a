import { expect, houseUrl, test, visit } from './people.ts';
import { chooseGroup, expectTime, fillTime, openPhrase } from './fields.ts';

const origin = { origin: '' };
test.beforeAll(() => {
  origin.origin = new URL(houseUrl()).origin;
});

/** Every address that came with planning, with the body it takes. `draft` and `send` are somebody else's. */
const ADDRESSES: [string, string, unknown?][] = [
  ['GET', '/api/announcements/DRAFT'],
  ['PUT', '/api/announcements/DRAFT', {}],
  ['DELETE', '/api/announcements/DRAFT'],
  ['POST', '/api/announcements/DRAFT/review', { step: 'clear', revision: 1 }],
  ['GET', '/api/announcements/DRAFT/comments'],
  ['POST', '/api/announcements/DRAFT/comments', { text: 'hello', mentions: [] }],
  ['PUT', '/api/announcements/DRAFT/comments/1', { settled: true }],
  ['GET', '/api/announcements/DRAFT/changes/1'],
  ['GET', '/api/announcements/DRAFT/history'],
  ['GET', '/api/announcements/DRAFT/mail?person=1'],
  ['GET', '/api/announcements/DRAFT/reader?person=1'],
  ['GET', '/api/announcements/DRAFT/rehearsal'],
  ['GET', '/api/announcements/DRAFT/rehearsal/people'],
  ['GET', '/api/announcements/DRAFT/rehearsal.csv'],
  ['POST', '/api/announcements/DRAFT/template'],
  ['POST', '/api/announcements/DRAFT/copy'],
  ['POST', '/api/announcements/DRAFT/test'],
  ['POST', '/api/announcements/DRAFT/leave'],
  ['POST', '/api/announcements/DRAFT/send', { revision: 1 }],
  ['POST', '/api/announcements/DRAFT/correct', { revision: 1, note: 'x', tell: 'nobody' }],
  ['GET', '/api/sends/SEND'],
  ['GET', '/api/sends/SEND/after'],
  ['GET', '/api/sends/SEND/deliveries.csv'],
  ['GET', '/api/sends/SEND/sign-ups.csv'],
  ['POST', '/api/sends/SEND/state', { step: 'end' }],
  ['POST', '/api/sends/SEND/move', { wall: '2030-01-01T09:00', zone: 'UTC' }],
  ['POST', '/api/sends/SEND/open', { to: 'correct' }],
  ['POST', '/api/sends/SEND/take-back'],
  ['POST', '/api/sends/SEND/retry'],
  ['PUT', '/api/organisation-settings/quiet', { quiet: null }],
  ['PUT', '/api/groups/1/clearance', { needed: false }],
  ['GET', '/api/people/11/contacts'],
  ['POST', '/api/people/11/contacts', { name: 'X', mail: 'x@y.example', relation: '' }],
  ['PUT', '/api/boards/1/settings', { sectionLimit: 3 }],
];
/** What only those may who work at the desk. */
const OF_THE_DESK: [string, string, unknown?][] = [
  ['GET', '/api/run-sheet'],
  ['GET', '/api/run-sheet/rows?from=1&to=2'],
  ['GET', '/api/run-sheet/strain?from=1&to=2'],
  ['GET', '/api/names?q=a'],
  ['POST', '/api/count', { audience: { kind: 'everyone' } }],
  ['GET', '/api/saved-audiences'],
  ['POST', '/api/saved-audiences', { name: 'Mine', audience: { kind: 'everyone' } }],
  ['DELETE', '/api/saved-audiences/1'],
  ['POST', '/api/series', { name: 'X', banner: null, heading: '', byline: '', categories: [] }],
  ['PUT', '/api/series/1', { name: 'X', banner: null, heading: '', byline: '', categories: [] }],
  ['POST', '/api/series/1/next'],
  ['POST', '/api/me/calendar'],
  ['POST', '/api/announcements'],
];

test('a member’s and an editor’s hands reach nothing of somebody else’s, by any address', async ({
  browser,
}) => {
  const { context: maud } = await visit(browser, 'Maud Fenwright');
  const begun = await maud.request.post('/api/announcements', { headers: origin });
  const { id: draft } = (await begun.json()) as { id: number };
  // A send of her own: whether the demo has one still to come depends on the weekday.
  const { id: other } = (await (
    await maud.request.post('/api/announcements', { headers: origin })
  ).json()) as { id: number };
  const begunAs = (await (await maud.request.get(`/api/announcements/${other}`)).json()) as {
    content: { sections: object[] };
    plan: object;
  };
  const [section] = begunAs.content.sections;
  const text = { type: 'text', text: 'Keep the lids dry.' };
  const saved = await maud.request.put(`/api/announcements/${other}`, {
    headers: origin,
    data: {
      content: {
        ...begunAs.content,
        title: 'A plan of hers',
        sections: [
          { ...section, document: { type: 'doc', content: [{ type: 'paragraph', content: [text] }] } },
        ],
      },
      plan: {
        ...begunAs.plan,
        audience: { kind: 'person', id: 1 },
        timing: { kind: 'at', wall: '2031-03-03T09:00', zone: 'Europe/London' },
      },
      revision: 1,
    },
  });
  const { revision } = (await saved.json()) as { revision: number };
  const confirmed = await maud.request.post(`/api/announcements/${other}/send`, {
    headers: { ...origin, 'idempotency-key': `attacked-${Date.now()}` },
    data: { revision },
  });
  const { occurrenceId: send } = (await confirmed.json()) as { occurrenceId: number };
  expect(send).toBeGreaterThan(0);

  const { context: wren } = await visit(browser, 'Wren Ashdown');
  const { context: nuria } = await visit(browser, 'Núria Ferragut');
  const status = async (
    who: typeof wren,
    [method, path, body]: (typeof ADDRESSES)[number],
  ): Promise<number> => {
    const address = path.replace('DRAFT', String(draft)).replace('SEND', String(send));
    const response = await who.request.fetch(address, {
      method,
      headers: { ...origin, 'idempotency-key': `attack-${Math.random()}` },
      ...(body === undefined ? {} : { data: body }),
    });
    return response.status();
  };
  // The body is looked at before the rights where it does not even fit: nothing is told by that.
  const refused = [403, 404, 422];
  for (const address of ADDRESSES) {
    expect(refused, `a member: ${address[0]} ${address[1]}`).toContain(await status(wren, address));
    expect(refused, `an editor: ${address[0]} ${address[1]}`).toContain(await status(nuria, address));
  }
  for (const address of OF_THE_DESK)
    expect([403, 404], `a member: ${address[0]} ${address[1]}`).toContain(await status(wren, address));
  // Nothing of it happened.
  const after = (await (await maud.request.get(`/api/announcements/${draft}`)).json()) as {
    revision: number;
  };
  expect(after.revision).toBe(1);
  const still = (await (await maud.request.get(`/api/sends/${send}`)).json()) as { row: { state: string } };
  expect(still.row.state).toBe('scheduled');

  // From another site nothing changes, signed in or not.
  const elsewhere = await maud.request.post('/api/announcements', {
    headers: { origin: 'https://evil.example' },
  });
  expect(elsewhere.status()).toBe(403);
});

test('bad input is told by field, and an upload is only ever saved, never run', async ({ browser }) => {
  const { context } = await visit(browser, 'Maud Fenwright');
  const { request } = context;
  const begun = await request.post('/api/announcements', { headers: origin });
  const { id } = (await begun.json()) as { id: number };
  const draft = (await (await request.get(`/api/announcements/${id}`)).json()) as {
    content: Record<string, unknown>;
    plan: Record<string, unknown>;
  };
  const save = async (part: { content?: Record<string, unknown>; plan?: Record<string, unknown> }) => {
    const response = await request.put(`/api/announcements/${id}`, {
      headers: origin,
      data: {
        content: { ...draft.content, ...part.content },
        plan: { ...draft.plan, ...part.plan },
        revision: 1,
      },
    });
    const problem = (await response.json()) as { errors?: { field: string }[] };
    return [response.status(), ...(problem.errors ?? []).map((error) => error.field)];
  };
  const weekly = {
    freq: 'weekly',
    every: 1,
    weekdays: [],
    monthly: null,
    end: { kind: 'never' },
    except: [],
    added: [],
  };
  const recurring = { kind: 'recurring', start: '2026-12-01T09:00', zone: 'UTC', passed: 'not' };
  expect(await save({ plan: { timing: { ...recurring, rule: { ...weekly, every: 0 } } } })).toEqual([
    422,
    'plan.timing.rule.every',
  ]);
  expect(
    await save({
      plan: { timing: { ...recurring, rule: { ...weekly, end: { kind: 'count', count: 20_000 } } } },
    }),
  ).toEqual([422, 'plan.timing.rule.end.count']);
  expect(
    await save({ plan: { timing: { kind: 'local', wall: '2026-02-30T09:00', passed: 'not' } } }),
  ).toEqual([422, 'plan.timing.wall']);
  expect(await save({ plan: { timing: { ...recurring, zone: 'Mars/Olympus', rule: weekly } } })).toEqual([
    422,
    'plan.timing.zone',
  ]);
  const [section] = draft.content.sections as Record<string, unknown>[];
  const text = (words: string) => ({
    type: 'doc',
    content: [{ type: 'paragraph', content: [{ type: 'text', text: words }] }],
  });
  expect(
    await save({ content: { sections: [{ ...section, document: text('x'.repeat(70_000)) }] } }),
  ).toContain(422);
  expect(
    await save({
      content: { sections: [{ ...section, document: { type: 'doc', content: [{ type: 'iframe' }] } }] },
    }),
  ).toContain(422);
  expect((await save({ content: { title: 'y'.repeat(151) } }))[1]).toBe('content.title');

  const refused = await request.post('/api/uploads?as=image&name=a.svg', {
    headers: { ...origin, 'content-type': 'application/octet-stream' },
    data: Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>'),
  });
  expect(refused.status()).toBe(422);
  const kept = await request.post('/api/uploads?as=file&name=page.txt', {
    headers: { ...origin, 'content-type': 'application/octet-stream' },
    data: Buffer.from('<script>alert(1)</script>'),
  });
  const file = (await kept.json()) as { key: string; name: string };
  const served = await request.get(`/files/${file.key}/${file.name}`);
  expect(served.headers()['content-disposition']).toContain('attachment');
  expect(served.headers()['content-security-policy']).toContain('sandbox');
  expect(served.headers()['content-type']).toBe('text/plain');
  expect((await request.get(`/files/${'A'.repeat(22)}/x`)).status()).toBe(404);
  expect((await request.get('/files/..%2f..%2fetc/passwd')).status()).toBe(404);
  // Fifty megabytes are refused before they are read.
  const large = await request.post('/api/uploads?as=file&name=large.txt', {
    headers: { ...origin, 'content-type': 'application/octet-stream' },
    data: Buffer.alloc(50_000_000, 'a'),
  });
  expect(large.status()).toBe(413);
});

test.describe('a paste', () => {
  // The browser tells of every style in the pasted text that it would not apply.
  test.use({ expectedFaults: /Content Security Policy/ });

  test('what a word processor pastes arrives as text and lists, and nothing else', async ({ browser }) => {
    const { page } = await visit(browser, 'Maud Fenwright');
    await page.goto('/write');
    await page.getByRole('button', { name: 'New announcement' }).click();
    await page.getByRole('textbox', { name: 'Text' }).click();
    await page.evaluate(() => {
      const item = (bullet: string, words: string): string =>
        `<p class="MsoListParagraph"><!--[if !supportLists]--><span><span>${bullet}<span>&nbsp;&nbsp;&nbsp; </span></span></span><!--[endif]-->${words}<o:p></o:p></p>`;
      const data = new DataTransfer();
      data.setData(
        'text/html',
        `<html><head><meta name="Generator"><style>p { color: red }</style></head><body><!--StartFragment-->
       <p class="MsoNormal">Before you go<o:p></o:p></p>${item('·', 'the key')}${item('·', 'a torch')}
       <p class="MsoNormal">Then<o:p></o:p></p>${item('1.', 'open')}${item('2.', 'count')}
       <p>a link to <a href="https://thistledown.example/rota">the rota</a></p><!--EndFragment--></body></html>`,
      );
      document
        .querySelector('.ProseMirror')
        ?.dispatchEvent(
          new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
        );
    });
    const seen = page.getByRole('region', { name: 'What the reader sees' });
    await expect(seen.locator('.matter ul').first().getByRole('listitem')).toHaveText(['the key', 'a torch']);
    await expect(seen.locator('.matter ol').first().getByRole('listitem')).toHaveText(['open', 'count']);
    await expect(seen).toContainText('Before you go');
    await expect(seen.getByRole('link', { name: 'the rota' })).toBeVisible();
    await expect(seen).not.toContainText('color: red');
  });
});

test('a double press plans once, and quiet hours are one’s own', async ({ browser }) => {
  const { page: maud, context } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/write');
  await maud.getByRole('button', { name: 'New announcement' }).click();
  await maud.getByRole('textbox', { name: 'Title' }).fill('Pressed twice');
  await maud.getByRole('textbox', { name: 'Text' }).click();
  await maud.keyboard.type('Once is enough.');
  await openPhrase(maud, /^Who gets it/);
  await chooseGroup(maud, 'First aiders');
  await openPhrase(maud, /^When it goes out/);
  await maud.getByRole('radio', { name: 'At a time where each reader is' }).check();
  await maud.getByRole('button', { name: 'Done' }).click();
  await maud.getByRole('button', { name: /^Schedule for \d+ people/ }).click();
  await maud
    .getByRole('dialog')
    .getByRole('button', { name: /^Schedule for/ })
    .dblclick();
  await maud.waitForURL(/\/sends\/\d+$/);
  // Opened in another tab, the draft is on its way already.
  const second = await context.newPage();
  await second.goto('/run-sheet');
  await second.getByRole('radio', { name: 'fortnight' }).click();
  await expect(
    second
      .getByRole('region', { name: 'On the axis of time' })
      .getByRole('link', { name: /Pressed twice, scheduled/ }),
  ).toHaveCount(1);
  // A quiet hour chosen by a member is theirs alone.
  const { page: wren } = await visit(browser, 'Wren Ashdown');
  await wren.goto('/settings');
  await wren.getByRole('radio', { name: 'My own hours' }).check();
  await fillTime(wren, 'From', '22:15');
  await wren.getByRole('button', { name: 'Save my quiet hours' }).click();
  await expect(wren.getByText('Your quiet hours are saved.')).toBeVisible();
  await expect(wren.getByRole('heading', { name: 'Quiet hours of everybody' })).toHaveCount(0);
  await wren.reload();
  await expectTime(wren, 'From', '22:15');
  await wren.getByRole('radio', { name: /^As everybody/ }).check();
  await wren.getByRole('button', { name: 'Save my quiet hours' }).click();
  await expect(wren.getByText('Your quiet hours are saved.')).toBeVisible();
});

test('a live stream ends with the session it was opened in', async ({ browser }) => {
  const { page, context } = await visit(browser, 'Wren Ashdown');
  await page.goto('/');
  const cookie = (await context.cookies()).map(({ name, value }) => `${name}=${value}`).join('; ');
  const stream = await fetch(`${houseUrl()}/api/live?topic=arrivals`, { headers: { cookie } });
  expect(stream.status).toBe(200);
  const heard = stream.text();
  await page.request.post('/api/sign-out', { data: { everywhere: true }, headers: origin });
  expect(await heard).toContain('event: over');
  expect((await fetch(`${houseUrl()}/api/live?topic=arrivals`, { headers: { cookie } })).status).toBe(401);
});
