import { LEAST_SHOWN } from '../../../core/asks/poll/breakdown.ts';
import type { Votes } from '../../../core/asks/poll/ballot.ts';
import { change, rows, transact, type Database } from '../../database/connection.ts';
import { ballotsOf } from './ballotStore.ts';

interface Kept {
  shown: string | null;
  shownN: number;
  next: string | null;
  nextN: number;
  voted: number;
}

/**
 * The ballots of an open anonymous poll as far as they are shown. A stand of at least five new votes is taken down, and shown
 * only once five further ones have come: so each time five or more show at once, and when the poll closes five or more come
 * on top of what was shown, never a remainder of one to four.
 */
export async function shownLines(db: Database, occurrenceId: number): Promise<Votes<string>[]> {
  return transact(db, async (trx) => {
    const [row] = await rows<Kept>(
      trx,
      `SELECT shown, shown_n AS shownN, shown_next AS next, shown_next_n AS nextN,
         (SELECT COUNT(*) FROM ballots b WHERE b.occurrence_id = asks.occurrence_id) AS voted
       FROM asks WHERE occurrence_id = ? FOR UPDATE`,
      [occurrenceId],
    );
    if (!row) return [];
    const kept = { ...row };
    if (kept.next !== null && kept.voted >= kept.nextN + LEAST_SHOWN)
      Object.assign(kept, { shown: kept.next, shownN: kept.nextN, next: null, nextN: 0 });
    if (kept.next === null && kept.voted >= kept.shownN + LEAST_SHOWN)
      Object.assign(kept, { next: JSON.stringify(await ballotsOf(trx, occurrenceId)), nextN: kept.voted });
    if (kept.shown !== row.shown || kept.next !== row.next)
      await change(
        trx,
        'UPDATE asks SET shown = ?, shown_n = ?, shown_next = ?, shown_next_n = ? WHERE occurrence_id = ?',
        [kept.shown, kept.shownN, kept.next, kept.nextN, occurrenceId],
      );
    return kept.shown === null ? [] : (JSON.parse(kept.shown) as Votes<string>[]);
  });
}
