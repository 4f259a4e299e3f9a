import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { USUAL_CHASE } from '../../src/core/asks/chase.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { down, up } from '../../src/server/database/migrations/0072_chase_keys.ts';
import { addGroup, addPeople, freshDatabase, sendNow } from './world.ts';

let db: Database;
beforeAll(async () => ({ db } = await freshDatabase('chasekeys')));
afterAll(() => db.destroy());

describe('the keys of chases', () => {
  it('are taken from where they stood before, and put back there', async () => {
    const group = await addGroup(db, 'All', await addPeople(db, 3, 1));
    const id = await sendNow(db, {
      audience: { kind: 'group', id: group },
      ask: acknowledgement({ chase: { ...USUAL_CHASE, most: 2 } }),
    });
    const kept = () => rows(db, 'SELECT * FROM occurrences WHERE id = ? OR chases = ? ORDER BY id', [id, id]);
    /** The times that the rule gave, in the order in which they were planned. */
    const places = async (): Promise<unknown[]> =>
      (
        await rows(db, 'SELECT recurs_at AS at FROM occurrences WHERE id = ? OR chases = ? ORDER BY id', [
          id,
          id,
        ])
      ).map((row) => (row as { at: string | null }).at);
    const before = await kept();
    expect(before).toHaveLength(3);
    expect(await places()).toEqual(['', null, null]);
    await down(db);
    expect(await places()).toEqual(['', `c${id.toString(36)}.1`, `c${id.toString(36)}.2`]);
    await up(db);
    expect(await kept()).toEqual(before);
  });
});
