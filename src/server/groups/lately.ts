import type { GroupLately } from '../../core/groups/group.ts';
import { groupsNamedIn } from '../../core/audience/expression.ts';
import type { Database } from '../database/connection.ts';
import { plansSentWithin } from './store.ts';

/** Over how many weeks it is told what a group got. */
const WEEKS = 8;
const SHOWN = 8;

/** What was sent to a group by its name in the last eight weeks, the latest first. */
export async function latelyTo(db: Database, groupId: number): Promise<GroupLately> {
  const sent = (await plansSentWithin(db, WEEKS * 7)).filter(
    ({ plan }) => plan.audience !== null && groupsNamedIn(plan.audience).includes(groupId),
  );
  return {
    weeks: WEEKS,
    sent: sent.length,
    byMail: sent.filter(({ plan }) => plan.mail).length,
    latest: sent
      .slice(0, SHOWN)
      .map(({ occurrenceId, title, sentMs }) => ({ id: occurrenceId, title, sentMs })),
  };
}
