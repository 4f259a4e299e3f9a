import { mayUnsubscribe, waitsForMorning } from '../../core/plan/plan.ts';
import { isIn } from '../audience/store.ts';
import { waitingSql } from '../bundling/waiting.ts';
import { claimJoiners } from '../asks/askStore.ts';
import { closeAndSettle, listMissing, type AskFailed } from '../asks/closing.ts';
import { setAside, takeUpAgain } from '../aside/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { notifyArrivals } from '../notices/store.ts';
import { emit } from '../events/store.ts';
import { whoRests } from '../people/rest.ts';
import { occurrenceById } from '../sends/occurrenceStore.ts';
import { recountDeliveries } from '../sends/deliveryCountStore.ts';
import { ARRIVAL_WHY } from './expand.ts';
import { deliverToInbox, lineUpMail, nextBatch, putOnRoll } from './store.ts';

const BATCH = 5_000;
/** How soon whoever joins is asked what is still open, in seconds. */
export const JOINERS_S = 20;

/** One turn over what is asked: closes, settles, lists who is missing, and asks those who have joined since. */
export async function runAsks(db: Database, failed: AskFailed): Promise<number> {
  return (
    (await closeAndSettle(db, failed)) + (await listMissing(db, failed)) + (await askJoiners(db, failed))
  );
}

/** Asks those who joined the audience of an open ask since it went out, where its plan says so. */
async function askJoiners(db: Database, failed: AskFailed): Promise<number> {
  const id = await transact(db, (trx) => claimJoiners(trx, JOINERS_S));
  if (id === null) return 0;
  try {
    const asked = await askJoinersOf(db, id);
    await takeUpAgain(db, 'joiners', id);
    return asked;
  } catch (error) {
    failed(error, id);
    await setAside(db, 'joiners', id, id, error);
    return 0;
  }
}

async function askJoinersOf(db: Database, id: number): Promise<number> {
  const occurrence = await occurrenceById(db, id);
  if (occurrence?.unreadable) throw new Error('Its plan cannot be read by this version of Clear Bell');
  if (!occurrence?.plan.audience) return 0;
  const [now, nowMs] = await Promise.all([audienceContext(db), databaseNow(db)]);
  const all = isIn(occurrence.plan.audience, now);
  const who = {
    sql: `${all.sql} AND NOT EXISTS (SELECT 1 FROM roll r WHERE r.occurrence_id = ? AND r.person_id = p.id)`,
    bindings: [...all.bindings, occurrence.id],
  };
  const resting = waitsForMorning(occurrence.importance) ? await whoRests(db, nowMs) : [];
  let asked = 0;
  let after = 0;
  for (;;) {
    const next = await nextBatch(db, after, BATCH, who);
    if (!next) break;
    const batch = { occurrenceId: occurrence.id, dueMs: nowMs, after, to: next.to };
    asked += await transact(db, async (trx) => {
      const reached = await deliverToInbox(trx, batch, who, resting);
      if (reached === 0) return 0;
      await recountDeliveries(trx, [occurrence.id]);
      const waits = await waitingSql(trx, occurrence, batch, now);
      if (occurrence.plan.mail)
        await lineUpMail(trx, batch, mayUnsubscribe(occurrence.importance, occurrence.asked), waits);
      await putOnRoll(trx, batch);
      await notifyArrivals(trx, batch, ARRIVAL_WHY, { waits });
      await emit(trx, 'occurrence.reached', {
        occurrence: occurrence.id,
        roll: occurrence.id,
        boards: [],
        posted: false,
      });
      return reached;
    });
    if (next.last) break;
    after = next.to;
  }
  return asked;
}
