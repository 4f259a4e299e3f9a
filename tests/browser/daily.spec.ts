import type { Page } from '@playwright/test';
import { chooseGroup, fillDate, openPhrase } from './fields.ts';
import { expect, houseUrl, test, visit } from './people.ts';

/** Posts on a board as whoever is signed in; gives the id. */
async function post(page: Page, board: number, title: string, text: string): Promise<number> {
  const answer = await page.request.post(`/api/boards/${board}/posts`, {
    data: {
      title,
      document: { type: 'doc', content: [{ type: 'paragraph', content: [{ type: 'text', text }] }] },
      image: null,
      gallery: [],
      files: [],
    },
    headers: { origin: houseUrl(), 'idempotency-key': `daily-${title.replaceAll(' ', '-')}` },
  });
  expect(answer.status()).toBeLessThan(300);
  return ((await answer.json()) as { id: number }).id;
}

test('on a board, read is what was on the screen, and the rest stays to be found', async ({ browser }) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  await maud.goto('/boards');
  await maud.getByRole('link', { name: 'Cinder Bay', exact: true }).click();
  const board = Number(/\d+$/.exec(new URL(maud.url()).pathname)?.[0]);
  for (const n of [1, 2, 3, 4])
    await post(maud, board, `Long note ${n}`, `${'A line of it. '.repeat(220)}End ${n}.`);

  const { page: keola } = await visit(browser, 'Keola Palakiko');
  await keola.goto(`/boards/${board}`);
  const shown = keola.getByRole('group', { name: 'What is shown' });
  await expect(shown).toContainText(/[4-9] not read/);
  // The first fills the screen for a moment; what is below it was not seen.
  await keola.getByRole('heading', { name: 'Long note 4' }).scrollIntoViewIfNeeded();
  await keola.evaluate(() =>
    scrollTo(0, document.querySelector('[data-fresh]')?.getBoundingClientRect().top ?? 0),
  );
  await expect(shown).toContainText('3 not read', { timeout: 15_000 });
  await keola.goto(`/boards/${board}?only=unread`);
  await expect(keola.getByRole('heading', { name: 'Long note 4' })).toHaveCount(0);
  await expect(keola.getByRole('heading', { name: 'Long note 3' })).toBeVisible();
  await keola.getByRole('button', { name: 'Next unread' }).click();
  await expect(keola.getByRole('link', { name: /^Long note/ }).and(keola.locator(':focus'))).toHaveCount(1);
  await keola.getByRole('button', { name: 'Mark all as read' }).click();
  await expect(keola.getByText('All of Cinder Bay is marked as read.')).toBeVisible();
  await expect(shown).toContainText('Nothing is unread');
  // Another reader still has them.
  await maud.goto('/boards');

  // From a day on back, in an address that can be gone back to.
  await keola.goto(`/boards/${board}`);
  await keola.getByRole('button', { name: 'Go to a date' }).click();
  await fillDate(keola.getByRole('dialog'), /^The posts of that day/, '2020-01-31');
  await keola.getByRole('link', { name: 'Go there' }).click();
  await expect(keola.getByText('Nothing was posted here until then.')).toBeVisible();
  await keola.goBack();
  await expect(keola.getByRole('heading', { name: 'Long note 4' })).toBeVisible();

  await keola.getByRole('button', { name: 'Members' }).click();
  const members = keola.getByRole('dialog');
  await expect(members.getByRole('heading', { name: /\d+ people can read it/ })).toBeVisible();
  await members.getByRole('searchbox', { name: 'Find a name' }).fill('palakiko keola');
  await expect(members.getByRole('listitem')).toHaveCount(1);
  await members.getByRole('button', { name: 'Close' }).click();

  // A name that is typed after an @ calls.
  await keola.getByRole('button', { name: /^Write on/ }).click();
  await keola.getByRole('textbox', { name: 'Title' }).fill('Who has the ladder?');
  const text = keola.getByRole('textbox', { name: 'Text' });
  await text.click();
  await text.pressSequentially('Ask @Maud Fen');
  await expect(keola.getByRole('option', { name: /Maud Fenwright/ })).toBeVisible();
  await keola.keyboard.press('Enter');
  await text.pressSequentially('please');
  await keola.getByRole('button', { name: 'Post on Cinder Bay' }).click();
  await maud.goto('/for-me');
  await expect(maud.getByRole('link', { name: 'Who has the ladder?' }).first()).toBeVisible();
});

