import { extractFromJson, extractFromXml } from '@extractus/feed-extractor';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { plainSection } from '../../src/core/content/section.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { stampedResponse } from '../../src/server/http/conditional.ts';
import { newNewsKey, newsFeed } from '../../src/server/news/service.ts';
import { changeStanding } from '../../src/server/people/service.ts';
import { writePost } from '../../src/server/posts/writing.ts';
import { withdraw } from '../../src/server/sends/withdrawing.ts';
import { expandNow } from './expandNow.ts';
import { addGroup, addPeople, coordinator, freshDatabase, sendNow } from './world.ts';

const URL_OF = 'https://bell.example';
const member = (id: number): Actor => ({ id, role: 'member', moderates: new Set(), mayReach: new Set() });
const doc = (text: string) => ({
  type: 'doc' as const,
  content: [{ type: 'paragraph' as const, content: [{ type: 'text' as const, text }] }],
});

let db: Database;
let people: number[];
let board: number;

const makeBoard = (name: string, groupId: number | null): Promise<number> =>
  insertBoard(db, {
    name,
    about: '',
    groupId,
    ...PRESETS.talk.switches,
    ownerId: coordinator.id,
    takesThanks: false,
    position: 1,
  });
const keyOf = async (actor: Actor): Promise<string> =>
  /news\/([^/]+)\//.exec((await newNewsKey(db, actor, URL_OF))[0]!.atom)![1]!;

/** Reads a feed to its end, page after page, as a reader that knows RFC 5005 does. */
async function readAll(key: string, what: string): Promise<{ id: string; title: string }[]> {
  const found: { id: string; title: string }[] = [];
  for (let before: string | null = null, pages = 0; pages < 20; pages++) {
    const text: string = (await newsFeed(db, { key, what, before }, URL_OF)).text();
    const json = what.endsWith('.json');
    const read = json
      ? extractFromJson(JSON.parse(text) as Record<string, unknown>, { normalization: true })
      : extractFromXml(text, { normalization: true });
    for (const entry of read.entries ?? []) found.push({ id: entry.link ?? '', title: entry.title ?? '' });
    const next = json
      ? (JSON.parse(text) as { next_url?: string }).next_url
      : /<link[^>]*rel="next"[^>]*>/.exec(text)?.[0];
    before = /before=([\w.]+)/.exec(next ?? '')?.[1] ?? null;
    if (before === null) return found;
  }
  throw new Error('It has no end');
}

beforeAll(async () => {
  ({ db } = await freshDatabase('news'));
  people = await addPeople(db, 5);
  board = await makeBoard('Bees', await addGroup(db, 'Keepers', people.slice(0, 3)));
  for (let n = 0; n < 120; n++)
    await writePost(
      db,
      member(people[0]!),
      board,
      { title: `Hive ${n}`, document: doc(`It hums ${n}`), image: null, gallery: [], files: [] },
      `hive-${n}`,
    );
});
afterAll(() => db.destroy());

