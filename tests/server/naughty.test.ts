import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { OpenSession } from '../../src/server/accounts/service.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import type { Route } from '../../src/server/http/endpoint.ts';
import { content, plan, TABLE, type Kind, type Row } from './endpointTable.ts';
import { callRoute, demoHouse, everyRoute, signedIn } from './routes.ts';

let db: Database;
let routes: Map<string, Route>;
let maud: OpenSession;
const ids = new Map<string, number>();

/** Values that break what is written without thinking of them. */
const NAUGHTY: unknown[] = [
  '',
  ' ',
  '\ud800',
  'a\udc00b',
  '\u0000',
  'x\u0000y',
  '😀'.repeat(30),
  'x'.repeat(5_000),
  '\u202e\u200b\u2066text',
  'が か ｶﾞ',
  "'; DROP TABLE people; --",
  '=1+1',
  '<script>alert(1)</script>',
  '../../etc/passwd',
  '0000-01-01',
  '9999-12-31',
  '0000-01-01T00:00',
  '9999-12-31T23:59',
  '2026-02-30',
  '9999-12',
  -1,
  0,
  1.5,
  9e15,
  Number.MAX_SAFE_INTEGER,
  -9e15,
  1e308,
  null,
  true,
  [],
  {},
  [[]],
  { kind: 'everyone' },
  Array.from({ length: 700 }, () => 1),
];

/** A value nested so deep that whoever walks it by recursion falls. */
function deep(levels: number): unknown {
  let value: unknown = { kind: 'everyone' };
  for (let i = 0; i < levels; i++) value = { kind: 'any', of: [value] };
  return value;
}

beforeAll(async () => {
  db = await demoHouse('naughty');
  routes = await everyRoute();
  maud = await signedIn(db, 'maud');
  const one = async (name: Kind, sql: string): Promise<void> => {
    const [row] = await rows<{ id: number | null }>(db, sql);
    ids.set(name, row?.id ?? 9_999_999);
  };
  await one('board', 'SELECT id FROM boards ORDER BY id LIMIT 1');
  await one('post', "SELECT MIN(id) AS id FROM posts WHERE state = 'up' AND occurrence_id IS NULL");
  await one('reply', 'SELECT MIN(id) AS id FROM replies');
  await one('draft', "SELECT MIN(id) AS id FROM announcements WHERE state = 'draft'");
  await one('send', "SELECT MIN(id) AS id FROM occurrences WHERE state = 'scheduled'");
  await one(
    'ask',
    "SELECT MAX(r.occurrence_id) AS id FROM roll r JOIN asks a ON a.occurrence_id = r.occurrence_id WHERE r.person_id = 1 AND a.kind = 'poll'",
  );
  await one(
    'check-in',
    "SELECT MAX(r.occurrence_id) AS id FROM roll r JOIN asks a ON a.occurrence_id = r.occurrence_id WHERE a.kind = 'check-in'",
  );
  await one('person', 'SELECT 2 AS id');
  await one('group', 'SELECT MIN(id) AS id FROM `groups`');
  await one('series', 'SELECT MIN(id) AS id FROM series');
  await one('answer', 'SELECT MIN(id) AS id FROM shelf_answers');
  await one('question', 'SELECT MIN(id) AS id FROM shelf_questions');
  await one('ribbon', 'SELECT MIN(id) AS id FROM ribbons');
  await one('comment', 'SELECT MIN(id) AS id FROM comments');
});
afterAll(() => db.destroy());

const params = (row: Row): Record<string, string> => ({
  kind: 'closing',
  key: 'x'.repeat(22),
  name: 'whole.webp',
  token: 'x',
  ...Object.fromEntries(
    Object.entries(row.ids ?? {}).map(([name, kind]) => [name, String(ids.get(kind) ?? 9_999_999)]),
  ),
});

/** Every place of a value that holds something, as a path. */
function places(value: unknown, path: (string | number)[] = []): (string | number)[][] {
  if (typeof value !== 'object' || value === null) return [path];
  const inner = Object.entries(value).flatMap(([name, part]) =>
    places(part, [...path, Array.isArray(value) ? Number(name) : name]),
  );
  return path.length > 0 ? [path, ...inner] : inner;
}

function withAt(value: unknown, path: readonly (string | number)[], put: unknown): unknown {
  const [first, ...rest] = path;
  if (first === undefined) return put;
  const copy = (Array.isArray(value) ? [...(value as unknown[])] : { ...(value as object) }) as Record<
    string | number,
    unknown
  >;
  copy[first] = withAt(copy[first], rest, put);
  return copy;
}

/** What zod says by itself, and what no reader of ours should have to read. */
const RAW = /\b(Invalid|expected|received|Too (big|small)|Unrecognized|must match|NaN)\b|>=|<=/;

function judge(name: string, answer: { status: number; text: string }, put: unknown): void {
  const about = `${name} ← ${JSON.stringify(put ?? null).slice(0, 80)}: ${answer.status} ${answer.text.slice(0, 300)}`;
  expect(answer.status, about).toBeLessThan(500);
  if (answer.status === 422 || answer.status === 400) {
    const { detail, errors = [] } = JSON.parse(answer.text) as {
      detail: string;
      errors?: { field: string; detail: string }[];
    };
    for (const words of [detail, ...errors.map((error) => error.detail)])
      expect(words, about).not.toMatch(RAW);
  }
}

// What ends the session, or the demo itself, has no place among thousands of calls.
const SPARED = new Set([
  'POST /api/sign-out',
  'PUT /api/people/[id]/standing',
  'DELETE /api/announcements/[id]',
]);
const BODIES = Object.entries(TABLE).filter(([name, row]) => row.body !== undefined && !SPARED.has(name));

