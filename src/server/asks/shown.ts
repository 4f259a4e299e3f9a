import { LEAST_SHOWN } from '../../core/asks/breakdown.ts';
import type { Votes } from '../../core/asks/ballot.ts';
import { change, rows, transact, type Database } from '../database/connection.ts';
import { ballotsOf } from './ballotStore.ts';

/** The ballots of an open anonymous poll as they stood when five more had come than the last time. */
export async function shownLines(db: Database, occurrenceId: number): Promise<Votes<string>[]> {
  return transact(db, async (trx) => {
    const [row] = await rows<{ shown: string | null; n: number; voted: number }>(
      trx,
      `SELECT shown, shown_n AS n, (SELECT COUNT(*) FROM ballots b WHERE b.occurrence_id = asks.occurrence_id) AS voted
       FROM asks WHERE occurrence_id = ? FOR UPDATE`,
      [occurrenceId],
    );
    if (!row) return [];
    if (row.voted < row.n + LEAST_SHOWN)
      return row.shown === null ? [] : (JSON.parse(row.shown) as Votes<string>[]);
    const lines = await ballotsOf(trx, occurrenceId);
    await change(trx, 'UPDATE asks SET shown = ?, shown_n = ? WHERE occurrence_id = ?', [
      JSON.stringify(lines),
      row.voted,
      occurrenceId,
    ]);
    return lines;
  });
}
