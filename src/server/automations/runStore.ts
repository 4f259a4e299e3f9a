import { causeSchema, type Cause } from '../../core/automation/cause.ts';
import type { RunState, SayingLine } from '../../core/automation/run.ts';
import type { SaidBy } from '../../core/automation/words.ts';
import { claimDue } from '../database/claims.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { earliest, ms } from '../database/instant.ts';
import { likeText } from '../people/matching.ts';

/** How much before its time a run that a clock sets off is prepared, so that what it says goes at that very time. */
export const AHEAD_S = 3;

export interface NewRun {
  automationId: number;
  versionId: number;
  /** Sets the cause apart from every other of this automation: it is handled once. */
  causeKey: string;
  cause: Cause;
  dueMs: number;
  /** Whether it may be prepared a little before it is due. */
  ahead?: boolean;
}

/** Lines up a run; false where its cause has one already. */
export async function insertRun(db: Database, run: NewRun): Promise<boolean> {
  const result = (await db.raw(
    `INSERT INTO automation_runs (automation_id, version_id, cause_key, cause, due_at, try_at) VALUES (?, ?, ?, ?, ?, ? - INTERVAL ? SECOND)
     ON DUPLICATE KEY UPDATE automation_runs.id = automation_runs.id`,
    [
      run.automationId,
      run.versionId,
      run.causeKey,
      JSON.stringify(run.cause),
      new Date(run.dueMs),
      new Date(run.dueMs),
      run.ahead ? AHEAD_S : 0,
    ],
  )) as [{ insertId: number }, unknown];
  return result[0].insertId > 0;
}

export interface ClaimedRun {
  id: number;
  automationId: number;
  versionId: number;
  cause: Cause;
  dueMs: number;
  attempts: number;
}

type StoredRun = Omit<ClaimedRun, 'cause'> & { cause: string };

/** Claims runs whose time has come, and those whose claim has ended, by a conditional update with a lease. */
export async function claimRuns(
  db: Database,
  engine: string,
  seconds: number,
  most: number,
): Promise<ClaimedRun[]> {
  const claimed = await claimDue<StoredRun>(db, {
    states: ['waiting', 'running'],
    most,
    due: (trx, state, limit) =>
      rows(
        trx,
        `SELECT id, automation_id AS automationId, version_id AS versionId, cause, ${ms('due_at')} AS dueMs, attempts + 1 AS attempts
         FROM automation_runs FORCE INDEX (runs_to_do) WHERE state = ? AND try_at <= NOW(3)
         ORDER BY try_at LIMIT ? FOR UPDATE SKIP LOCKED`,
        [state, limit],
      ),
    mark: (trx, found) =>
      change(
        trx,
        `UPDATE automation_runs SET state = 'running', lease_owner = ?, try_at = NOW(3) + INTERVAL ? SECOND, attempts = attempts + 1
         WHERE id IN (${found.map(() => '?').join(', ')}) AND state IN ('waiting', 'running')`,
        [engine, seconds, ...found.map((run) => run.id)],
      ),
  });
  return claimed.map((run) => ({ ...run, cause: causeSchema.parse(JSON.parse(run.cause)) }));
}

/** SQL for the next instant at which a run may be taken, or the claim of one ends. */
export const RUN_DUE = earliest(
  "SELECT MIN(try_at) FROM automation_runs WHERE state = 'waiting'",
  "SELECT MIN(try_at) FROM automation_runs WHERE state = 'running'",
);

export interface Ended {
  state: Exclude<RunState, 'waiting' | 'running'>;
  matched: number;
  said: number;
  keptBack: number;
  reason: string | null;
}

/**
 * Ends runs alike.
 *
 * @returns how many; where fewer than were meant, the claim of one is another engine's by now, and the caller undoes what it did
 */
export function endRuns(db: Database, ids: readonly number[], engine: string, ended: Ended): Promise<number> {
  return change(
    db,
    `UPDATE automation_runs SET state = ?, matched = ?, said = ?, kept_back = ?, reason = ?, ended_at = NOW(3), lease_owner = NULL
     WHERE id IN (${ids.map(() => '?').join(', ')}) AND state = 'running' AND lease_owner = ?`,
    [
      ended.state,
      ended.matched,
      ended.said,
      ended.keptBack,
      ended.reason === null ? null : ended.reason.slice(0, 300),
      ...ids,
      engine,
    ],
  );
}

