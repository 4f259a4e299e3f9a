import { mayUnsubscribe } from '../../core/plan/plan.ts';
import type { Circumstances } from '../../core/audience/includes.ts';
import { postOccurrence } from '../boards/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { publish } from '../outbox/store.ts';
import { topics } from '../outbox/topics.ts';
import { occurrenceById } from '../sends/store.ts';
import {
  advanceBucket,
  anythingWent,
  deliverToInbox,
  failBucket,
  finishBucket,
  lineUpMail,
  markGoingOut,
  markSent,
  putOnRoll,
  stretchEnd,
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
  claimant: Claimant,
  now: Circumstances,
): Promise<Expansion> {
  const occurrence = await occurrenceById(db, bucket.occurrenceId);
  if (!occurrence) throw new Error(`Bucket ${bucket.id} belongs to no occurrence`);
  const { plan, importance } = occurrence;
  const stoppable = mayUnsubscribe(importance, plan.ask);
  const done: Expansion = { inbox: 0, mail: 0 };
  await markGoingOut(db, occurrence.id);
  await postOccurrence(db, occurrence.id, plan.boards);

  let after = bucket.expandedTo;
  const { audience } = plan;
  for (let to = audience && (await stretchEnd(db, after, STRETCH)); audience && to;) {
    const stretch = { occurrenceId: occurrence.id, dueMs: bucket.dueMs, after, to };
    const end = to;
    const [inbox, mail] = await transact(db, async (trx) => {
      const reached = await deliverToInbox(trx, stretch, audience, now);
      const linedUp = plan.mail && reached > 0 ? await lineUpMail(trx, stretch, stoppable) : 0;
      if (plan.ask.kind !== 'nothing' && reached > 0) await putOnRoll(trx, stretch);
      if (!(await advanceBucket(trx, bucket.id, claimant, end))) throw new LostClaim();
      return [reached, linedUp] as const;
    });
    done.inbox += inbox;
    done.mail += mail;
    after = end;
    to = await stretchEnd(db, after, STRETCH);
  }

  if (!(await anythingWent(db, occurrence.id))) {
    await failBucket(db, bucket, claimant.engine, 'Nobody was in the audience when it was due.');
  } else {
    if (!(await finishBucket(db, bucket.id, claimant.engine))) throw new LostClaim();
    // Only after that is committed: the mail may all be gone already, and whichever of the two looks last marks it.
    await markSent(db, [occurrence.id]);
  }
  await publish(db, [
    topics.desk,
    topics.occurrence(occurrence.id),
    topics.roll(occurrence.id),
    ...plan.boards.map(topics.board),
  ]);
  return done;
}

/** Whether an error only says that another engine has taken over. */
export const isLostClaim = (error: unknown): boolean => error instanceof LostClaim;
