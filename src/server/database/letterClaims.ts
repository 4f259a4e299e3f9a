import { claimDue } from './claims.ts';
import { change, rows, type Database } from './connection.ts';
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
export async function claimLetterRows(
  db: Database,
  table: LetterTable,
  { claim, seconds, most }: { claim: string; seconds: number; most: number },
): Promise<number[]> {
  const claimed = await claimDue<{ id: number }>(db, {
    states: ['waiting', 'sending'],
    most,
    due: (trx, state, limit) =>
      rows(
        trx,
        `SELECT id FROM ${table} WHERE state = ? AND try_at <= NOW(3) ORDER BY try_at LIMIT ? FOR UPDATE SKIP LOCKED`,
        [state, limit],
      ),
    left: { kind: table, keyOf: (row) => row.id },
    mark: (trx, found) =>
      change(
        trx,
        `UPDATE ${table} SET state = 'sending', claim = ?, attempts = attempts + 1,
           try_at = NOW(3) + INTERVAL ? SECOND WHERE id IN (${found.map(() => '?').join(', ')})`,
        [claim, seconds, ...found.map((row) => row.id)],
      ),
  });
  return claimed.map((row) => row.id);
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
