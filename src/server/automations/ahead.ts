import { groupOf, waitsForClock, type Automation } from '../../core/automation/automation.ts';
import { fieldsOf } from '../../core/automation/fields.ts';
import {
  automationSentence,
  automationText,
  whomWords,
  type AutomationNames,
} from '../../core/automation/words.ts';
import type { Fields } from '../../core/automation/condition.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { RunSheetRow } from '../../core/sends/send.ts';
import { bucketsAt } from '../../core/plan/buckets.ts';
import type { Due } from '../../core/load/clash.ts';
import type { OtherGoing } from '../../core/load/otherGoing.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { clocks } from '../people/store.ts';
import { zonesOf } from '../sends/planning.ts';
import { sheetById } from '../sheets/store.ts';
import { dateKey, datesDue } from './dates.ts';
import { readingNames } from './naming.ts';
import { liveAutomations, type AutomationRow } from './store.ts';
import { causesBegun } from './runStore.ts';
import { comingTimes, timeKey } from './timing.ts';

/** Of one automation at most so many times stand on a run sheet. */
const MOST = 60;
const DAY_MS = 86_400_000;

interface Time {
  /** The key of its cause, by which it is known whether it has been taken up. */
  key: string;
  dueMs: number;
  endsMs: number;
  /** When it is due for the readers of each clock. */
  dues: Due[];
}

/** The number of a line that an automation has on the run sheet: negative, and its own for each minute. */
const lineOf = (automationId: number, dueMs: number): number =>
  -(automationId * 100_000_000 + Math.floor(dueMs / 60_000));

/** The instants in a period at which an automation will look or speak, each with the last clock it shows on. */
async function timesOf(
  db: Database,
  { id, live }: { id: number; live: Automation },
  zones: readonly string[],
  fromMs: number,
  toMs: number,
): Promise<Time[]> {
  const { when } = live;
  const times =
    when.kind === 'schedule'
      ? comingTimes(when, zones, fromMs, MOST).map(({ wall, dueMs }): Time => {
          const dues = bucketsAt(wall, when.zone, zones, { passed: 'not' }, fromMs).map((each) => ({
            zone: each.zone,
            dueMs: each.dueMs,
          }));
          return {
            key: timeKey(wall),
            dueMs,
            endsMs: Math.max(...dues.map((each) => each.dueMs)),
            dues,
          };
        })
      : (await datesDue(db, live, fromMs, toMs)).slice(0, MOST).map((dueMs): Time => ({
          key: dateKey(dueMs),
          dueMs,
          endsMs: dueMs,
          dues: [{ zone: '', dueMs }],
        }));
  // What goes by readers' clocks has begun when the first of them show the hour: it stands there as what it said.
  const begun = await causesBegun(
    db,
    id,
    times.map(({ key }) => key),
  );
  return times.filter(({ key, dueMs }) => dueMs < toMs && !begun.has(key));
}

/** Whether an automation runs on the day of an instant. */
function runsThen({ from, until }: Automation, ms: number): boolean {
  const day = new Date(ms).toISOString().slice(0, 10);
  return (from === null || day >= from) && (until === null || day <= until);
}

function rowOf(
  automation: AutomationRow & { live: Automation },
  names: AutomationNames,
  fields: Fields,
  { dueMs, endsMs }: Time,
): RunSheetRow {
  const { id, live, owner } = automation;
  const groupId = groupOf(live.when);
  return {
    occurrenceId: lineOf(id, dueMs),
    announcementId: 0,
    automationId: id,
    title: live.name,
    importance: live.content.importance,
    state: 'scheduled',
    sendId: 0,
    kind: 'send',
    chases: null,
    asks: 'nothing',
    recurs: null,
    local: endsMs > dueMs,
    dueMs,
    endsMs,
    correctedMs: null,
    correction: null,
    withdrawn: null,
    sentMs: null,
    deadlineMs: null,
    author: owner,
    whom: groupId === null ? (whomWords(live.tell, names, fields) ?? '') : (names.group(groupId) ?? ''),
    boards: live.tell.boards.flatMap((board) => names.board(board) ?? []),
    localWall: null,
    movable: false,
    projectedFrom: null,
    sentence: automationText(automationSentence(live, fields, names)),
    brief: automationText(automationSentence(live, fields, names)),
    failure: null,
    inbox: 0,
    outside: 0,
    mailed: 0,
    waiting: 0,
    resting: 0,
    failed: 0,
    worstLateMs: null,
    roll: null,
  };
}

