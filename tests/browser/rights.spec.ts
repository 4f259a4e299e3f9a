import type { APIResponse, BrowserContext } from '@playwright/test';
import type { BoardPermission } from '../../src/core/rights/decide.ts';
import { expectedOutcome, type BOARD_TABLE, type RoleOnBoard } from '../boardTable.ts';
import { expect, houseUrl, test, visit } from './people.ts';

let keys = 0;
const doc = (text: string) => ({
  type: 'doc',
  content: [{ type: 'paragraph', content: [{ type: 'text', text }] }],
});

/** The boards of the demo by what they are for, and who is what on each. */
const PLACES: [string, keyof typeof BOARD_TABLE, Record<string, RoleOnBoard>][] = [
  ['House rules', 'to read', { 'Maud Fenwright': 'c', 'Wren Ashdown': 'p', 'Núria Ferragut': 'e' }],
  ['Vault alerts', 'news', { 'Jago Quillfeather': 'c', 'Otieno Barasi': 'm', 'Marli Saltbrook': 'x' }],
  ['Kestrel Gorge', 'talk', { 'Otieno Barasi': 'o', 'Wren Ashdown': 'x', 'Núria Ferragut': 'x' }],
  ['Catalogue working party', 'held', { 'Wren Ashdown': 'p', 'Keola Palakiko': 'x', 'Maud Fenwright': 'c' }],
  ['Thanks', 'everybody', { 'Sarita Thapali': 'p', 'Kailani Mahoe-Lani': 'm', 'Aroha Te Awhina': 'e' }],
];

test('the endpoints keep to the table of rights, whoever asks with whatever ids', async ({ browser }) => {
  test.setTimeout(300_000);
  const signedIn = new Map<string, BrowserContext>();
  const as = async (name: string): Promise<BrowserContext> => {
    const known = signedIn.get(name);
    if (known) return known;
    const { context } = await visit(browser, name);
    signedIn.set(name, context);
    return context;
  };
  const maud = await as('Maud Fenwright');
  const send = (
    who: BrowserContext,
    method: 'POST' | 'PUT',
    path: string,
    data: object,
  ): Promise<APIResponse> =>
    who.request.fetch(path, {
      method,
      data,
      headers: { origin: houseUrl(), 'idempotency-key': `rights-key-${++keys}` },
    });
  const boards = (await (await maud.request.get('/api/boards')).json()) as { id: number; name: string }[];
  for (const [name, kind, people] of PLACES) {
    const board = boards.find((each) => each.name === name)?.id ?? 0;
    const written = await send(maud, 'POST', `/api/boards/${board}/posts`, {
      title: 'For the table of rights',
      document: doc('To be tried.'),
    });
    const { id } = (await written.json()) as { id: number };
    for (const [person, role] of Object.entries(people)) {
      const who = await as(person);
      const tries: [BoardPermission, () => Promise<APIResponse>][] = [
        [
          'post',
          () => send(who, 'POST', `/api/boards/${board}/posts`, { title: 'Mine', document: doc('Mine.') }),
        ],
        ['reply', () => send(who, 'POST', `/api/posts/${id}/replies`, { document: doc('So?') })],
        [
          'react',
          () => send(who, 'PUT', '/api/reactions', { subject: 'post', id, kind: 'glad', given: true }),
        ],
        ['pin', () => send(who, 'PUT', `/api/posts/${id}/pin`, { pinned: false })],
        ['moderate', () => send(who, 'POST', `/api/posts/${id}/decide`, { decision: 'lock' })],
        ['change settings', () => send(who, 'PUT', `/api/boards/${board}/settings`, { pinLimit: 5 })],
      ];
      for (const [permission, work] of tries) {
        const answer = await work();
        const may = expectedOutcome(kind, permission, role) !== 'denied';
        const told = `${person} (${role}) on ${name}: ${permission} answered ${answer.status()}`;
        if (may) expect(answer.ok(), told).toBe(true);
        else expect([403, 404, 409], told).toContain(answer.status());
        // What is refused to somebody outside does not even say what the board is called.
        if (role === 'x') expect(await answer.text(), told).not.toContain(name);
        if (permission === 'moderate' && may)
          await send(maud, 'POST', `/api/posts/${id}/decide`, { decision: 'unlock' });
      }
    }
  }
});
