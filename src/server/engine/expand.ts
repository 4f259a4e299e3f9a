import { mayUnsubscribe } from '../../core/plan/plan.ts';
import type { Circumstances } from '../../core/audience/includes.ts';
import { postOccurrence } from '../boards/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { publish } from '../outbox/store.ts';
import { topics } from '../outbox/topics.ts';
import type { Occurrence } from '../sends/store.ts';
import {
  advanceBucket,
  anythingWent,
  deliverToInbox,
  failBucket,
  finishBucket,
  lineUpMail,
  markSent,
  nextStretch,
  putOnRoll,
  type Bucket,
  type Claimant,
} from './store.ts';

/**
 * People looked at in one transaction. Long enough that a statement's overhead does not show, short enough that a
 * transaction commits within a fraction of a second, so that what is "delivered at" is also seen at, and a
 * replicated database need not certify a huge write set.
 */
const STRETCH = 5_000;

class LostClaim extends Error {}

/** What came of expanding: how many inboxes it reached and how many mails it lined up. */
export interface Expansion {
  inbox: number;
  mail: number;
}

/**
 * Writes the deliveries of a claimed bucket for whoever is in the audience now, stretch by stretch, each in a
 * transaction with the note of how far it is. After a crash the next engine goes on from that note; whatever it
 * writes again changes nothing, since a delivery is unique by occurrence, person and method.
 */
export async function expand(
  db: Database,
  bucket: Bucket,
  occurrence: Occurrence,
  claimant: Claimant,
  now: Circumstances,
): Promise<Expansion> {
  const { plan, importance } = occurrence;
  const { audience } = plan;
  const stoppable = mayUnsubscribe(importance, plan.ask);
  const done: Expansion = { inbox: 0, mail: 0 };
  await postOccurrence(db, occurrence.id, plan.boards);

  let after = bucket.expandedTo;
  let finished: 'no' | 'expanded' | 'sent' = 'no';
  while (finished === 'no') {
    const next = audience && (await nextStretch(db, after, STRETCH, audience, now));
    const to = next ? next.to : after;
    const last = !next || next.last;
    const { inbox, mail, state } = await transact(db, async (trx) => {
      let reached = 0;
      let linedUp = 0;
      if (audience && next) {
        const stretch = { occurrenceId: occurrence.id, dueMs: bucket.dueMs, after, to };
        reached = await deliverToInbox(trx, stretch, audience, now);
        if (plan.mail && reached > 0) linedUp = await lineUpMail(trx, stretch, stoppable);
        if (plan.ask.kind !== 'nothing' && reached > 0) await putOnRoll(trx, stretch);
      }
      if (!last) {
        if (!(await advanceBucket(trx, bucket.id, claimant, to))) throw new LostClaim();
        return { inbox: reached, mail: linedUp, state: 'no' as const };
      }
      if (done.inbox + reached === 0 && !(await anythingWent(trx, occurrence.id))) {
        await failBucket(trx, bucket, claimant.engine, 'Nobody was in the audience when it was due.');
      } else if (!(await finishBucket(trx, bucket.id, claimant.engine))) throw new LostClaim();
      await publish(trx, [
        topics.desk,
        topics.occurrence(occurrence.id),
        topics.roll(occurrence.id),
        ...plan.boards.map(topics.board),
      ]);
      const marked = await markSent(trx, [occurrence.id]);
      return {
        inbox: reached,
        mail: linedUp,
        state: marked.length > 0 ? ('sent' as const) : ('expanded' as const),
      };
    });
    finished = state;
    done.inbox += inbox;
    done.mail += mail;
    after = to;
  }
  // Once more after that is committed: its mail may all have gone meanwhile, or another engine have finished the
  // bucket of another zone, and neither could see the other. Whoever looks last marks it.
  if (finished === 'expanded' && (await markSent(db, [occurrence.id])).length > 0)
    await publish(db, [topics.desk, topics.occurrence(occurrence.id)]);
  return done;
}

/** Whether an error only says that another engine has taken over. */
export const isLostClaim = (error: unknown): boolean => error instanceof LostClaim;
