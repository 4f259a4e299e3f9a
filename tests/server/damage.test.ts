import { afterAll, beforeAll, expect, it } from 'vitest';
import { until } from '../../scripts/house/processes.ts';
import { runningTroubles } from '../../src/core/operating/running.ts';
import { change, transact, type Database } from '../../src/server/database/connection.ts';
import { clearUp } from '../../src/server/engine/upkeep.ts';
import { damagedNodes } from '../../src/server/operating/damageStore.ts';
import { howItRuns } from '../../src/server/operating/service.ts';
import { coordinator, freshDatabase } from './world.ts';

let db: Database;

beforeAll(async () => {
  ({ db } = await freshDatabase('damage'));
});
afterAll(() => db.destroy());

/** Has changes of a table fail with an error of the server's own, as they do where one of its indexes is damaged. */
async function failing(errno: number, words: string): Promise<void> {
  await db.raw('DROP TRIGGER IF EXISTS failing');
  await db.raw(
    `CREATE TRIGGER failing BEFORE UPDATE ON stations FOR EACH ROW SIGNAL SQLSTATE 'HY000' SET MYSQL_ERRNO = ${errno}, MESSAGE_TEXT = '${words}'`,
  );
}
const touch = (on: Database): Promise<number> => change(on, 'UPDATE stations SET name = CONCAT(name, 1)');

it('a server that says it is damaged is noted, also in a transaction, and told of on the page until it is long past', async () => {
  await db('stations').insert({ name: 'Brackwater', zone: 'Europe/London' });
  await failing(1644, 'Refused by a rule');
  await expect(touch(db)).rejects.toThrow('Refused by a rule');
  // A table that the server makes for one statement, which it cannot write where its disk is full.
  await failing(1034, 'Index for table /tmp/#sql-temptable-1.MAI is corrupt; try to repair it');
  await expect(touch(db)).rejects.toThrow('#sql-temptable');
  await failing(1034, 'Index for table stations is corrupt; try to repair it');
  await expect(transact(db, touch)).rejects.toThrow('is corrupt');
  expect(await until(async () => (await damagedNodes(db, 1)).length > 0, 10_000)).toBe(true);
  const [only, ...others] = await damagedNodes(db, 1);
  expect(others).toEqual([]);
  // Had the table of one statement been noted, the other would not have been so soon after.
  expect(only).toMatchObject({ words: 'Index for table stations is corrupt; try to repair it' });
  expect(only!.node).not.toBe('');
  const running = await howItRuns(db, coordinator);
  expect(runningTroubles(running).join('\n')).toContain(`The database server ${only!.node} said`);

  // Not told of for ever, but left out by the proxy as long as it is kept.
  await db('damaged_nodes').update({ found_at: db.raw('NOW(3) - INTERVAL 8 DAY') });
  expect(runningTroubles(await howItRuns(db, coordinator)).join('\n')).not.toContain('damaged');
  await clearUp(db);
  expect(await damagedNodes(db, 30)).toHaveLength(1);
});