/**
 * What automations will do that a clock or a date sets off, in a period of time, as lines of the run sheet: what they will
 * say, and whether anything meets their conditions, is known only then. A coordinator sees all of it, others their own.
 */
export async function automationsAhead(
  db: Database,
  actor: Actor,
  fromMs: number,
  toMs: number,
): Promise<RunSheetRow[]> {
  const nowMs = await databaseNow(db);
  const beginMs = Math.max(nowMs, fromMs);
  if (beginMs >= toMs) return [];
  const seen = (await liveAutomations(db)).filter(
    ({ ownerId, live: { when } }) =>
      (actor.role === 'coordinator' || ownerId === actor.id) && waitsForClock(when),
  );
  if (seen.length === 0) return [];
  const [names, found] = await Promise.all([
    readingNames(
      db,
      actor,
      seen.map(({ live }) => live),
    ),
    clocks(db),
  ]);
  const zones = zonesOf(found);
  const rows = await Promise.all(
    seen.map(async (automation) => {
      const { live } = automation;
      const sheetId = 'sheetId' in live.when ? live.when.sheetId : null;
      const [times, sheet] = await Promise.all([
        timesOf(db, automation, zones, beginMs, Math.min(toMs, beginMs + 60 * DAY_MS)),
        sheetId === null ? undefined : sheetById(db, sheetId),
      ]);
      const fields = fieldsOf(live.when, sheet?.columns ?? []);
      return times
        .filter(({ dueMs }) => runsThen(live, dueMs))
        .map((time) => rowOf(automation, names, fields, time));
    }),
  );
  return rows.flat();
}

/**
 * What automations say to an audience when a clock sets them off, in a period of time, as far as their conditions hold then.
 * Those that say it only at a later hour, or to whoever a record or a person names, are not among them: who that is, is known then.
 *
 * @param whose whose automations; null for all
 */
export async function automationGoings(
  db: Database,
  fromMs: number,
  toMs: number,
  whose: number | null,
): Promise<OtherGoing[]> {
  const nowMs = await databaseNow(db);
  const beginMs = Math.max(nowMs, fromMs);
  if (beginMs >= toMs) return [];
  const scheduled = (await liveAutomations(db)).flatMap(({ id, ownerId, live }) =>
    live.when.kind === 'schedule' &&
    live.due.kind === 'at once' &&
    live.tell.to?.kind === 'audience' &&
    (whose === null || ownerId === whose)
      ? [{ id, ownerId, live, audience: live.tell.to.audience }]
      : [],
  );
  if (scheduled.length === 0) return [];
  const zones = zonesOf(await clocks(db));
  const found = await Promise.all(
    scheduled.map(async ({ id, ownerId, live, audience }) =>
      (await timesOf(db, { id, live }, zones, beginMs, toMs))
        .filter(({ dueMs }) => runsThen(live, dueMs))
        .map(({ dueMs, endsMs, dues }): OtherGoing => ({
          id: lineOf(id, dueMs),
          sendId: -id,
          title: live.name,
          ownerId,
          state: 'scheduled',
          dueMs,
          endsMs,
          audience,
          dues,
          what: () =>
            Promise.resolve({
              importance: live.content.importance,
              test: false,
              chase: false,
              deadlineMs: null,
              eventMs: null,
            }),
        })),
    ),
  );
  return found.flat();
}
