import { change, rows, transact, type Database } from '../database/connection.ts';
import { claimDue } from '../database/claims.ts';
import { earliest, ms } from '../database/instant.ts';
import type { Claimant } from './store.ts';

export interface ClaimedMail {
  occurrenceId: number;
  personId: number;
  dueMs: number;
  attempts: number;
  /** When it goes together with other mail of the same person; null where it goes by itself. */
  bundleMs: number | null;
  name: string;
  mail: string;
  zone: string;
  occupation: string;
  greeting: string;
  station: string | null;
  /** Of a linked contact: whose, by name. */
  linkedTo: string | null;
  relation: string;
}

/**
 * Claims mail that is due to be tried, the longest waiting first, or whose engine died: the end of a claim is kept
 * in the column of the next attempt, so both are one search of one index; such mail is left to its engine for some
 * seconds yet (see `leftBehind`). Rows another engine is claiming at this
 * moment are skipped rather than waited for. With a mail of a bundle the others of that bundle are claimed, so that
 * they may be more than `most`.
 *
 * @param found told which are claimed before that is committed: where it fails after that it is not known whether they are
 */
export async function claimMail(
  db: Database,
  { engine, seconds }: Claimant,
  most: number,
  found: (keys: readonly MailKey[]) => void = () => undefined,
): Promise<ClaimedMail[]> {
  const keys: MailKey[] = await claimDue<BundledKey>(db, {
    states: ['waiting', 'sending'],
    most,
    due: (trx, state, limit) =>
      rows(
        trx,
        `SELECT d.occurrence_id AS occurrenceId, d.person_id AS personId, ${ms('d.bundle_at')} AS bundleMs
         FROM deliveries d FORCE INDEX (deliveries_to_try)
         WHERE d.state = ? AND d.try_at <= NOW(3) AND d.method = 'mail' AND ${FIRST_OF_BUNDLE}
         ORDER BY d.try_at LIMIT ? FOR UPDATE SKIP LOCKED`,
        [state, limit],
      ),
    left: { kind: 'mail', keyOf },
    along: othersOfBundles,
    mark: (trx, keys) => {
      found(keys);
      const mail = theMail(keys);
      return change(
        trx,
        `UPDATE deliveries SET state = 'sending', claimed_by = ?, attempts = attempts + 1,
           try_at = NOW(3) + INTERVAL ? SECOND WHERE ${mail.sql}`,
        [engine, seconds, ...mail.bindings],
      );
    },
  });
  if (keys.length === 0) return [];
  const wanted = theMail(keys, 'd.');
  const claimed = await rows<
    Omit<ClaimedMail, 'mail'> & {
      mail: string | null;
      standing: string;
      moot: number;
      failing: string | null;
    }
  >(
    db,
    `SELECT d.occurrence_id AS occurrenceId, d.person_id AS personId, ${ms('d.due_at')} AS dueMs, d.attempts, ${ms('d.bundle_at')} AS bundleMs,
       p.name, p.greeting, p.mail, IF(p.mail_failing = p.mail, COALESCE(p.mail_failing_reason, ''), NULL) AS failing, p.zone, p.standing, p.occupation, t.name AS station,
       k.name AS linkedTo, p.relation,
       (r.answered_at IS NOT NULL OR a.closed_at IS NOT NULL OR o.taken_back_at IS NOT NULL) AS moot
     FROM deliveries d JOIN people p ON p.id = d.person_id LEFT JOIN stations t ON t.id = p.station_id
       LEFT JOIN people k ON k.id = p.linked_to
       JOIN occurrences o ON o.id = d.occurrence_id LEFT JOIN asks a ON a.occurrence_id = o.chases
       LEFT JOIN roll r ON r.occurrence_id = o.chases AND r.person_id = d.person_id
     WHERE ${wanted.sql}`,
    wanted.bindings,
  );
  // A chase that was on the wire when they answered, or what was when it was taken back, comes back here and goes no more.
  const moot = claimed.filter((row) => row.moot === 1);
  await recordMailOutcome(db, engine, moot, { state: 'called off' });
  const going = claimed.filter((row) => row.moot === 0);
  const lost = going.flatMap((row) => {
    const reason = whyLost(row);
    return reason === null ? [] : [{ row, reason }];
  });
  for (const { row, reason } of lost) await recordMailOutcome(db, engine, [row], { state: 'failed', reason });
  return going.flatMap((row) =>
    row.mail === null || whyLost(row) !== null ? [] : [{ ...row, mail: row.mail }],
  );
}

/** Why a mail that was claimed cannot go; null where it can. */
function whyLost(row: { mail: string | null; standing: string; failing: string | null }): string | null {
  if (row.mail === null) return 'The mail address was taken away';
  if (row.standing === 'left') return 'Left before the mail could go';
  return row.failing === null ? null : `Mail to this address comes back: ${row.failing}`;
}

