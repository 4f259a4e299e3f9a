import { percentile } from '../../src/core/delivery/lateness.ts';
import { rows, type Database } from '../../src/server/database/connection.ts';
import { dueAtInstant, now, one, send, mustCome, benchEngine } from './data.ts';
import { sized, times } from './size.ts';

const SMALL = sized(200);
const RUNS = times(3);

/** How late the last of ten thousand inbox deliveries is, and how late 200 small sends are that are all due in one second. */
export async function lateness(db: Database): Promise<void> {
  const engine = benchEngine(db);
  const { n } = await one<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM people');
  const [group = 0] = await db('groups').insert({ name: 'Small', kind: 'fixed' });
  await db('group_members').insert(
    Array.from({ length: 20 }, (_, i) => ({ group_id: group, person_id: i + 1 })),
  );
  await engine.start();
  try {
    const whole: number[] = [];
    const small: { p50: number; p99: number; worst: number }[] = [];
    for (let run = 0; run < RUNS; run++) {
      const big = await send(db, {});
      const dueMs = (await now(db)) + 1500;
      await dueAtInstant(db, [big], dueMs);
      // Seen from outside: the moment another connection reads the last row, not what the row says of itself.
      const seen = async (): Promise<boolean> =>
        (await one<{ n: number }>(db, 'SELECT COUNT(*) AS n FROM deliveries WHERE occurrence_id = ?', [big]))
          .n === n;
      await mustCome('the last inbox delivery', seen, 60_000);
      whole.push((await now(db)) - dueMs);

      const sends: number[] = [];
      for (let i = 0; i < SMALL; i++) sends.push(await send(db, { audience: { kind: 'group', id: group } }));
      await dueAtInstant(db, sends, (await now(db)) + 2000);
      await mustCome(
        'all small sends',
        async () =>
          (
            await one<{ n: number }>(
              db,
              `SELECT COUNT(*) AS n FROM occurrences WHERE state = 'sent' AND id IN (${sends.join(', ')})`,
            )
          ).n === SMALL,
        60_000,
      );
      const late = await rows<{ late: number }>(
        db,
        `SELECT MAX(late_ms) AS late FROM deliveries WHERE occurrence_id IN (${sends.join(', ')}) GROUP BY occurrence_id`,
      );
      const values = late.map((row) => row.late);
      small.push({
        p50: percentile(values, 0.5) ?? Number.NaN,
        p99: percentile(values, 0.99) ?? Number.NaN,
        worst: Math.max(...values),
      });
    }
    const middle = (values: number[]): number => percentile(values, 0.5) ?? Number.NaN;
    console.log(
      `From due instant to the last of ${n.toLocaleString('en-GB')} inbox deliveries, seen from another connection: ${middle(whole)} ms (median of ${RUNS})`,
    );
    console.log(
      `${SMALL} sends to 20 people due in one instant: 50th ${middle(small.map((each) => each.p50))} ms, 99th ${middle(small.map((each) => each.p99))} ms, worst ${middle(small.map((each) => each.worst))} ms late (medians of ${RUNS}; aim for the 99th under 1000 ms)\n`,
    );
  } finally {
    await engine.stop();
  }
}
