import {
  automationSchema,
  sheetOf,
  type Automation,
  type AutomationState,
} from '../../core/automation/automation.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** How an automation is stored: with the version of its shape. */
const SHAPE = 1;
const stored = (automation: Automation): string => JSON.stringify({ version: SHAPE, ...automation });

/** @throws where it is none, or one of a later version of Clear Bell */
export function readAutomation(json: string): Automation {
  const { version, ...rest } = JSON.parse(json) as Record<string, unknown>;
  if (version !== SHAPE)
    throw new Error('It was written by another version of Clear Bell than this one can read');
  return automationSchema.parse(rest);
}

export interface AutomationRow {
  id: number;
  ownerId: number;
  owner: string;
  ownerHere: boolean;
  state: AutomationState;
  whyPaused: string | null;
  draft: Automation;
  revision: number;
  savedById: number;
  savedMs: number;
  liveVersionId: number | null;
  live: Automation | null;
  liveNumber: number | null;
  failures: number;
  /** Until when it has looked at dates that set it off. */
  lookedUntilMs: number;
}

type Stored = Omit<AutomationRow, 'draft' | 'live' | 'ownerHere'> & {
  draft: string;
  live: string | null;
  ownerHere: number;
};

const AUTOMATION = `SELECT a.id, a.owner_id AS ownerId, p.name AS owner, p.standing <> 'left' AS ownerHere, a.state, a.why_paused AS whyPaused,
    a.draft, a.revision, a.saved_by AS savedById, ${ms('a.saved_at')} AS savedMs, a.live_version_id AS liveVersionId,
    v.automation AS live, v.number AS liveNumber, a.failures, ${ms('a.looked_until')} AS lookedUntilMs
  FROM automations a JOIN people p ON p.id = a.owner_id LEFT JOIN automation_versions v ON v.id = a.live_version_id`;

const read = (row: Stored): AutomationRow => ({
  ...row,
  ownerHere: row.ownerHere === 1,
  draft: readAutomation(row.draft),
  live: row.live === null ? null : readAutomation(row.live),
});

export async function automationById(db: Database, id: number): Promise<AutomationRow | undefined> {
  const [row] = await rows<Stored>(db, `${AUTOMATION} WHERE a.id = ?`, [id]);
  return row && read(row);
}

/** An automation, held until the transaction ends. */
export async function lockAutomation(db: Database, id: number): Promise<AutomationRow | undefined> {
  await rows(db, 'SELECT id FROM automations WHERE id = ? FOR UPDATE', [id]);
  return automationById(db, id);
}

/** All automations, by name. */
export async function allAutomations(db: Database): Promise<AutomationRow[]> {
  const found = await rows<Stored>(db, `${AUTOMATION} ORDER BY JSON_VALUE(a.draft, '$.name'), a.id`);
  return found.map(read);
}

export type LiveAutomation = AutomationRow & { live: Automation };

/** Those that listen, with what they do as published. */
export async function liveAutomations(db: Database): Promise<LiveAutomation[]> {
  const found = await rows<Stored>(
    db,
    `${AUTOMATION} WHERE a.state = 'on' AND a.live_version_id IS NOT NULL`,
  );
  return found.map(read).flatMap((row) => (row.live ? [{ ...row, live: row.live }] : []));
}

/** Those that listen to a record sheet, a group, a way in or a session, as published. */
export async function listeningTo(
  db: Database,
  what: 'sheetId' | 'groupId' | 'hookId' | 'sessionId',
  id: number,
): Promise<(AutomationRow & { live: Automation })[]> {
  const found = await rows<Stored>(
    db,
    `${AUTOMATION} WHERE a.state = 'on' AND JSON_VALUE(v.automation, '$.when.${what}') = ?`,
    [String(id)],
  );
  return found.map(read).flatMap((row) => (row.live ? [{ ...row, live: row.live }] : []));
}

/** Those that are set off by a kind of thing, as published. */
export async function listeningAs(
  db: Database,
  kind: Automation['when']['kind'],
): Promise<(AutomationRow & { live: Automation })[]> {
  const found = await rows<Stored>(
    db,
    `${AUTOMATION} WHERE a.state = 'on' AND JSON_VALUE(v.automation, '$.when.kind') = ?`,
    [kind],
  );
  return found.map(read).flatMap((row) => (row.live ? [{ ...row, live: row.live }] : []));
}

/** Which automations read which sheet, as written or as published. */
export async function automationsReading(
  db: Database,
): Promise<{ id: number; name: string; sheetId: number }[]> {
  return (await allAutomations(db)).flatMap(({ id, draft, live }) => {
    const sheets = new Set([sheetOf(draft.when), live && sheetOf(live.when)]);
    return [...sheets].flatMap((sheetId) => (sheetId === null ? [] : [{ id, name: draft.name, sheetId }]));
  });
}

export async function insertAutomation(db: Database, ownerId: number, draft: Automation): Promise<number> {
  const [id] = await db('automations').insert({ owner_id: ownerId, saved_by: ownerId, draft: stored(draft) });
  return id ?? 0;
}

