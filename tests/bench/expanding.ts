import type { Bundling } from '../../src/core/bundling/bundling.ts';
import { setBundlingOfAll } from '../../src/server/bundling/store.ts';
import type { Database } from '../../src/server/database/connection.ts';
import { expand, readWorld } from '../../src/server/engine/expand.ts';
import { claimBuckets } from '../../src/server/engine/store.ts';
import { occurrenceById } from '../../src/server/sends/occurrenceStore.ts';
import { dueAtInstant, median, now, one, seconds, send, timed } from './data.ts';
import { times } from './size.ts';

const RUNS = times(5);

/** Expanding one send to everybody into inbox deliveries, beside a bare INSERT … SELECT of the very same rows. */
export async function expanding(db: Database): Promise<void> {
  const { n } = await one<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM people');
  console.log(
    `Expanding one send to ${n.toLocaleString('en-GB')} people into inbox deliveries, ${RUNS} pairs`,
  );
  await db.raw('CREATE TABLE bare LIKE deliveries');
  const ours: number[] = [];
  const bare: number[] = [];
  for (let i = 0; i <= RUNS; i++) {
    const occurrence = await send(db, {});
    await dueAtInstant(db, [occurrence], await now(db));
    const claimant = { engine: 'bench', seconds: 300 };
    const [bucket] = await claimBuckets(db, claimant, 1);
    const planned = await occurrenceById(db, occurrence);
    if (!bucket || !planned) throw new Error('Nothing is due');
    const mine = await timed(async () => expand(db, bucket, planned, claimant, await readWorld(db)));
    const limit = await timed(async () =>
      db.raw(
        `INSERT INTO bare (occurrence_id, person_id, method, state, due_at, went_at)
         SELECT ?, p.id, 'inbox', 'delivered', ?, NOW(3) FROM people p WHERE p.standing <> 'left'`,
        [occurrence, new Date(bucket.dueMs)],
      ),
    );
    // The first pair warms the buffer pool.
    if (i > 0) {
      ours.push(mine);
      bare.push(limit);
    }
  }
  const ratio = median(ours.map((mine, i) => mine / (bare[i] ?? Number.NaN)));
  console.log(
    `  ours ${seconds(median(ours))}, bare ${seconds(median(bare))}, ratio ${ratio.toFixed(2)} (aim 1.5)\n`,
  );
}

/** Expanding a send with mail whose mail everybody has gathered at hours of their own day, beside the same as it comes. */
export async function gathering(db: Database): Promise<void> {
  const { n } = await one<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM people');
  console.log(
    `Expanding one send to ${n.toLocaleString('en-GB')} people with its mail, gathered and as it comes, ${RUNS} pairs`,
  );
  const expanded = async (bundling: Bundling): Promise<number> => {
    await setBundlingOfAll(db, bundling);
    const occurrence = await send(db, { mail: true });
    await dueAtInstant(db, [occurrence], await now(db));
    const claimant = { engine: 'bench', seconds: 300 };
    const [bucket] = await claimBuckets(db, claimant, 1);
    const planned = await occurrenceById(db, occurrence);
    if (!bucket || !planned) throw new Error('Nothing is due');
    return timed(async () => expand(db, bucket, planned, claimant, await readWorld(db)));
  };
  const gathered: number[] = [];
  const plain: number[] = [];
  for (let i = 0; i <= RUNS; i++) {
    const together = await expanded('hourly');
    const apart = await expanded('as it comes');
    if (i > 0) {
      gathered.push(together);
      plain.push(apart);
    }
  }
  const ratio = median(gathered.map((each, i) => each / (plain[i] ?? Number.NaN)));
  console.log(
    `  gathered ${seconds(median(gathered))}, as it comes ${seconds(median(plain))}, ratio ${ratio.toFixed(2)}\n`,
  );
  await db.raw("DELETE FROM deliveries WHERE method = 'mail'");
}
