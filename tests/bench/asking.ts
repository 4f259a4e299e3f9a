import { createHash } from 'node:crypto';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { AttemptLimit } from '../../src/server/accounts/rateLimit.ts';
import { answerApi } from '../../src/server/api/answer.ts';
import { makeToken } from '../../src/server/api/tokens.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { stampedResponse } from '../../src/server/http/conditional.ts';
import { newNewsKey, newsFeed } from '../../src/server/news/service.ts';
import { writePost } from '../../src/server/posts/writing.ts';
import { coordinator } from './data.ts';
import { sized } from './size.ts';

const CALLS = sized(400);
const POSTS = sized(5_000);
const URL_OF = 'https://bell.example';
const BASE = `${URL_OF}/api/v1`;

/** The middle and the slow end of so many times, in milliseconds. */
async function spread(work: (at: number) => Promise<unknown>): Promise<string> {
  const took: number[] = [];
  for (let at = 0; at < CALLS; at++) {
    const from = performance.now();
    await work(at);
    took.push(performance.now() - from);
  }
  took.sort((a, b) => a - b);
  const of = (share: number): string => (took[Math.floor(took.length * share)] ?? 0).toFixed(1);
  return `${of(0.5)} / ${of(0.95)} ms`;
}

/** Calls of the API, and a long feed read by a feed reader, each beside the bare statements. */
export async function asking(db: Database, url: string): Promise<void> {
  await db.raw("UPDATE people SET role = 'coordinator' WHERE id = ?", [coordinator.id]);
  const attempts = new AttemptLimit(url);
  const tokens = await Promise.all(
    Array.from({ length: 4 }, () =>
      makeToken(db, coordinator, { name: 'Bench', scopes: ['people:read'], days: 7 }),
    ),
  );
  const settings = {
    CLEAR_BELL_SECRET: '',
    CLEAR_BELL_URL: BASE,
    MAIL_FROM: 'bell@bell.example',
    MAIL_IN_DOMAIN: undefined,
    LOOKUP_ORIGINS: [],
  };
  const get = async (path: string, at: number): Promise<string> => {
    const token = tokens[at % tokens.length]?.token ?? '';
    const response = await answerApi(
      { db, attempts, base: BASE, settings },
      new Request(`${BASE}${path}`, { headers: { authorization: `Bearer ${token}` } }),
      path.replace(/\?.*/, ''),
    );
    if (response.status !== 200) throw new Error(await response.text());
    return response.text();
  };
  const [last] = await rows<{ id: number }>(db, 'SELECT MAX(id) AS id FROM people');
  const someone = (at: number): number => 1 + ((at * 7919) % (last?.id ?? 1));
  console.log(`a person by the API: ${await spread((at) => get(`/people/${someone(at)}`, at))}`);
  console.log(
    `  the same row bare: ${await spread((at) => rows(db, 'SELECT * FROM people WHERE id = ?', [someone(at)]))}`,
  );
  console.log(`a page of 100 people by the API: ${await spread((at) => get('/people', at))}`);
  console.log(
    `  the same rows bare: ${await spread(() => rows(db, 'SELECT * FROM people ORDER BY id LIMIT 100'))}`,
  );

  const board = await insertBoard(db, {
    name: 'Bees',
    about: '',
    groupId: null,
    ...PRESETS.talk.switches,
    ownerId: coordinator.id,
    takesThanks: false,
    position: 1,
  });
  for (let n = 0; n < POSTS; n++)
    await writePost(
      db,
      coordinator,
      board,
      {
        title: `Hive ${n}`,
        document: {
          type: 'doc',
          content: [{ type: 'paragraph', content: [{ type: 'text', text: 'It hums.' }] }],
        },
        image: null,
        gallery: [],
        files: [],
      },
      createHash('sha256').update(String(n)).digest('base64url'),
    );
  const [feed] = await newNewsKey(db, coordinator, URL_OF);
  const key = /news\/([^/]+)\//.exec(feed?.atom ?? '')?.[1] ?? '';
  const asked = async (before: string | null, known = ''): Promise<Response> => {
    const feed = await newsFeed(db, { key, what: `boards/${board}.atom`, before }, URL_OF);
    return stampedResponse(new Request(URL_OF, { headers: { 'if-none-match': known } }), feed);
  };
  const etag = (await asked(null)).headers.get('etag') ?? '';
  console.log(`a feed of ${POSTS} posts, its first page: ${await spread(() => asked(null))}`);
  console.log(`  answered 304: ${await spread(() => asked(null, etag))}`);
  console.log(`  bare: what is asked for healthz, ${await spread(() => rows(db, 'SELECT 1'))}`);
  let pages = 0;
  const from = performance.now();
  for (let before: string | null = null, more = true; more; pages++) {
    const text = await (await asked(before)).text();
    before = /rel="next"/.test(text)
      ? (/before=([\w.]+)"[^>]*rel="next"|rel="next"[^>]*before=([\w.]+)"/
          .exec(text)
          ?.slice(1)
          .find(Boolean) ?? null)
      : null;
    more = before !== null;
  }
  console.log(`  to its end: ${pages} pages in ${((performance.now() - from) / 1000).toFixed(2)} s`);
}