describe('a feed', () => {
  it('of a board is read to its end, each post once, by a reader written elsewhere, as Atom and as JSON Feed', async () => {
    const key = await keyOf(member(people[1]!));
    for (const form of ['atom', 'json']) {
      const found = await readAll(key, `boards/${board}.${form}`);
      expect(found.map((entry) => entry.title)).toEqual(
        Array.from({ length: 120 }, (_, n) => `Hive ${119 - n}`),
      );
      expect(new Set(found.map((entry) => entry.id)).size).toBe(120);
      expect(found[0]!.id).toMatch(/^https:\/\/bell\.example\/posts\/\d+$/);
    }
  });

  it('says what was written, whatever stands in it', async () => {
    const hostile = 'Tom & <b>Jerry</b> ]]> "quoted" \u{1F41D}';
    await writePost(
      db,
      member(people[0]!),
      board,
      { title: hostile, document: doc(hostile), image: null, gallery: [], files: [] },
      'hostile',
    );
    const key = await keyOf(member(people[1]!));
    const text = (await newsFeed(db, { key, what: `boards/${board}.json`, before: null }, URL_OF)).text();
    const [first] = (JSON.parse(text) as { items: { title: string; content_html: string }[] }).items;
    expect(first!.title).toBe(hostile);
    expect(first!.content_html).toContain('Tom &amp; &lt;b&gt;Jerry');
    const atom = await newsFeed(db, { key, what: `boards/${board}.atom`, before: null }, URL_OF);
    const read = extractFromXml(atom.text(), { normalization: false }) as unknown as {
      entry: { title: { '#text': string } | string }[];
    };
    const title = read.entry[0]!.title;
    expect(typeof title === 'string' ? title : title['#text']).toBe(hostile);
  });

  it('tells each part of what was longer than the board takes once, as the board does', async () => {
    const notices = await makeBoard('Notices', null);
    await db('boards').where({ id: notices }).update({ section_limit: 2 });
    const sent = await sendNow(
      db,
      { audience: null, boards: [notices], mail: false },
      {
        title: 'Three things',
        sections: ['one', 'two', 'three'].map((word) => plainSection(doc(word), word)),
      },
    );
    await expandNow(db, sent);
    const key = await keyOf(member(people[1]!));
    const text = (await newsFeed(db, { key, what: `boards/${notices}.json`, before: null }, URL_OF)).text();
    const { items } = JSON.parse(text) as { items: { title: string; content_html: string }[] };
    expect(items.map((item) => item.title).sort()).toEqual([
      'Three things (1 of 2)',
      'Three things (2 of 2)',
    ]);
    const words = items.map((item) =>
      ['one', 'two', 'three'].filter((word) => item.content_html.includes(word)),
    );
    expect(words.sort((a, b) => b.length - a.length)).toEqual([['one', 'two'], ['three']]);
  });

  it('of what came to somebody is theirs alone, follows corrections, and says no more what is withdrawn', async () => {
    const sent = await sendNow(
      db,
      { audience: { kind: 'person', id: people[3]! }, mail: false },
      { title: 'For one', sections: [plainSection(doc('The key is under the mat'))] },
    );
    await expandNow(db, sent);
    const theirs = await keyOf(member(people[3]!));
    const others = await keyOf(member(people[4]!));
    expect(await readAll(theirs, 'for-me.atom')).toEqual([
      { id: `${URL_OF}/for-me/${sent}`, title: 'For one' },
    ]);
    expect(await readAll(others, 'for-me.json')).toEqual([]);
    await db('occurrences').where({ id: sent }).update({ state: 'sent' });
    const before = new Date().toISOString();
    await withdraw(db, coordinator, sent, { note: 'It is not' });
    const stamp = async (): Promise<string> => {
      const text = (await newsFeed(db, { key: theirs, what: 'for-me.json', before: null }, URL_OF)).text();
      return (JSON.parse(text) as { items: { date_modified: string }[] }).items[0]!.date_modified;
    };
    expect((await stamp()) > before).toBe(true);
    for (const form of ['atom', 'json']) {
      const text = (await newsFeed(db, { key: theirs, what: `for-me.${form}`, before: null }, URL_OF)).text();
      expect(text).toContain('Withdrawn: It is not');
      expect(text).not.toContain('under the mat');
    }
  });

  it('is not there for a key that ended, a board that is not one’s own, or whoever has left', async () => {
    const outside = member(people[4]!);
    const key = await keyOf(outside);
    const asked = (what: string, of = key) => newsFeed(db, { key: of, what, before: null }, URL_OF);
    await asked('for-me.atom');
    for (const what of [
      `boards/${board}.atom`,
      'boards.atom',
      'for-me/1.atom',
      'for-me.rss',
      'series/1.atom',
    ])
      await expect(asked(what), what).rejects.toMatchObject({ status: 404 });
    await expect(asked('for-me.atom', 'x'.repeat(32))).rejects.toMatchObject({ status: 404 });
    // Only what they may follow is offered.
    expect((await newNewsKey(db, outside, URL_OF)).map((feed) => feed.name)).toEqual(['For me', 'Notices']);
    await expect(asked('for-me.atom')).rejects.toMatchObject({ status: 404 });
    const inside = member(people[2]!);
    const feeds = await newNewsKey(db, inside, URL_OF);
    expect(feeds.map((feed) => feed.name)).toEqual(['For me', 'Bees', 'Notices']);
    const newer = /news\/([^/]+)\//.exec(feeds[0]!.atom)![1]!;
    await changeStanding(db, coordinator, inside.id, true);
    await expect(asked('for-me.atom', newer)).rejects.toMatchObject({ status: 404 });
  });

  it('is answered 304 while it says the same', async () => {
    const key = await keyOf(member(people[1]!));
    const asked = async (headers: Record<string, string> = {}): Promise<Response> => {
      const feed = await newsFeed(db, { key, what: `boards/${board}.atom`, before: null }, URL_OF);
      return stampedResponse(new Request(URL_OF, { headers }), feed);
    };
    const first = await asked();
    expect(first.headers.get('content-type')).toContain('application/atom+xml');
    const known = { 'if-none-match': first.headers.get('etag')! };
    expect((await asked(known)).status).toBe(304);
    // Another name of its reader, which a field can say, is another text.
    await db('people').where({ id: people[1]! }).update({ greeting: 'Dr' });
    expect((await asked(known)).status).toBe(200);
    await db('people').where({ id: people[1]! }).update({ greeting: '' });
    expect((await asked(known)).status).toBe(304);
    await writePost(
      db,
      member(people[0]!),
      board,
      { title: 'New', document: doc('x'), image: null, gallery: [], files: [] },
      'new-one',
    );
    expect((await asked(known)).status).toBe(200);
  });
});
