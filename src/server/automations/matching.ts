import type { Automation } from '../../core/automation/automation.ts';
import { holdsFor, testsIn } from '../../core/automation/condition.ts';
import { fieldsOf } from '../../core/automation/fields.ts';
import type { Cells } from '../../core/sheets/sheet.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { onceIn } from '../database/onceIn.ts';
import { organisation } from '../people/store.ts';
import { recordsThatMay } from '../sheets/conditionStore.ts';
import { recordsByIds, sheetById } from '../sheets/store.ts';
import { matchesOf, noteMatches } from './matchStore.ts';
import { insertRun } from './runStore.ts';
import type { AutomationRow } from './store.ts';

type Live = Pick<AutomationRow, 'id' | 'liveVersionId'> & { live: Automation };

/** Conditions on what is looked up are read when it runs: for coming to meet them, what they say of the record counts. */
const ofRecord = (automation: Automation): Automation['if'] =>
  automation.if.kind === 'all'
    ? {
        kind: 'all',
        of: automation.if.of.filter((each) => !testsIn(each).some((test) => test.field.startsWith('found.'))),
      }
    : automation.if;

/**
 * Which records have come to meet an automation's condition since they were last looked at, and lines up a run for them; in
 * the transaction of the caller, so that a record that flips twice is told as often as it came to meet it.
 *
 * @param ids the records that changed; null for all of its sheet
 * @param quietly whether those that meet it now count as seen and nothing is said of them
 */
export async function match(
  trx: Database,
  automation: Live,
  ids: readonly number[] | null,
  key: string,
  quietly = false,
): Promise<number> {
  const { live, liveVersionId } = automation;
  if (live.when.kind !== 'meets' || liveVersionId === null) return 0;
  const { sheetId, again } = live.when;
  const [sheet, home, nowMs] = await Promise.all([
    onceIn(trx, `sheet ${sheetId}`, () => sheetById(trx, sheetId)),
    onceIn(trx, 'organisation', () => organisation(trx)),
    onceIn(trx, 'now', () => databaseNow(trx)),
  ]);
  if (!sheet) return 0;
  const fields = fieldsOf(live.when, sheet.columns);
  const condition = ofRecord(live);
  const at = { nowMs, zone: home?.zone ?? 'UTC' };
  const records =
    ids === null
      ? await recordsThatMay(trx, sheetId, condition, fields, at)
      : await recordsByIds(trx, sheetId, ids);
  const holds = (cells: Cells): boolean =>
    holdsFor(
      condition,
      fields,
      new Map(Object.entries(cells).map(([id, value]) => [`record.${id}`, value])),
      at,
    );
  const before = await matchesOf(trx, automation.id, ids);
  const changed: { recordId: number; holds: boolean }[] = [];
  const met: number[] = [];
  const looked = new Map(records.map(({ id, cells }) => [id, holds(cells)]));
  // Of what was not read the condition does not hold.
  for (const id of new Set([...looked.keys(), ...before.keys()])) {
    const is = looked.get(id) ?? false;
    if (is === (before.get(id) ?? false)) continue;
    // Once told of, a record stays so unless it is to be told of anew.
    if (!is && !again) continue;
    changed.push({ recordId: id, holds: is });
    if (is) met.push(id);
  }
  await noteMatches(trx, automation.id, changed);
  if (met.length === 0 || quietly) return 0;
  await insertRun(trx, {
    automationId: automation.id,
    versionId: liveVersionId,
    causeKey: key,
    cause: { kind: 'records', sheetId, ids: met.slice(0, 10_000) },
    dueMs: nowMs,
  });
  return met.length;
}

/** As `match`, in a transaction of its own: for what only time changes. */
export const matchAgain = (db: Database, automation: Live, ids: readonly number[] | null): Promise<number> =>
  transact(db, async (trx) => match(trx, automation, ids, `look.${await databaseNow(trx)}`));