/** Of a bundle only its first is claimed, and takes the others along: two engines never have parts of one. */
const FIRST_OF_BUNDLE = `(d.bundle_at IS NULL OR NOT EXISTS (
  SELECT 1 FROM deliveries f FORCE INDEX (deliveries_of_person)
  WHERE f.person_id = d.person_id AND f.method = 'mail' AND f.went_at IS NULL AND f.bundle_at = d.bundle_at
    AND f.state IN ('waiting', 'sending') AND f.occurrence_id < d.occurrence_id))`;

interface BundledKey extends MailKey {
  bundleMs: number | null;
}

/**
 * What waits in the same bundles as some mails that are being claimed, or was left by an engine that died, without these. What
 * another engine holds at this moment is waited for: it may only be looking at it for a first of its own, and what were passed
 * over would go as a mail by itself.
 */
async function othersOfBundles(db: Database, found: readonly BundledKey[]): Promise<BundledKey[]> {
  const bundled = found.filter((key) => key.bundleMs !== null);
  if (bundled.length === 0) return [];
  const people = [...new Set(bundled.map((key) => key.personId))];
  const waiting = await rows<BundledKey>(
    db,
    `SELECT occurrence_id AS occurrenceId, person_id AS personId, ${ms('bundle_at')} AS bundleMs
     FROM deliveries FORCE INDEX (deliveries_of_person)
     WHERE person_id IN (${people.map(() => '?').join(', ')}) AND method = 'mail' AND went_at IS NULL
       AND (state = 'waiting' OR (state = 'sending' AND try_at <= NOW(3))) AND bundle_at IS NOT NULL FOR UPDATE`,
    people,
  );
  const named = ({ personId, bundleMs }: BundledKey): string => `${personId}/${bundleMs}`;
  const wanted = new Set(bundled.map(named));
  const had = new Set(found.map(keyOf));
  return waiting.filter((key) => wanted.has(named(key)) && !had.has(keyOf(key)));
}

/** SQL for the next instant at which mail is to be tried, or the claim of some ends. */
export const MAIL_DUE = earliest(
  "SELECT MIN(try_at) FROM deliveries WHERE state = 'waiting'",
  "SELECT MIN(try_at) FROM deliveries WHERE state = 'sending'",
);

export type MailKey = Pick<ClaimedMail, 'occurrenceId' | 'personId'>;

const keyOf = ({ occurrenceId, personId }: MailKey): string => `${occurrenceId}/${personId}`;

/**
 * A condition that holds for the mail of these people, as ranges of the primary key: one list of people an
 * occurrence. A list of pairs would say the same and be searched row by row.
 */
function theMail(keys: readonly MailKey[], table = ''): { sql: string; bindings: number[] } {
  const byOccurrence = new Map<number, number[]>();
  for (const { occurrenceId, personId } of keys)
    byOccurrence.set(occurrenceId, [...(byOccurrence.get(occurrenceId) ?? []), personId]);
  const parts = [...byOccurrence].map(
    ([, people]) =>
      `(${table}occurrence_id = ? AND ${table}method = 'mail' AND ${table}person_id IN (${people.map(() => '?').join(', ')}))`,
  );
  return {
    sql: `(${parts.join(' OR ')})`,
    bindings: [...byOccurrence].flatMap(([occurrenceId, people]) => [occurrenceId, ...people]),
  };
}

/** Writes what became of claimed mail; rows whose claim has passed to another engine are left to it. */
export async function recordMailOutcome(
  db: Database,
  engine: string,
  keys: readonly MailKey[],
  outcome:
    | { state: 'delivered' }
    | { state: 'called off' }
    | { state: 'failed'; reason: string }
    | { state: 'waiting'; reason: string; waitMs: number; uncounted: boolean },
): Promise<void> {
  if (keys.length === 0) return;
  const [set, values] =
    outcome.state === 'delivered'
      ? ["state = 'delivered', went_at = NOW(3), try_at = NULL, reason = NULL", []]
      : outcome.state === 'called off'
        ? ["state = 'called off', try_at = NULL, reason = NULL", []]
        : outcome.state === 'failed'
          ? ["state = 'failed', try_at = NULL, reason = ?", [outcome.reason.slice(0, 300)]]
          : [
              `state = 'waiting', try_at = NOW(3) + INTERVAL ? * 1000 MICROSECOND, reason = ?${outcome.uncounted ? ', attempts = attempts - 1' : ''}`,
              [Math.round(outcome.waitMs), outcome.reason.slice(0, 300)],
            ];
  const wanted = theMail(keys);
  await transact(db, (trx) =>
    change(trx, `UPDATE deliveries SET ${set} WHERE state = 'sending' AND claimed_by = ? AND ${wanted.sql}`, [
      ...values,
      engine,
      ...wanted.bindings,
    ]),
  );
}