/** Gives a run back, to be tried after a wait, with why it did not succeed. */
export async function returnRun(
  db: Database,
  id: number,
  engine: string,
  waitS: number,
  reason: string,
): Promise<void> {
  await change(
    db,
    `UPDATE automation_runs SET state = 'waiting', lease_owner = NULL, try_at = NOW(3) + INTERVAL ? SECOND, reason = ?
     WHERE id = ? AND state = 'running' AND lease_owner = ?`,
    [waitS, reason.slice(0, 300), id, engine],
  );
}

/**
 * Has a run tried anew that failed, was kept back or came too late, by what is at work now; false where it did none of that.
 * What it said is not said again; one that came too late is due at this moment.
 */
export async function runAgain(db: Database, id: number): Promise<boolean> {
  return (
    (await change(
      db,
      `UPDATE automation_runs r JOIN automations a ON a.id = r.automation_id
       SET r.due_at = IF(r.state = 'lapsed', NOW(3), r.due_at), r.version_id = COALESCE(a.live_version_id, r.version_id),
         r.state = 'waiting', r.try_at = NOW(3), r.attempts = 0, r.ended_at = NULL, r.reason = NULL
       WHERE r.id = ? AND r.state IN ('failed', 'held', 'lapsed')`,
      [id],
    )) === 1
  );
}

/** Takes away what waits of an automation for its time: it was switched off, or runs by other rules now. */
export async function deleteWaiting(db: Database, automationId: number): Promise<void> {
  await change(db, "DELETE FROM automation_runs WHERE automation_id = ? AND state = 'waiting'", [
    automationId,
  ]);
}

/** Notes what became of each thing some runs would say, in place of what they said of those they did not say before. */
export async function insertSayings(
  db: Database,
  runIds: readonly number[],
  sayings: readonly (SayingLine & { runId: number; item: string })[],
): Promise<void> {
  if (runIds.length > 0)
    await change(
      db,
      `DELETE FROM automation_sayings WHERE run_id IN (${runIds.map(() => '?').join(', ')}) AND occurrence_id IS NULL`,
      runIds,
    );
  for (let at = 0; at < sayings.length; at += 500)
    await db('automation_sayings').insert(
      sayings.slice(at, at + 500).map((saying) => ({
        run_id: saying.runId,
        item: saying.item,
        about: saying.about.slice(0, 160),
        occurrence_id: saying.occurrenceId,
        otherwise: saying.otherwise,
        reason: saying.reason === null ? null : saying.reason.slice(0, 300),
        missing_system: saying.missing === null ? null : saying.missing.system,
        missing_value: saying.missing === null ? null : saying.missing.value.slice(0, 200),
      })),
    );
}

/** What of some runs has been said already, by the run, and is not said again when they are tried anew. */
export async function itemsSaid(
  db: Database,
  runIds: readonly number[],
): Promise<Map<number, ReadonlySet<string>>> {
  const found = await rows<{ runId: number; item: string }>(
    db,
    `SELECT run_id AS runId, item FROM automation_sayings
     WHERE run_id IN (${runIds.map(() => '?').join(', ')}) AND occurrence_id IS NOT NULL`,
    runIds,
  );
  const of = new Map<number, Set<string>>();
  for (const { runId, item } of found) of.set(runId, (of.get(runId) ?? new Set()).add(item));
  return of;
}

export async function sayingsOf(db: Database, runId: number): Promise<SayingLine[]> {
  const found = await rows<{
    about: string;
    occurrenceId: number | null;
    otherwise: number;
    reason: string | null;
    missingSystem: string | null;
    missingValue: string | null;
  }>(
    db,
    `SELECT about, occurrence_id AS occurrenceId, otherwise, reason, missing_system AS missingSystem, missing_value AS missingValue
     FROM automation_sayings WHERE run_id = ? ORDER BY item LIMIT 500`,
    [runId],
  );
  return found.map(({ missingSystem, missingValue, otherwise, ...row }) => ({
    ...row,
    otherwise: otherwise === 1,
    missing: missingValue === null ? null : { system: missingSystem ?? '', value: missingValue },
  }));
}

