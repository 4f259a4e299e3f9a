import type { Automation } from '../../core/automation/automation.ts';
import { bucketsAt, type PlannedBucket } from '../../core/plan/buckets.ts';
import type { Timing } from '../../core/plan/plan.ts';
import { dateAt, dayAfter, resolveMoment, wallAt } from '../../core/timing/wallTime.ts';

/** The next time a clock shows an hour, not before an instant: its wall-clock time. An hour just reached counts. */
function nextHour(time: string, zone: string, fromMs: number): string {
  const today = dateAt(fromMs, zone);
  const wall = `${today}T${time}`;
  return resolveMoment({ wall, zone }).epochMs >= fromMs ? wall : `${dayAfter(today)}T${time}`;
}

/**
 * When something is said that is due at an instant: at once, at the next such hour of the one it is for, or where each reader
 * is. An hour that has passed somewhere comes there a day later.
 *
 * @param given.wall the wall-clock time a rule gave, where a time set it off
 * @param given.single whether it is for one person, or for boards alone, so that one clock counts: `given.zone`
 */
export function dueOf(
  { when, due }: Pick<Automation, 'when' | 'due'>,
  given: { dueMs: number; wall: string | null; zone: string; zones: readonly string[]; single: boolean },
): { timing: Timing; buckets: PlannedBucket[] } {
  const { dueMs, wall, zone, zones, single } = given;
  if (when.kind === 'schedule' && when.zone === null && wall !== null)
    return {
      timing: { kind: 'local', wall, passed: 'not' },
      buckets: bucketsAt(wall, null, zones, { passed: 'not' }, dueMs),
    };
  if (due.kind === 'at once')
    return {
      timing: { kind: 'at', wall: wallAt(dueMs, 'UTC'), zone: 'UTC' },
      buckets: [{ zone: '', dueMs, hour: 'ordinary', pastHour: 'as planned' }],
    };
  if (single) {
    const next = nextHour(due.time, zone, dueMs);
    return { timing: { kind: 'at', wall: next, zone }, buckets: bucketsAt(next, zone, [], {}, dueMs) };
  }
  const next = nextHour(due.time, zone, dueMs);
  return {
    timing: { kind: 'local', wall: next, passed: 'next day' },
    buckets: bucketsAt(next, null, zones, { passed: 'next day' }, dueMs),
  };
}
