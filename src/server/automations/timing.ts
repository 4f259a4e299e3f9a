import { Temporal } from 'temporal-polyfill';
import type { Automation } from '../../core/automation/automation.ts';
import { comingOccurrences } from '../../core/plan/coming.ts';
import { bucketsAt } from '../../core/plan/buckets.ts';
import { occurrenceWalls } from '../../core/timing/recurrence.ts';
import type { Rule } from '../../core/timing/rule.ts';
import { wallAt } from '../../core/timing/wallTime.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { clocks } from '../people/store.ts';
import { zonesOf } from '../sends/planning.ts';
import { insertRun, waitingForTime } from './runStore.ts';
import { liveAutomations, type LiveAutomation } from './store.ts';

/** What sets a time apart from every other of its automation. */
export const timeKey = (wall: string): string => `time.${wall}`;

/**
 * The times at which a clock sets an automation off from an instant on: the wall-clock time its rule gives, and the first
 * instant at which it shows somewhere.
 */
export function comingTimes(
  when: Extract<Automation['when'], { kind: 'schedule' }>,
  zones: readonly string[],
  fromMs: number,
  most: number,
): { wall: string; dueMs: number }[] {
  const timing = {
    kind: 'recurring' as const,
    start: when.start,
    zone: when.zone,
    rule: when.rule,
    passed: 'not' as const,
  };
  return comingOccurrences(timing, zones, fromMs, { most }).map(({ recursAt, buckets }) => ({
    wall: recursAt,
    dueMs: Math.min(...buckets.map((bucket) => bucket.dueMs)),
  }));
}

/** A rule's beginning moved back by whole steps of it, so that it can be read before it began. */
function begunEarlier(start: string, rule: Rule, before: string): string {
  const unit = ({ daily: 'days', weekly: 'weeks', monthly: 'months', yearly: 'years' } as const)[rule.freq];
  let begins = Temporal.PlainDateTime.from(start);
  const wanted = Temporal.PlainDateTime.from(before);
  while (Temporal.PlainDateTime.compare(begins, wanted) > 0) begins = begins.subtract({ [unit]: rule.every });
  return begins.toString({ smallestUnit: 'minute' });
}

/** The times a rule would have given in a period of the past, as if it had always been there: for a replay. */
export function pastTimes(
  when: Extract<Automation['when'], { kind: 'schedule' }>,
  zones: readonly string[],
  fromMs: number,
  toMs: number,
): { wall: string; dueMs: number }[] {
  const from = wallAt(fromMs, 'UTC');
  const rule: Rule = { ...when.rule, end: { kind: 'never' } };
  return occurrenceWalls(begunEarlier(when.start, rule, from), rule, {
    from,
    to: wallAt(toMs, 'UTC'),
    most: 2_000,
  })
    .map((wall) => ({
      wall,
      dueMs: Math.min(...bucketsAt(wall, when.zone, zones, { passed: 'not' }, 0).map((each) => each.dueMs)),
    }))
    .filter(({ dueMs }) => dueMs >= fromMs && dueMs < toMs);
}

const DAY_MS = 86_400_000;

/**
 * Lines up the next time of every live automation that a clock sets off and that has none waiting.
 *
 * @param live the live automations, where they have been read already
 */
export async function lineUpTimes(db: Database, live?: readonly LiveAutomation[]): Promise<number> {
  const scheduled = (live ?? (await liveAutomations(db))).filter(({ live }) => live.when.kind === 'schedule');
  if (scheduled.length === 0) return 0;
  const waiting = await waitingForTime(db);
  if (scheduled.every(({ id }) => waiting.has(id))) return 0;
  const zones = zonesOf(await clocks(db));
  const nowMs = await databaseNow(db);
  let linedUp = 0;
  for (const { id, live, liveVersionId } of scheduled) {
    if (live.when.kind !== 'schedule' || liveVersionId === null) continue;
    if (waiting.has(id)) continue;
    const fromMs =
      live.from === null ? nowMs : Math.max(nowMs, Date.parse(`${live.from}T00:00:00Z`) - DAY_MS);
    for (const { wall, dueMs } of comingTimes(live.when, zones, fromMs, 3)) {
      if ((live.from !== null && wall < live.from) || (live.until !== null && wall.slice(0, 10) > live.until))
        continue;
      const made = await transact(db, (trx) =>
        insertRun(trx, {
          automationId: id,
          versionId: liveVersionId,
          causeKey: timeKey(wall),
          cause: { kind: 'time', wall },
          dueMs,
          ahead: true,
        }),
      );
      if (!made) continue;
      linedUp++;
      break;
    }
  }
  return linedUp;
}
