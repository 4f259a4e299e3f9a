import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { EVENTS, readEvent, topicsOf, type Detail } from '../../src/core/events/event.ts';
import { rows, transact, type Database } from '../../src/server/database/connection.ts';
import { MOST_ATTEMPTS } from '../../src/server/aside/store.ts';
import { listAside, tryAgain } from '../../src/server/aside/service.ts';
import { followEvents, type Consumer, type Handlers } from '../../src/server/events/follow.ts';
import { emit, eventsById, forgetEvents, placeEvents, recentIds } from '../../src/server/events/store.ts';
import { coordinator, countOf, freshDatabase } from './world.ts';

let db: Database;
beforeAll(async () => {
  ({ db } = await freshDatabase('events'));
  await db.raw('CREATE TABLE followed (id BIGINT AUTO_INCREMENT PRIMARY KEY, person BIGINT NOT NULL)');
});
beforeEach(async () => {
  for (const table of ['events', 'followed', 'set_aside']) await db(table).delete();
});
afterAll(() => db.destroy());

const added = (person: number, trx: Database = db): Promise<void> => emit(trx, 'person.added', { person });
const note = async (trx: Database, { person }: Detail<'person.added'>): Promise<void> => {
  await trx.raw('INSERT INTO followed (person) VALUES (?)', [person]);
};
const recent = async () => eventsById(db, await recentIds(db, 60));
const consumer = (handlers: Handlers): Consumer => ({ name: 'finding', handlers });
const followed = async (): Promise<number[]> =>
  (await rows<{ person: number }>(db, 'SELECT person FROM followed ORDER BY id')).map((row) => row.person);
const errors: number[] = [];
const follow = async (of: Consumer): Promise<void> => {
  while ((await followEvents(db, [of], (_, __, event) => errors.push(event))) > 0);
};
const tryNow = (): Promise<unknown> => db.raw('UPDATE set_aside SET try_at = NOW(3) - INTERVAL 1 SECOND');

