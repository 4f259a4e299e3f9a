import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { rowsForAll } from '../../src/server/database/onceForAll.ts';
import { freshDatabase } from './world.ts';

let db: Database;
let asked: string[] = [];

beforeAll(async () => {
  ({ db } = await freshDatabase('once_for_all'));
  await db.raw('CREATE TABLE counted (id INT PRIMARY KEY, n INT NOT NULL)');
  db.on('query', ({ sql }: { sql: string }) => {
    if (sql.includes('counted')) asked.push(sql);
  });
});
beforeEach(async () => {
  await db.raw('REPLACE INTO counted VALUES (1, 0)');
  asked = [];
});
afterAll(() => db.destroy());

/** Takes so long that many can ask meanwhile. */
const SLOW = 'SELECT n, SLEEP(0.2) AS slept FROM counted WHERE id = ?';
const ask = async (on: Database = db, id = 1): Promise<number | undefined> =>
  (await rowsForAll<{ n: number }>(on, SLOW, [id]))[0]?.n;
const runs = (): number => asked.filter((sql) => sql === SLOW).length;

describe('what many ask at once', () => {
  it('is asked once for those who come while it runs, after all that was committed before they asked', async () => {
    const first = ask();
    await rows(db, 'SELECT SLEEP(0.05)');
    await db.raw('UPDATE counted SET n = 1');
    const meanwhile = Array.from({ length: 40 }, () => ask());
    expect(await first).toBe(0);
    expect(await Promise.all(meanwhile)).toEqual(Array.from({ length: 40 }, () => 1));
    expect(runs()).toBe(2);
    // Nobody asks any more: the next is asked at once, and anew.
    await db.raw('UPDATE counted SET n = 2');
    expect(await ask()).toBe(2);
    expect(runs()).toBe(3);
  });

  it('never runs twice side by side, however they come', async () => {
    let written = 0;
    const come = async (): Promise<void> => {
      const least = written;
      expect(await ask()).toBeGreaterThanOrEqual(least);
    };
    const coming: Promise<void>[] = [];
    const began = performance.now();
    for (let i = 0; i < 30; i++) {
      coming.push(come());
      await db.raw('UPDATE counted SET n = ?', [i + 1]);
      written = i + 1;
    }
    await Promise.all(coming);
    const took = performance.now() - began;
    expect(runs()).toBeLessThanOrEqual(Math.ceil(took / 200));
  });

  it('is asked by itself for something else, and in a transaction', async () => {
    await Promise.all([ask(db, 1), ask(db, 2)]);
    expect(runs()).toBe(2);
    await db.transaction(async (trx) => {
      await trx.raw('UPDATE counted SET n = 9');
      // What is not committed yet is this transaction's alone to see.
      expect(await Promise.all([ask(), ask(trx)])).toEqual([0, 9]);
    });
  });

  it('that fails, fails for those who asked, and is asked again by the next', async () => {
    const wrong = (): Promise<unknown> => rowsForAll(db, 'SELECT SLEEP(0.1), nothing FROM counted');
    const results = await Promise.allSettled([wrong(), wrong(), wrong()]);
    expect(results.map(({ status }) => status)).toEqual(['rejected', 'rejected', 'rejected']);
    expect(await ask()).toBe(0);
  });
});