export interface RunRow {
  id: number;
  automationId: number;
  name: string;
  version: number;
  state: RunState;
  cause: Cause;
  dueMs: number;
  endedMs: number | null;
  matched: number;
  said: number;
  keptBack: number;
  reason: string | null;
}

const RUN = `SELECT r.id, r.automation_id AS automationId, JSON_VALUE(a.draft, '$.name') AS name, v.number AS version, r.state, r.cause,
    ${ms('r.due_at')} AS dueMs, ${ms('r.ended_at')} AS endedMs, r.matched, r.said, r.kept_back AS keptBack, r.reason
  FROM automation_runs r JOIN automations a ON a.id = r.automation_id JOIN automation_versions v ON v.id = r.version_id`;
const readRun = (row: Omit<RunRow, 'cause'> & { cause: string }): RunRow => ({
  ...row,
  cause: causeSchema.parse(JSON.parse(row.cause)),
});

export async function runById(db: Database, id: number): Promise<RunRow | undefined> {
  const [row] = await rows<Omit<RunRow, 'cause'> & { cause: string }>(db, `${RUN} WHERE r.id = ?`, [id]);
  return row && readRun(row);
}

/**
 * A page of runs, the latest first: of one automation or of all, of some states or any, and those in whose name, reason or messages
 * some letters are, or all.
 */
export async function runsPage(
  db: Database,
  wanted: { automationId: number | null; states: readonly RunState[]; before: number | null; find: string },
  most: number,
): Promise<RunRow[]> {
  const { automationId, states, before, find } = wanted;
  const like = `%${likeText(find)}%`;
  const named =
    find === ''
      ? ''
      : `AND (JSON_VALUE(a.draft, '$.name') COLLATE utf8mb4_unicode_520_ci LIKE ? OR r.reason LIKE ? OR EXISTS (SELECT 1 FROM automation_sayings y
         WHERE y.run_id = r.id AND (y.about LIKE ? OR y.reason LIKE ? OR y.missing_value LIKE ?)))`;
  const found = await rows<Omit<RunRow, 'cause'> & { cause: string }>(
    db,
    `${RUN} WHERE (? IS NULL OR r.automation_id = ?) AND (? IS NULL OR r.id < ?) ${named}
       AND r.state IN (${states.map(() => '?').join(', ')}) ORDER BY r.id DESC LIMIT ?`,
    [
      automationId,
      automationId,
      before,
      before,
      ...(find === '' ? [] : [like, like, like, like, like]),
      ...states,
      most,
    ],
  );
  return found.map(readRun);
}

/** How much each automation said and kept back in the last days, its latest run that ended, and its next one that waits. */
export async function runFigures(
  db: Database,
  days: number,
): Promise<Map<number, { said: number; keptBack: number; lastId: number | null; nextMs: number | null }>> {
  const found = await rows<{
    id: number;
    said: number;
    keptBack: number;
    lastId: number | null;
    nextMs: number | null;
  }>(
    db,
    `SELECT a.id, CAST(COALESCE(SUM(IF(r.ended_at > NOW(3) - INTERVAL ? DAY, r.said, 0)), 0) AS SIGNED) AS said,
       CAST(COALESCE(SUM(IF(r.ended_at > NOW(3) - INTERVAL ? DAY, r.kept_back, 0)), 0) AS SIGNED) AS keptBack,
       MAX(IF(r.ended_at IS NULL, NULL, r.id)) AS lastId,
       ${ms("MIN(IF(r.state = 'waiting' AND JSON_VALUE(r.cause, '$.kind') IN ('time', 'date'), r.due_at, NULL))")} AS nextMs
     FROM automations a LEFT JOIN automation_runs r ON r.automation_id = a.id GROUP BY a.id`,
    [days, days],
  );
  return new Map(found.map(({ id, ...figures }) => [id, figures]));
}