/** Saves what is written over the revision its author saw; false where it is not that any more. */
export async function saveAutomation(
  db: Database,
  id: number,
  revision: number,
  by: number,
  draft: Automation,
): Promise<boolean> {
  return (
    (await change(
      db,
      'UPDATE automations SET draft = ?, revision = revision + 1, saved_by = ?, saved_at = NOW(3) WHERE id = ? AND revision = ?',
      [stored(draft), by, id, revision],
    )) === 1
  );
}

/** Keeps what is written as the next version and lets it be what runs. */
export async function publishVersion(
  db: Database,
  id: number,
  automation: Automation,
  by: number,
): Promise<{ id: number; number: number }> {
  const [last] = await rows<{ number: number }>(
    db,
    'SELECT CAST(COALESCE(MAX(number), 0) AS SIGNED) AS number FROM automation_versions WHERE automation_id = ?',
    [id],
  );
  const number = (last?.number ?? 0) + 1;
  const [versionId] = await db('automation_versions').insert({
    automation_id: id,
    number,
    automation: stored(automation),
    published_by: by,
  });
  await change(
    db,
    "UPDATE automations SET live_version_id = ?, state = 'on', why_paused = NULL, failures = 0 WHERE id = ?",
    [versionId ?? 0, id],
  );
  return { id: versionId ?? 0, number };
}

export async function versionsOf(
  db: Database,
  id: number,
): Promise<{ id: number; number: number; by: string; atMs: number; automation: Automation }[]> {
  const found = await rows<{ id: number; number: number; by: string; atMs: number; automation: string }>(
    db,
    `SELECT v.id, v.number, p.name AS \`by\`, ${ms('v.published_at')} AS atMs, v.automation FROM automation_versions v
       JOIN people p ON p.id = v.published_by WHERE v.automation_id = ? ORDER BY v.number DESC LIMIT 30`,
    [id],
  );
  return found.map((row) => ({ ...row, automation: readAutomation(row.automation) }));
}

/** A version by its number; undefined where there is none. */
export async function versionNumbered(
  db: Database,
  id: number,
  number: number,
): Promise<Automation | undefined> {
  const [row] = await rows<{ automation: string }>(
    db,
    'SELECT automation FROM automation_versions WHERE automation_id = ? AND number = ?',
    [id, number],
  );
  return row && readAutomation(row.automation);
}

export async function versionById(db: Database, id: number): Promise<Automation | undefined> {
  const [row] = await rows<{ automation: string }>(
    db,
    'SELECT automation FROM automation_versions WHERE id = ?',
    [id],
  );
  return row && readAutomation(row.automation);
}

/** Puts an automation in a state; false where it was in it. */
export async function setAutomationState(
  db: Database,
  id: number,
  state: AutomationState,
  why: string | null,
): Promise<boolean> {
  return (
    (await change(
      db,
      'UPDATE automations SET state = ?, why_paused = ?, failures = 0 WHERE id = ? AND state <> ?',
      [state, why === null ? null : why.slice(0, 300), id, state],
    )) === 1
  );
}

/** From now on an automation looks at dates: those that were due before are none of its business. */
export async function beginLooking(db: Database, id: number): Promise<void> {
  await change(db, 'UPDATE automations SET looked_until = NOW(3) WHERE id = ?', [id]);
}

/** Notes until when an automation has looked at dates. */
export async function lookedUntil(db: Database, id: number, untilMs: number): Promise<void> {
  await change(db, 'UPDATE automations SET looked_until = GREATEST(looked_until, ?) WHERE id = ?', [
    new Date(untilMs),
    id,
  ]);
}

/** The state of an automation, which is held until the transaction ends; undefined where it is gone. */
export async function lockAutomationState(db: Database, id: number): Promise<AutomationState | undefined> {
  const [row] = await rows<{ state: AutomationState }>(
    db,
    'SELECT state FROM automations WHERE id = ? FOR UPDATE',
    [id],
  );
  return row?.state;
}

export async function setAutomationOwner(db: Database, id: number, ownerId: number): Promise<void> {
  await change(db, 'UPDATE automations SET owner_id = ? WHERE id = ?', [ownerId, id]);
}

/** Counts runs that failed one after another; gives how many. */
export async function countFailure(db: Database, id: number, failed: boolean): Promise<number> {
  await change(db, `UPDATE automations SET failures = ${failed ? 'failures + 1' : '0'} WHERE id = ?`, [id]);
  const [row] = await rows<{ failures: number }>(db, 'SELECT failures FROM automations WHERE id = ?', [id]);
  return row?.failures ?? 0;
}

export async function deleteAutomationById(db: Database, id: number): Promise<void> {
  await change(db, 'UPDATE automations SET live_version_id = NULL WHERE id = ?', [id]);
  // Runs name their version: they go before it.
  await change(db, 'DELETE FROM automation_runs WHERE automation_id = ?', [id]);
  await change(db, 'DELETE FROM automations WHERE id = ?', [id]);
}

/** Those whose owner has left and that still listen. */
export function orphaned(db: Database): Promise<{ id: number; owner: string }[]> {
  return rows(
    db,
    `SELECT a.id, p.name AS owner FROM automations a JOIN people p ON p.id = a.owner_id
     WHERE a.state = 'on' AND p.standing = 'left'`,
  );
}