describe('the event log', () => {
  it('tells only of what was committed, and places last what commits last, so that nobody passes it by', async () => {
    const of = consumer({ 'person.added': note });
    await expect(
      transact(db, async (trx) => {
        await added(1, trx);
        throw new Error('no');
      }),
    ).rejects.toThrow('no');
    await transact(db, async (slow) => {
      await added(2, slow);
      await transact(db, (quick) => added(3, quick));
      await follow(of);
      expect(await followed()).toEqual([3]);
      expect((await recent()).map((event) => event.detail)).toEqual([{ person: 3 }]);
    });
    await follow(of);
    expect(await followed()).toEqual([3, 2]);
  });

  it('is followed once by however many at once, also where many place it', async () => {
    const of = consumer({ 'person.added': note });
    // More that nobody follows than are looked at in one go.
    await db('events').insert(
      Array.from({ length: 450 }, (_, i) => ({
        kind: 'comet.seen',
        version: 1,
        subject: `comet:${i}`,
        detail: '{}',
      })),
    );
    for (let person = 1; person <= 60; person++) await added(person);
    await Promise.all(Array.from({ length: 6 }, () => follow(of)));
    await Promise.all([placeEvents(db), placeEvents(db)]);
    const all = Array.from({ length: 60 }, (_, i) => i + 1);
    expect(await followed()).toEqual(all);
    const places = await rows<{ n: number }>(db, 'SELECT COUNT(DISTINCT position) AS n FROM events');
    expect(places[0]!.n).toBe(510);
  });

  it('does nothing of an event whose following up fails midway, and does it whole when it can', async () => {
    let broken = true;
    const of = consumer({
      'person.added': async (trx, detail) => {
        await note(trx, detail);
        if (broken) throw new Error('the index is gone');
      },
    });
    await added(7);
    await follow(of);
    expect(await followed()).toEqual([]);
    expect(await listAside(db, coordinator)).toMatchObject([
      { kind: 'finding', reason: 'the index is gone', attempts: 1 },
    ]);
    broken = false;
    await tryNow();
    await follow(of);
    expect(await followed()).toEqual([7]);
    expect(await listAside(db, coordinator)).toEqual([]);
  });

  it('goes on after one that fails, but not with those of the same subject, and keeps their order', async () => {
    const seen: string[] = [];
    let broken = true;
    const of = consumer({
      'person.added': (_, { person }) => {
        if (person === 1 && broken) return Promise.reject(new Error('no'));
        seen.push(`added ${person}`);
        return Promise.resolve();
      },
      'person.left': (_, { person }) => {
        seen.push(`left ${person}`);
        return Promise.resolve();
      },
    });
    await added(1);
    await added(2);
    await emit(db, 'person.left', { person: 1 });
    await emit(db, 'person.left', { person: 2 });
    await follow(of);
    expect(seen).toEqual(['added 2', 'left 2']);
    // The later one is due, and still waits.
    await tryNow();
    await follow(of);
    expect(seen).toEqual(['added 2', 'left 2']);
    broken = false;
    await tryNow();
    await follow(of);
    await tryNow();
    await follow(of);
    expect(seen).toEqual(['added 2', 'left 2', 'added 1', 'left 1']);
  });

  it('gives one up after a stated number of attempts, lets the next of its subject go, and has it tried by hand', async () => {
    let broken = true;
    const of = consumer({
      'person.added': (trx, detail) => (broken ? Promise.reject(new Error('no')) : note(trx, detail)),
      'person.left': (trx, detail) => note(trx, { person: detail.person + 100 }),
    });
    await added(1);
    await emit(db, 'person.left', { person: 1 });
    errors.length = 0;
    for (let i = 0; i < MOST_ATTEMPTS + 3; i++) {
      await follow(of);
      await tryNow();
    }
    await follow(of);
    expect(errors).toHaveLength(MOST_ATTEMPTS);
    expect(await followed()).toEqual([101]);
    const [given] = await listAside(db, coordinator);
    expect(given).toMatchObject({ kind: 'finding', tryMs: null, attempts: MOST_ATTEMPTS });
    broken = false;
    await tryAgain(db, coordinator, 'finding', given!.subjectId);
    await follow(of);
    expect(await followed()).toEqual([101, 1]);
  });

  it('sets aside what it cannot read and follows the rest; what nobody follows is passed by', async () => {
    await db('events').insert({
      kind: 'person.added',
      version: 9,
      subject: 'person:1',
      detail: '{"person":1}',
    });
    await db('events').insert({ kind: 'comet.seen', version: 1, subject: 'comet:1', detail: '{}' });
    await added(2);
    await follow(consumer({ 'person.added': note }));
    expect(await followed()).toEqual([2]);
    expect((await listAside(db, coordinator)).map((each) => each.reason)).toEqual([
      'An event “person.added” of version 9 cannot be read by this version of Clear Bell',
    ]);
    expect(topicsOf({ id: 1, kind: 'comet.seen', version: 1, detail: {} })).toEqual([]);
  });

  it('forgets what is old and followed up, and nothing else', async () => {
    await added(1);
    await follow(consumer({ 'person.added': () => Promise.reject(new Error('no')) }));
    await added(2);
    await db.raw(
      "UPDATE event_positions SET position = (SELECT MAX(position) FROM events) WHERE name <> 'last'",
    );
    await added(3);
    await db.raw('UPDATE events SET at = NOW(3) - INTERVAL 3 HOUR');
    await placeEvents(db);
    await db.raw(
      "UPDATE event_positions SET position = (SELECT MIN(position) FROM events WHERE detail LIKE '%2%') WHERE name = 'telling'",
    );
    await db.raw(
      "UPDATE event_positions SET position = (SELECT MAX(position) FROM events) WHERE name NOT IN ('telling', 'last')",
    );
    expect(await forgetEvents(db, 2)).toBe(1);
    // The one that is set aside and the one not followed by all are still there.
    expect(await countOf(db, 'FROM events')).toBe(2);
  });

  it('names of every kind what it is about, in few letters, and reads what it wrote', async () => {
    for (const [kind, { version }] of Object.entries(EVENTS)) {
      expect(kind.length).toBeLessThanOrEqual(40);
      expect(version).toBe(1);
    }
    await emit(db, 'post.decided', {
      post: 3,
      board: 4,
      decision: 'hide',
      note: 'Nicht hier – “so” 🔔',
      by: 1,
    });
    const [event] = await recent();
    expect(readEvent(event!)).toEqual({
      kind: 'post.decided',
      detail: { post: 3, board: 4, decision: 'hide', note: 'Nicht hier – “so” 🔔', by: 1 },
    });
    expect(topicsOf(event!)).toEqual(['board:4', 'post:3', 'desk', 'arrivals']);
  });
});