/** How much an automation said in the last hour. */
export async function saidLastHour(db: Database, automationId: number): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    `SELECT CAST(COALESCE(SUM(said), 0) AS SIGNED) AS n FROM automation_runs WHERE automation_id = ? AND ended_at > NOW(3) - INTERVAL 1 HOUR`,
    [automationId],
  );
  return row?.n ?? 0;
}

/** What all automations did since an instant: runs, what was said, kept back, failed, and who was not found. */
export async function figuresSince(
  db: Database,
  sinceMs: number,
): Promise<{ runs: number; said: number; people: number; failed: number; missing: number }> {
  const [[runs], [missing], [people]] = await Promise.all([
    rows<{ runs: number; said: number; failed: number }>(
      db,
      `SELECT COUNT(*) AS runs, CAST(COALESCE(SUM(said), 0) AS SIGNED) AS said,
         CAST(COALESCE(SUM(state = 'failed'), 0) AS SIGNED) AS failed FROM automation_runs WHERE ended_at > ?`,
      [new Date(sinceMs)],
    ),
    rows<{ n: number }>(
      db,
      `SELECT COUNT(*) AS n FROM automation_sayings y JOIN automation_runs r ON r.id = y.run_id
       WHERE r.ended_at > ? AND y.missing_value IS NOT NULL`,
      [new Date(sinceMs)],
    ),
    rows<{ n: number }>(
      db,
      `SELECT COUNT(DISTINCT d.person_id) AS n FROM automation_runs r JOIN automation_sayings y ON y.run_id = r.id
         JOIN deliveries d ON d.occurrence_id = y.occurrence_id AND d.method = 'inbox' WHERE r.ended_at > ?`,
      [new Date(sinceMs)],
    ),
  ]);
  return {
    runs: runs?.runs ?? 0,
    said: runs?.said ?? 0,
    failed: runs?.failed ?? 0,
    missing: missing?.n ?? 0,
    people: people?.n ?? 0,
  };
}

/** By which automations, or ways in, some occurrences were said, each with who looks after it. */
export async function saidByThemselves(
  db: Database,
  occurrenceIds: readonly number[],
): Promise<Map<number, SaidBy>> {
  if (occurrenceIds.length === 0) return new Map();
  const found = await rows<{ occurrenceId: number } & SaidBy>(
    db,
    `SELECT o.id AS occurrenceId, IF(r.id IS NULL, 'hook', 'automation') AS kind,
       COALESCE(JSON_VALUE(a.draft, '$.name'), h.name) AS name, p.name AS owner
     FROM occurrences o JOIN sends s ON s.id = o.send_id LEFT JOIN automation_runs r ON r.id = s.run_id
       LEFT JOIN automations a ON a.id = r.automation_id LEFT JOIN hooks_in h ON h.id = s.hook_id
       JOIN people p ON p.id = COALESCE(a.owner_id, h.owner_id)
     WHERE o.id IN (${occurrenceIds.map(() => '?').join(', ')})`,
    occurrenceIds,
  );
  return new Map(found.map(({ occurrenceId, ...rest }) => [occurrenceId, rest]));
}

/** The automations for which a run of a time waits, or is under way. */
export async function waitingForTime(db: Database): Promise<Set<number>> {
  const found = await rows<{ id: number }>(
    db,
    `SELECT DISTINCT automation_id AS id FROM automation_runs
     WHERE state IN ('waiting', 'running') AND JSON_VALUE(cause, '$.kind') = 'time'`,
  );
  return new Set(found.map(({ id }) => id));
}

/** Which of some causes of an automation have been taken up already. */
export async function causesBegun(
  db: Database,
  automationId: number,
  keys: readonly string[],
): Promise<Set<string>> {
  if (keys.length === 0) return new Set();
  const found = await rows<{ key: string }>(
    db,
    `SELECT cause_key AS \`key\` FROM automation_runs
     WHERE automation_id = ? AND state <> 'waiting' AND cause_key IN (${keys.map(() => '?').join(', ')})`,
    [automationId, ...keys],
  );
  return new Set(found.map(({ key }) => key));
}
