import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Actor } from '../../src/core/rights/decide.ts';
import { actorOf } from '../../src/server/accounts/actor.ts';
import { openBoard } from '../../src/server/boards/service.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { readItem } from '../../src/server/inbox/service.ts';
import { openPost } from '../../src/server/posts/opening.ts';
import { previewsFor } from '../../src/server/previews/service.ts';
import { seriesIndex } from '../../src/server/series/service.ts';
import { openAnswer } from '../../src/server/shelf/service.ts';
import { Problem } from '../../src/server/problem.ts';
import { copiedDemo } from './world.ts';

const HOME = 'https://bell.test.example';
const before = process.env.CLEAR_BELL_URL;
let db: Database;
beforeAll(async () => {
  process.env.CLEAR_BELL_URL = HOME;
  ({ db } = await copiedDemo('links'));
});
afterAll(async () => {
  if (before === undefined) delete process.env.CLEAR_BELL_URL;
  else process.env.CLEAR_BELL_URL = before;
  await db.destroy();
});

/** What each address leads to, opened as its page opens it. */
const OPENED: Record<string, (actor: Actor, id: number) => Promise<unknown>> = {
  boards: (actor, id) => openBoard(db, actor, id),
  posts: (actor, id) => openPost(db, actor, id),
  'for-me': (actor, id) => readItem(db, actor.id, id),
  shelf: (actor, id) => openAnswer(db, actor, id),
  issues: (actor, id) => seriesIndex(db, actor, id),
};
const IDS: Record<string, string> = {
  boards: 'SELECT id FROM boards',
  posts: 'SELECT id FROM posts ORDER BY id DESC LIMIT 60',
  'for-me':
    "SELECT id FROM occurrences WHERE state IN ('sent', 'recalled', 'scheduled') ORDER BY id DESC LIMIT 60",
  shelf: 'SELECT id FROM shelf_answers',
  issues: 'SELECT id FROM series',
};

/** Whether a page opens for somebody; what fails otherwise than by not being theirs fails the test. */
async function opens(work: Promise<unknown>): Promise<boolean> {
  try {
    await work;
    return true;
  } catch (problem) {
    if (problem instanceof Problem && [403, 404].includes(problem.status)) return false;
    throw problem;
  }
}

describe('what a link shows before it is followed', () => {
  it.each(['Maud Fenwright', 'Wren Ashdown', 'Keola Palakiko', 'Kailani Mahoe-Lani'])(
    'tells %s of nothing whose page does not open for them, and gives their titles otherwise',
    async (name) => {
      const [person] = await rows<{ id: number }>(db, 'SELECT id FROM people WHERE name = ?', [name]);
      const actor = await actorOf(db, person?.id ?? 0);
      if (!actor) throw new Error(`There is no ${name}`);
      let shown = 0;
      let hidden = 0;
      for (const [place, sql] of Object.entries(IDS)) {
        const ids = (await rows<{ id: number }>(db, sql)).map((row) => row.id);
        expect(ids.length).toBeGreaterThan(0);
        // One after another forty of a place are looked up at once.
        for (let at = 0; at < ids.length; at += 40) {
          const part = ids.slice(at, at + 40);
          const previews = await previewsFor(
            db,
            actor,
            part.map((id) => `${HOME}/${place}/${id}`),
          );
          for (const id of part) {
            const preview = previews.get(`${HOME}/${place}/${id}`);
            if (preview) {
              expect(preview.title).not.toBe('');
              expect(preview.path).toBe(`/${place}/${id}`);
              shown += 1;
              expect([place, id, await opens(OPENED[place]!(actor, id))]).toEqual([place, id, true]);
            } else {
              hidden += 1;
              // A post that waits or was taken back opens for its writer and for moderators, and is not shown by its link.
              if (place === 'boards' || place === 'shelf')
                expect([place, id, await opens(OPENED[place]!(actor, id))]).toEqual([place, id, false]);
            }
          }
        }
      }
      expect(shown).toBeGreaterThan(10);
      expect(hidden).toBeGreaterThan(0);
    },
    120_000,
  );

  it('shows a link to another place, or to nothing there is, as a link', async () => {
    const maud = await actorOf(db, 1);
    const previews = await previewsFor(db, maud!, [
      'https://elsewhere.example/posts/1',
      `${HOME}/posts/0`,
      `${HOME}/posts/1e3`,
      `${HOME}/posts/999999999999999`,
      `${HOME}/people/1`,
      '/posts/1',
      'javascript:alert(1)',
    ]);
    expect([...previews]).toEqual([]);
  });
});
