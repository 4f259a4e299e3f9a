import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { OpenSession } from '../../src/server/accounts/service.ts';
import { transact, type Database } from '../../src/server/database/connection.ts';
import { emit, emitAll } from '../../src/server/events/store.ts';
import { liveStream } from '../../src/server/http/live.ts';
import { until } from '../../scripts/house/processes.ts';
import { demoHouse, signedIn } from './routes.ts';

let db: Database;
let session: OpenSession;
beforeAll(async () => {
  db = await demoHouse('live');
  session = await signedIn(db, 'maud');
});
afterAll(() => db.destroy());

/** Listens to topics until it is stopped; what was told stands in `told`, the last event of the stream included. */
async function listening(topics: string[], of = session, ageMs = 0) {
  const stop = new AbortController();
  const told: string[] = [];
  const response = liveStream(topics, of.hash, stop.signal, ageMs);
  const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader();
  let ended = false;
  void (async () => {
    for (let text = ''; ;) {
      const { done, value } = await reader.read();
      if (done) break;
      text += value;
      const events = text.split('\n\n');
      text = events.pop() ?? '';
      told.push(...events.flatMap((event) => /^data: (.*)$/m.exec(event)?.[1] ?? []));
    }
    ended = true;
  })();
  // The first look only notes what was there before.
  await new Promise((resolve) => setTimeout(resolve, 700));
  return { told, stop: () => stop.abort(), ended: () => ended };
}

describe('live updates', () => {
  it('tell of what changed to whoever listens to it, once, also where it is committed late', async () => {
    const boards = await listening(['board:3', 'people']);
    const other = await listening(['board:4']);
    await transact(db, async (trx) => {
      await emit(trx, 'board.changed', { board: 3 });
      await new Promise((resolve) => setTimeout(resolve, 1_500));
      expect(boards.told).toEqual([]);
    });
    expect(await until(() => boards.told.includes('board:3'), 5_000)).toBe(true);
    await new Promise((resolve) => setTimeout(resolve, 1_000));
    expect(boards.told).toEqual(['board:3']);
    expect(other.told).toEqual([]);
    await emit(db, 'person.added', { person: 1 });
    expect(await until(() => boards.told.includes('people'), 5_000)).toBe(true);
    for (const each of [boards, other]) each.stop();
    expect(await until(() => boards.ended() && other.ended(), 5_000)).toBe(true);
  });

  it('do not read thousands of changes one by one: whoever listens looks again, and later ones are told as ever', async () => {
    const board = await listening(['board:3', 'board:4']);
    await transact(db, (trx) =>
      emitAll(
        trx,
        'person.added',
        Array.from({ length: 2_500 }, (_, i) => ({ person: i + 1 })),
      ),
    );
    expect(await until(() => board.told.length >= 2, 5_000)).toBe(true);
    expect([...new Set(board.told)].sort()).toEqual(['board:3', 'board:4']);
    const before = board.told.length;
    await emit(db, 'board.changed', { board: 4 });
    expect(await until(() => board.told.length > before, 5_000)).toBe(true);
    expect(board.told.slice(before)).toEqual(['board:4']);
    board.stop();
  });

  it('reach each of many once, in turns, and end for the one of them whose session is over', async () => {
    const gone = await signedIn(db, 'maud');
    const many = await Promise.all(
      Array.from({ length: 620 }, (_, i) => listening(['board:5', 'people'], i === 610 ? gone : session)),
    );
    await emit(db, 'board.changed', { board: 5 });
    expect(await until(() => many.some(({ told }) => told.length > 0), 5_000)).toBe(true);
    // While some wait for their turn, more happens: it is told to them together.
    await emit(db, 'person.added', { person: 1 });
    // What only few listen to does not wait for that.
    const few = await listening(['board:6']);
    await emit(db, 'board.changed', { board: 6 });
    expect(await until(() => few.told.length > 0, 5_000)).toBe(true);
    few.stop();
    expect(await until(() => many.every(({ told }) => told.includes('people')), 20_000)).toBe(true);
    expect(many.map(({ told }) => [...told].sort().join())).toEqual(many.map(() => 'board:5,people'));
    await db('sessions').where({ token_hash: gone.hash }).delete();
    expect(await until(() => many[610]?.ended() === true, 10_000)).toBe(true);
    expect(many.filter(({ ended }) => ended())).toHaveLength(1);
    for (const each of many) each.stop();
  });

  it('tell a page that could not listen at once what happened since it was asked for, and no more', async () => {
    await db('events').update({ at: db.raw('at - INTERVAL 1 MINUTE') });
    await emit(db, 'board.changed', { board: 7 });
    await emit(db, 'board.changed', { board: 8 });
    const page = await listening(['board:7', 'board:9'], session, 5_000);
    expect(new Set(page.told)).toEqual(new Set(['board:7']));
    page.stop();
    // What happened in the hour since a page was made is not read: it looks again at all it shows.
    const old = await listening(['board:7', 'board:9'], session, 60 * 60_000);
    expect(new Set(old.told)).toEqual(new Set(['board:7', 'board:9']));
    old.stop();
  });

  it('end with the session, and say so', async () => {
    const mine = await signedIn(db, 'wren');
    const stream = await listening(['people'], mine);
    await db('sessions').where({ token_hash: mine.hash }).delete();
    expect(await until(stream.ended, 5_000)).toBe(true);
    expect(stream.told).toEqual(['over']);
  });
});
