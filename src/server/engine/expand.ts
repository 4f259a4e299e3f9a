import type { Audience } from '../../core/audience/expression.ts';
import { closes, ofWorkingDays } from '../../core/asks/ask.ts';
import { chasePlan } from '../../core/asks/chase.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { mayUnsubscribe, waitsForMorning } from '../../core/plan/plan.ts';
import type { Quiet } from '../../core/timing/quiet.ts';
import type { Sql } from '../audience/sql.ts';
import { isIn } from '../audience/store.ts';
import { waitingSql } from '../bundling/waiting.ts';
import { lineUpForPlaces } from '../gateways/placeStore.ts';
import { postOccurrence } from '../posts/occurrencePostStore.ts';
import { beginAsk } from '../asks/askStore.ts';
import { transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { notifyArrivals } from '../notices/store.ts';
import { emit } from '../events/store.ts';
import { restingAt, type Resting } from '../people/rest.ts';
import { clocks, organisation } from '../people/store.ts';
import { both, instantsIn, worksAt } from '../people/working.ts';
import { zonesOf } from '../sends/planning.ts';
import { bucketsOf } from '../sends/bucketStore.ts';
import { anythingWent, type Occurrence } from '../sends/occurrenceStore.ts';
import {
  advanceBucket,
  deliverToInbox,
  endUnsent,
  failBucket,
  finishBucket,
  isTakenBack,
  lineUpContacts,
  lineUpMail,
  markGoingOut,
  markSent,
  nextBatch,
  putOnRoll,
  skippedZones,
  type Bucket,
  type Claimant,
  type DeliveryBatch,
} from './store.ts';

/**
 * People looked at in one transaction. Long enough that a statement's overhead does not show, short enough that a
 * transaction commits within a fraction of a second, so that what is "delivered at" is also seen at, and a
 * replicated database need not certify a huge write set.
 */
const BATCH = 5_000;

class LostClaim extends Error {}

/** Why a push of an announcement came. */
export const ARRIVAL_WHY = 'You chose to be told when an announcement comes for you.';
const TEST_WHY = 'You sent yourself a test copy by every method.';

/** What expanding depends on besides the send itself, read once for all that is due at a moment. */
export interface World {
  now: AudienceContext;
  /** The clocks people read by. */
  clocks: { zone: string; quiet: Quiet | null }[];
  quietOfAll: Quiet | null;
}

export async function readWorld(db: Database): Promise<World> {
  const [now, found, home] = await Promise.all([audienceContext(db), clocks(db), organisation(db)]);
  return { now, clocks: found, quietOfAll: home?.quiet ?? null };
}

/** What came of expanding: how many inboxes it reached and how many mails it lined up. */
export interface Expansion {
  inbox: number;
  mail: number;
}

/** What one batch of an expansion is written with. */
interface Expanding {
  bucket: Bucket;
  occurrence: Occurrence;
  claimant: Claimant;
  world: World;
  who: Sql | null;
  resting: readonly Resting[];
}

/** Writes the deliveries of one batch, with all that follows from them. */
async function deliverBatch(
  trx: Database,
  { occurrence, world, resting }: Expanding,
  batch: DeliveryBatch,
  who: Sql,
): Promise<Expansion> {
  const { plan, importance, asked } = occurrence;
  const test = occurrence.kind === 'test';
  const inbox = await deliverToInbox(trx, batch, who, resting);
  if (inbox === 0) return { inbox, mail: 0 };
  const waits = await waitingSql(trx, occurrence, batch, world.now);
  let mail = plan.mail ? await lineUpMail(trx, batch, mayUnsubscribe(importance, asked), waits) : 0;
  if (plan.contacts) mail += await lineUpContacts(trx, batch);
  if (plan.ask.kind !== 'nothing') {
    await putOnRoll(trx, batch);
    await beginAsk(trx, occurrence.id, plan.ask, {
      closesMs: closes(plan.ask) ? occurrence.deadlineMs : null,
      listMs: chasePlan(plan.ask.chase, occurrence.endsMs, occurrence.deadlineMs).listMs,
    });
  }
  const { occurrenceId, after, to } = batch;
  await notifyArrivals(trx, { occurrenceId, after, to }, test ? TEST_WHY : ARRIVAL_WHY, { test, waits });
  if (occurrence.state === 'scheduled') await markGoingOut(trx, occurrence.id);
  return { inbox, mail };
}

/** Ends a bucket whose last batch is written; `nothing` where none of its batches reached anybody. */
async function endBucket(
  trx: Database,
  { bucket, occurrence, claimant: { engine } }: Expanding,
  { nothing, takenBack }: { nothing: boolean; takenBack: boolean },
): Promise<void> {
  const isLast = bucket.sweeps === 1;
  if (isLast) await lineUpForPlaces(trx, occurrence, bucket.dueMs);
  // The last bucket of an occurrence that reached nobody new still ends it.
  if (isLast && occurrence.state === 'scheduled') await markGoingOut(trx, occurrence.id);
  const unsent = nothing && (isLast || takenBack) && !(await anythingWent(trx, occurrence.id));
  if (unsent && takenBack) await endUnsent(trx, bucket, engine, null);
  else if (unsent && occurrence.chases !== null)
    await endUnsent(trx, bucket, engine, 'Everybody had answered when it was due.');
  else if (unsent && occurrence.toOne === 1)
    await endUnsent(trx, bucket, engine, 'Whoever it was for was gone when it was due.');
  else if (unsent)
    await failBucket(
      trx,
      bucket,
      engine,
      ofWorkingDays(occurrence.plan.ask)
        ? 'It was a working day for nobody in the audience.'
        : 'Nobody was in the audience when it was due.',
    );
  else if (!(await finishBucket(trx, bucket.id, engine))) throw new LostClaim();
}

/**
 * Writes the deliveries of a claimed bucket for whoever is in the audience now, batch by batch, each in a
 * transaction with the note of how far it is. After a crash the next engine goes on from that note; whatever it
 * writes again changes nothing, since a delivery is unique by occurrence, person and method.
 */
export async function expand(
  db: Database,
  bucket: Bucket,
  occurrence: Occurrence,
  claimant: Claimant,
  world: World,
): Promise<Expansion> {
  const { audience, boards } = occurrence.plan;
  const done: Expansion = { inbox: 0, mail: 0 };
  if (bucket.sweeps === 1) await postOccurrence(db, occurrence);

  const who = audience && (await readersOf(db, bucket, audience, occurrence, world));
  const resting = who ? restingFor(bucket.dueMs, occurrence, world) : [];
  const expanding: Expanding = { bucket, occurrence, claimant, world, who, resting };
  let after = bucket.expandedTo;
  let width: number | undefined;
  let finished: 'no' | 'expanded' | 'sent' = 'no';
  while (finished === 'no') {
    const found: Awaited<ReturnType<typeof nextBatch>> =
      who && (await nextBatch(db, after, BATCH, who, width));
    width = found?.width;
    const to = found ? found.to : after;
    const written = await transact(db, async (trx) => {
      const takenBack = found !== null && (await isTakenBack(trx, occurrence.id));
      const batch = { occurrenceId: occurrence.id, dueMs: bucket.dueMs, after, to };
      const reached =
        who && found && !takenBack ? await deliverBatch(trx, expanding, batch, who) : { inbox: 0, mail: 0 };
      if (found && !takenBack && !found.last) {
        if (!(await advanceBucket(trx, bucket.id, claimant, to))) throw new LostClaim();
        return { ...reached, state: 'no' as const };
      }
      const nothing = done.inbox + reached.inbox === 0;
      await endBucket(trx, expanding, { nothing, takenBack });
      await emit(trx, 'occurrence.reached', {
        occurrence: occurrence.id,
        roll: occurrence.rollOf,
        boards,
        posted: bucket.sweeps === 1 && boards.length > 0,
      });
      const marked = await markSent(trx, [occurrence.id]);
      return { ...reached, state: marked.length > 0 ? ('sent' as const) : ('expanded' as const) };
    });
    finished = written.state;
    done.inbox += written.inbox;
    done.mail += written.mail;
    after = to;
  }
  // Once more after that is committed: its mail may all have gone meanwhile, or another engine have finished the
  // bucket of another zone, and neither could see the other. Whoever looks last marks it.
  if (finished === 'expanded' && (await markSent(db, [occurrence.id])).length > 0)
    await emit(db, 'occurrence.changed', { occurrence: occurrence.id });
  return done;
}

/**
 * Whom a bucket is for: those of the audience whose zone it is, or with the last bucket everybody not left out for
 * their zone. Who got it in an earlier zone does not get it again, since a delivery is unique; who moved out of a zone
 * before it came due is not missed.
 */
async function readersOf(
  db: Database,
  bucket: Bucket,
  audience: Audience,
  occurrence: Occurrence,
  { now, clocks: found }: World,
): Promise<Sql> {
  const all = isIn(audience, now);
  const who = ofWorkingDays(occurrence.plan.ask)
    ? both(all, worksAt(instantsIn(await bucketsOf(db, occurrence.id), zonesOf(found))))
    : all;
  if (bucket.zone === '') return who;
  if (bucket.sweeps === 0)
    return { sql: `p.zone = ? AND ${who.sql}`, bindings: [bucket.zone, ...who.bindings] };
  const skipped = await skippedZones(db, bucket.occurrenceId);
  if (skipped.length === 0) return who;
  return {
    sql: `p.zone NOT IN (${skipped.map(() => '?').join(', ')}) AND ${who.sql}`,
    bindings: [...skipped, ...who.bindings],
  };
}

/** The clocks on which it is quiet when a bucket comes due, with the instant their rest ends. */
function restingFor(dueMs: number, occurrence: Occurrence, world: World): Resting[] {
  if (occurrence.kind === 'test' || !waitsForMorning(occurrence.importance)) return [];
  return restingAt(dueMs, world.clocks, world.quietOfAll);
}

/** Whether an error only says that another engine has taken over. */
export const isLostClaim = (error: unknown): boolean => error instanceof LostClaim;
