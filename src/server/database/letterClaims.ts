import { change, rows, transact, type Database } from './connection.ts';
import { leftBehind } from './endedClaims.ts';
import { earliest } from './instant.ts';

/**
 * Tables of which each row is one mail to hand over: with `state`, `try_at`, `attempts`, `claim`, `reason` and `sent_at`. A row
 * that waits is claimed for a span; where its engine dies, another takes it up when the span ends.
 */
export type LetterTable = 'access_letters' | 'sign_ups';

/** What became of one attempt. */
export type LetterOutcome =
  | { state: 'sent'; /** Whether there was nothing to hand over any more. */ nothing?: true }
  | { state: 'failed'; reason: string }
  | { state: 'waiting'; waitMs: number };

/**
 * Claims rows that are to go, or whose engine died (see `leftBehind`); rows another engine is claiming are skipped.
 *
 * @param claim a text of 16 characters that no other claim has
 * @returns the ids of what was claimed
 */
export function claimLetterRows(
  db: Database,
  table: LetterTable,
  { claim, seconds, most }: { claim: string; seconds: number; most: number },
): Promise<number[]> {
  return transact(db, async (trx) => {
    const free = await rows<{ id: number; state: string }>(
      trx,
      `SELECT id, state FROM ${table} WHERE state IN ('waiting', 'sending') AND try_at <= NOW(3)
       ORDER BY try_at LIMIT ? FOR UPDATE SKIP LOCKED`,
      [most],
    );
    const ended = free.filter((row) => row.state === 'sending');
    const left = leftBehind(db, table, ended, (row) => row.id);
    const found = free.filter((row) => row.state === 'waiting' || left.includes(row));
    if (found.length > 0)
      await change(
        trx,
        `UPDATE ${table} SET state = 'sending', claim = ?, attempts = attempts + 1,
           try_at = NOW(3) + INTERVAL ? SECOND WHERE id IN (${found.map(() => '?').join(', ')})`,
        [claim, seconds, ...found.map((row) => row.id)],
      );
    return found.map((row) => row.id);
  });
}

/** Writes what became of a claimed row; one whose claim was lost, or that was called off meanwhile, stays as it is. */
export async function concludeLetterRow(
  db: Database,
  table: LetterTable,
  { id, claim, outcome }: { id: number; claim: string; outcome: LetterOutcome },
): Promise<void> {
  await change(
    db,
    `UPDATE ${table} SET state = ?, reason = ?, sent_at = IF(?, NOW(3), sent_at),
       try_at = NOW(3) + INTERVAL ? MICROSECOND WHERE id = ? AND state = 'sending' AND claim = ?`,
    [
      outcome.state,
      outcome.state === 'failed' ? outcome.reason.slice(0, 300) : null,
      outcome.state === 'sent' && !outcome.nothing,
      outcome.state === 'waiting' ? Math.round(outcome.waitMs * 1000) : 0,
      id,
      claim,
    ],
  );
}

/** SQL for the next instant at which a row is to be tried, or the claim of one ends. */
export const letterDue = (table: LetterTable): string =>
  earliest(
    `SELECT MIN(try_at) FROM ${table} WHERE state = 'waiting'`,
    `SELECT MIN(try_at) FROM ${table} WHERE state = 'sending'`,
  );
