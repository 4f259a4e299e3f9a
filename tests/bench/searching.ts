import { percentile } from '../../src/core/delivery/lateness.ts';
import { weights } from '../../src/core/search/query.ts';
import { searchSchema } from '../../src/core/search/searchSchema.ts';
import type { Actor } from '../../src/core/rights/decide.ts';
import { insertBoard } from '../../src/server/boards/store.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { search } from '../../src/server/search/service.ts';
import { PRESETS } from '../../src/core/boards/switches.ts';
import { timed } from './data.ts';
import { sized, times } from './size.ts';

const RUNS = times(40);
const BOARDS = 20;

/** Words of which each is rarer than the one before, as words are: the first is in most texts, the last in few. */
const SYLLABLES = ['dra', 'mel', 'tor', 'win', 'sal', 'per', 'nog', 'bri', 'kul', 'fen', 'ost', 'val'];
const word = (n: number): string =>
  `${SYLLABLES[n % 12] ?? ''}${SYLLABLES[Math.floor(n / 12) % 12] ?? ''}${SYLLABLES[Math.floor(n / 144) % 12] ?? ''}`;

/** A text of forty words by Zipf's law, from a small generator, so that every run has the same texts. */
function textFrom(seed: number): string {
  let state = seed * 2_654_435_761;
  const words: string[] = [];
  for (let i = 0; i < 40; i++) {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    words.push(word(Math.floor(1728 ** (state / 4_294_967_296)) - 1));
  }
  return words.join(' ');
}

/** Searching over posts as they grow tenfold, for a member of half of the boards and for a coordinator. */
export async function searching(db: Database): Promise<void> {
  const boards: number[] = [];
  const [group = 0] = await db('groups').insert({ name: 'Half', kind: 'fixed', rule: null });
  await db('group_members').insert({ group_id: group, person_id: 2 });
  const [other = 0] = await db('groups').insert({ name: 'Other half', kind: 'fixed', rule: null });
  for (let i = 0; i < BOARDS; i++)
    boards.push(
      await insertBoard(db, {
        name: `Board ${i}`,
        about: 'A board.',
        groupId: i % 2 === 0 ? group : other,
        ...PRESETS.talk.switches,
      }),
    );
  const person = (id: number, role: Actor['role']): Actor => ({
    id,
    role,
    moderates: new Set(),
    mayReach: new Set(),
  });
  const queries: [string, Record<string, unknown>][] = [
    ['a word in most texts', { q: word(0) }],
    ['a word in a tenth of the texts', { q: word(9) }],
    ['a rare word', { q: word(1500) }],
    ['two words', { q: `${word(3)} ${word(40)}` }],
    ['the beginning of a word', { q: word(30).slice(0, 5) }],
    ['a common word on one board', { q: word(1), board: boards[0] }],
    [
      'a common word by an author in a month',
      { q: word(1), author: 7, from: '2026-01-01', to: '2026-01-31' },
    ],
    ['no word: the latest', {}],
  ];
  let have = 0;
  for (const size of [sized(10_000), sized(100_000)]) {
    for (; have < size; have += 2_000) await layPosts(db, have, 2_000, boards);
    await db.raw('ANALYZE TABLE findables, postings, search_words');
    console.log(
      `Search over ${size.toLocaleString('en-GB')} posts on ${BOARDS} boards, ${RUNS} of each (aim: 95th under 100 ms)`,
    );
    const all: number[] = [];
    for (const [words, query] of queries) {
      const asked = searchSchema.parse(query);
      const bare = await timesOf(() =>
        rows(
          db,
          asked.q === ''
            ? 'SELECT id FROM findables ORDER BY at DESC LIMIT 20'
            : `SELECT p.findable_id FROM postings p WHERE p.word_id = (SELECT id FROM search_words WHERE word >= ? ORDER BY word LIMIT 1)
                 LIMIT 8000`,
          asked.q === '' ? [] : [asked.q.split(' ')[0]],
        ),
      );
      const member = await timesOf(() => search(db, person(2, 'member'), 'UTC', asked));
      const coordinator = await timesOf(() => search(db, person(1, 'coordinator'), 'UTC', asked));
      all.push(...member, ...coordinator);
      const tell = (times: number[]): string =>
        `${(percentile(times, 0.5) ?? 0).toFixed(1)} / ${(percentile(times, 0.95) ?? 0).toFixed(1)} ms`;
      console.log(
        `  ${words}: member ${tell(member)}, coordinator ${tell(coordinator)} (8,000 places of the first word, bare: ${tell(bare)})`,
      );
    }
    console.log(
      `  all together: 50th ${(percentile(all, 0.5) ?? 0).toFixed(1)} ms, 95th ${(percentile(all, 0.95) ?? 0).toFixed(1)} ms\n`,
    );
  }
}

const ids = new Map<string, number>();

/** Posts with the places of their words, in bulk: one by one a hundred thousand would take a quarter of an hour. */
async function layPosts(db: Database, after: number, many: number, boards: readonly number[]): Promise<void> {
  const posts = Array.from({ length: many }, (_, i) => {
    const n = after + i + 1;
    return {
      id: n,
      kind: 'post',
      subject_id: n,
      board_id: boards[n % BOARDS] ?? 0,
      author_id: 1 + (n % 500),
      at: new Date(Date.UTC(2025, 0, 1) + n * 300_000),
      title: textFrom(n).split(' ').slice(0, 5).join(' '),
      body: textFrom(n + 1_000_000),
    };
  });
  await db('findables').insert(posts);
  const weighed = posts.map((post) => ({ post, words: weights(post.title, post.body) }));
  const fresh = [...new Set(weighed.flatMap(({ words }) => [...words.keys()]))].filter(
    (word) => !ids.has(word),
  );
  for (const word of fresh) {
    const [id = 0] = await db('search_words').insert({ word });
    ids.set(word, id);
  }
  const places = weighed.flatMap(({ post, words }) =>
    [...words].map(([word, weight]) => ({
      word_id: ids.get(word),
      kind: 'post',
      at: post.at,
      findable_id: post.id,
      place_id: post.board_id,
      author_id: post.author_id,
      weight,
    })),
  );
  for (let i = 0; i < places.length; i += 5_000) await db('postings').insert(places.slice(i, i + 5_000));
}

async function timesOf(work: () => Promise<unknown>): Promise<number[]> {
  for (let i = 0; i < 4; i++) await work();
  const times: number[] = [];
  for (let i = 0; i < RUNS; i++) times.push(await timed(work));
  return times;
}