it('naughty values at every field of every body: no fault of ours, every refusal in our own words', async () => {
  let calls = 0;
  for (const [name, row] of BODIES) {
    const route = routes.get(name)!;
    const bodies = [
      ...places(row.body).flatMap((path) => {
        // Each field gets its share of the values, another for each, so that all fields meet all kinds.
        const from = (path.join('.').length * 7 + name.length) % 3;
        return NAUGHTY.filter((_, i) => i % 3 === from).map(
          (put) => [withAt(row.body, path, put), put] as const,
        );
      }),
      ...NAUGHTY.slice(0, 4).map((put) => [put, put] as const),
      [deep(1_000), 'deep'] as const,
    ];
    for (const [body, put] of bodies) {
      calls++;
      judge(name, await callRoute(name, route, { session: maud, params: params(row), body }), put);
    }
  }
  expect(calls).toBeGreaterThan(1_500);
}, 240_000);

it('naughty values in every address', async () => {
  const naughty = [
    '',
    'abc',
    '-1',
    '0',
    '1e9',
    '9'.repeat(16),
    '9'.repeat(400),
    '9000000000000000',
    '%ed%a0%80',
    '\u0000',
    '9999-12-31',
    '0000-01-01',
    'post:abc',
  ];
  for (const [name, row] of Object.entries(TABLE)) {
    const route = routes.get(name)!;
    if (row.query !== undefined && name.startsWith('GET'))
      for (const field of new URLSearchParams(row.query).keys())
        for (const put of naughty) {
          const query = new URLSearchParams(row.query);
          query.set(field, put);
          judge(
            name,
            await callRoute(name, route, { session: maud, params: params(row), query: query.toString() }),
            put,
          );
        }
    if (row.ids)
      for (const put of naughty)
        judge(
          name,
          await callRoute(name, route, {
            session: maud,
            params: { ...params(row), id: put },
            ...(row.body === undefined ? {} : { body: row.body }),
          }),
          put,
        );
  }
}, 240_000);

it('an audience nested too deep is refused by its field, and one within bounds is counted', async () => {
  const count = routes.get('POST /api/count')!;
  const ask = (audience: unknown) =>
    callRoute('POST /api/count', count, { session: maud, body: { audience } });
  expect((await ask(deep(7))).status).toBe(200);
  for (const levels of [9, 60, 1_000, 20_000]) {
    // Written as text: what makes JSON of a value falls at such a depth itself.
    const text = `{"audience":${'{"kind":"any","of":['.repeat(levels)}{"kind":"everyone"}${']}'.repeat(levels)}}`;
    const answer = await callRoute('POST /api/count', count, { session: maud, bytes: Buffer.from(text) });
    expect(answer.status, String(levels)).toBe(422);
    expect(answer.text).toContain('nested');
  }
});

it('what goes in comes out: titles and texts of posts, replies and drafts', async () => {
  const board = String(ids.get('board'));
  const whole = fc
    .string({ unit: 'grapheme', minLength: 1, maxLength: 40 })
    .map((text) => `t${text}t`)
    .filter((text) => text.length <= 150 && !text.includes('\u0000') && !/\p{Surrogate}/u.test(text));
  await fc.assert(
    fc.asyncProperty(whole, whole, async (title, text) => {
      const document = { type: 'doc', content: [{ type: 'paragraph', content: [{ type: 'text', text }] }] };
      const wrote = await callRoute(
        'POST /api/boards/[id]/posts',
        routes.get('POST /api/boards/[id]/posts')!,
        {
          session: maud,
          params: { id: board },
          body: { title, document, image: null, files: [] },
        },
      );
      expect(wrote.status, wrote.text).toBe(200);
      const { id } = JSON.parse(wrote.text) as { id: number };
      const read = await callRoute('GET /api/posts/[id]/draft', routes.get('GET /api/posts/[id]/draft')!, {
        session: maud,
        params: { id: String(id) },
      });
      expect(JSON.parse(read.text)).toMatchObject({ title: title.trim(), document });
      const save = { ...content, title, sections: [{ ...content.sections[0], document }] };
      const begun = await callRoute('POST /api/announcements', routes.get('POST /api/announcements')!, {
        session: maud,
      });
      const draft = String((JSON.parse(begun.text) as { id: number }).id);
      const saved = await callRoute(
        'PUT /api/announcements/[id]',
        routes.get('PUT /api/announcements/[id]')!,
        {
          session: maud,
          params: { id: draft },
          body: { content: save, plan, revision: 1, saveOver: false },
        },
      );
      expect(saved.status, saved.text).toBe(200);
      const again = await callRoute(
        'GET /api/announcements/[id]',
        routes.get('GET /api/announcements/[id]')!,
        {
          session: maud,
          params: { id: draft },
        },
      );
      expect((JSON.parse(again.text) as { content: unknown }).content).toEqual(save);
    }),
    { numRuns: 40 },
  );
}, 120_000);

it('one key is bound to what it was first used for', async () => {
  const post = (title: string, key: string) =>
    callRoute('POST /api/boards/[id]/posts', routes.get('POST /api/boards/[id]/posts')!, {
      session: maud,
      params: { id: String(ids.get('board')) },
      key,
      body: { ...(TABLE['POST /api/boards/[id]/posts']!.body as object), title },
    });
  const first = await post('One', 'the-same-key-twice');
  expect((await post('One', 'the-same-key-twice')).text).toBe(first.text);
  expect(await post('Two', 'the-same-key-twice')).toMatchObject({ status: 422 });
  // A request that was refused leaves its key free for the corrected one.
  expect((await post('', 'a-key-for-a-refused-one')).status).toBe(422);
  expect((await post('Three', 'a-key-for-a-refused-one')).status).toBe(200);
});