test('what recurs is skipped far ahead and put back, and what has gone is withdrawn and let hold again', async ({
  browser,
}) => {
  const { page: maud } = await visit(browser, 'Maud Fenwright');
  const begin = async (title: string): Promise<void> => {
    await maud.goto('/write');
    await maud.getByRole('button', { name: 'New announcement' }).click();
    await maud.getByRole('textbox', { name: 'Title' }).fill(title);
    await maud.getByLabel('Importance').selectOption('urgent');
    await maud.getByRole('textbox', { name: 'Text' }).click();
    await maud.keyboard.type('The third shelf is free.');
    await openPhrase(maud, /^Who gets it/);
    await chooseGroup(maud, 'Cinder Bay');
  };
  await begin('Shelf of the week');
  await openPhrase(maud, /^When it goes out/);
  await maud.getByRole('radio', { name: 'Again and again' }).check();
  await maud.getByRole('button', { name: 'Done' }).click();
  await maud.getByRole('button', { name: /^Plan for \d+ people/ }).click();
  await expect(maud.getByRole('dialog')).toContainText(
    /Read by all, it takes about \d+ minutes? of \d+ people’s day/,
  );
  await maud
    .getByRole('dialog')
    .getByRole('button', { name: /^Plan for/ })
    .click();
  await maud.waitForURL(/\/sends\/\d+$/);
  const coming = maud.getByRole('region', { name: 'What is to come' });
  await expect(coming.getByRole('listitem')).toHaveCount(20);
  const far = coming.getByRole('listitem').nth(15);
  await far.getByRole('button', { name: /^Skip/ }).click();
  await expect(far.getByRole('button', { name: /^Put .* back$/ })).toBeVisible();
  await maud.getByRole('button', { name: 'Undo' }).click();
  await expect(far.getByRole('button', { name: /^Skip/ })).toBeVisible();

  await begin('The third shelf');
  await maud.keyboard.press('Escape');
  await maud.getByRole('button', { name: /^Send to \d+ people/ }).click();
  await maud
    .getByRole('dialog')
    .getByRole('button', { name: /^Send to/ })
    .click();
  await maud.waitForURL(/\/sends\/\d+$/);
  await expect(maud.getByRole('button', { name: 'Withdraw it' })).toBeVisible({ timeout: 40_000 });
  const { page: keola } = await visit(browser, 'Keola Palakiko');
  await keola.goto('/for-me');
  await keola.getByRole('link', { name: 'The third shelf' }).first().click();
  await expect(keola.getByText('The third shelf is free.')).toBeVisible();
  await maud.getByRole('button', { name: 'Withdraw it' }).click();
  await maud.getByRole('dialog').getByRole('button', { name: 'Withdraw it' }).click();
  await expect(maud.getByText('Say why, in a few words.')).toBeVisible();
  await maud.getByRole('dialog').getByRole('textbox').fill('It was taken yesterday.');
  await maud.getByRole('dialog').getByRole('button', { name: 'Withdraw it' }).click();
  await expect(maud.getByRole('button', { name: 'Let it hold again' })).toBeVisible();
  await keola.reload();
  await expect(keola.getByText('It was taken yesterday.')).toBeVisible();
  await expect(keola.getByText('The third shelf is free.')).toHaveCount(0);
  await maud.getByRole('button', { name: 'Let it hold again' }).click();
  await expect(maud.getByRole('button', { name: 'Withdraw it' })).toBeVisible();
  await keola.reload();
  await expect(keola.getByText('The third shelf is free.')).toBeVisible();
});
