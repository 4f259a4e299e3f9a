import { isLocal, type Plan } from '../../../core/plan/plan.ts';
import { dateAt } from '../../../core/timing/wallTime.ts';

/**
 * The date a check-in is for, YYYY-MM-DD: where it goes by readers' clocks the one written, else that of its instant.
 *
 * @param wall the wall-clock time its rule gave or it was moved to, or ''
 * @param zone the zone of whoever reads it
 */
export function dateOf(plan: Plan, wall: string, dueMs: number, zone: string): string {
  if (!isLocal(plan.timing)) return dateAt(dueMs, zone);
  return (plan.timing.kind === 'local' ? plan.timing.wall : wall || dateAt(dueMs, zone)).slice(0, 10);
}
