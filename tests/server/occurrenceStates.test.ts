import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  OCCURRENCE_MOVES,
  OCCURRENCE_STATES,
  type OccurrenceMove,
  type OccurrenceState,
} from '../../src/core/delivery/states.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { claimBuckets, failBucket, markSent, planBucketAgain } from '../../src/server/engine/store.ts';
import { retryFailed } from '../../src/server/sends/occurrenceStore.ts';
import { mayMove, moved } from '../../src/server/sends/stateStore.ts';
import { expandNow } from './expandNow.ts';
import { addGroup, addPeople, freshDatabase, sendNow, toGroups } from './world.ts';

let db: Database;
let group: number;

beforeAll(async () => {
  ({ db } = await freshDatabase('occurrence_states'));
  group = await addGroup(db, 'Called', await addPeople(db, 8));
});
afterAll(() => db.destroy());

const plan = (): Promise<number> => sendNow(db, { audience: toGroups([group]), mail: true });
async function stateOf(id: number): Promise<OccurrenceState> {
  const [row] = await rows<{ state: OccurrenceState }>(db, 'SELECT state FROM occurrences WHERE id = ?', [
    id,
  ]);
  return row!.state;
}
const give = (id: number, state: OccurrenceState) => db('occurrences').where({ id }).update({ state });

describe('every move', () => {
  it.each(Object.keys(OCCURRENCE_MOVES) as OccurrenceMove[])(
    '%s leads from its states only',
    async (move) => {
      const id = await plan();
      const { from, to } = OCCURRENCE_MOVES[move];
      for (const state of OCCURRENCE_STATES) {
        await give(id, state);
        const leads = (from as readonly string[]).includes(state);
        const found = await rows(db, `SELECT 1 FROM occurrences o WHERE o.id = ? AND ${mayMove(move, 'o')}`, [
          id,
        ]);
        expect(found).toHaveLength(leads ? 1 : 0);
        await db.raw(`UPDATE occurrences o SET o.state = ${moved(move, 'o')} WHERE o.id = ?`, [id]);
        expect(await stateOf(id)).toBe(leads ? to : state);
      }
    },
  );
});

/** An occurrence of two parts, of which one went and one was given up. */
async function halfGivenUp(): Promise<{ id: number; bucket: number }> {
  const id = await plan();
  await expandNow(db, id);
  await db('deliveries').where({ occurrence_id: id, method: 'mail' }).update({ state: 'delivered' });
  await markSent(db, [id]);
  expect(await stateOf(id)).toBe('sent');
  await db.raw(
    `INSERT INTO buckets (occurrence_id, zone, due_at, state, sweeps) SELECT occurrence_id, 'Pacific/Auckland', due_at, 'planned', 0 FROM buckets WHERE occurrence_id = ?`,
    [id],
  );
  const all = await claimBuckets(db, { engine: 'one', seconds: 60 }, 100);
  const claimed = all.find(({ occurrenceId }) => occurrenceId === id);
  await give(id, 'going out');
  await failBucket(db, claimed!, 'one', 'The plan cannot be read');
  expect(await stateOf(id)).toBe('failed');
  return { id, bucket: claimed!.id };
}

it('one of which a part was given up stays failed when its failed mail is tried again, and that mail goes', async () => {
  const { id } = await halfGivenUp();
  const [mail] = await rows<{ person: number }>(
    db,
    "SELECT person_id AS person FROM deliveries WHERE occurrence_id = ? AND method = 'mail' LIMIT 1",
    [id],
  );
  const the = { occurrence_id: id, method: 'mail', person_id: mail!.person };
  await db('deliveries').where(the).update({ state: 'failed' });
  expect(await retryFailed(db, id)).toBe(1);
  expect(await db('deliveries').where(the).first('state')).toMatchObject({ state: 'waiting' });
  await db('deliveries').where(the).update({ state: 'delivered' });
  await markSent(db, [id]);
  expect(await stateOf(id)).toBe('failed');
});

it('one that went for the most part goes on, and is not planned from the start, when the part given up is tried again', async () => {
  const { id, bucket } = await halfGivenUp();
  await give(id, 'sent');
  await planBucketAgain(db, bucket);
  expect(await stateOf(id)).toBe('going out');
  const [row] = await rows<{ counts: string | null }>(
    db,
    'SELECT settled_counts AS counts FROM occurrences WHERE id = ?',
    [id],
  );
  expect(row!.counts).toBeNull();
});
