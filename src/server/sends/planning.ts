import { deadlineOf } from '../../core/asks/ask.ts';
import type { EventDetails } from '../../core/content/event.ts';
import type { PlannedBucket } from '../../core/plan/buckets.ts';
import { comingOccurrences } from '../../core/plan/coming.ts';
import { bucketsOnce, isLocal, spanOf, type Plan } from '../../core/plan/plan.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { countReach } from '../audience/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { emit } from '../events/store.ts';
import { clocks } from '../people/store.ts';
import { planChases } from './chasing.ts';
import { setAside, takeUpAgain } from '../aside/store.ts';
import { latestOf, lockSend, notePlanned, toBePlanned, type SendRow } from './store.ts';
import { holdPlanned } from './bucketStore.ts';
import { insertOccurrence } from './occurrenceStore.ts';

/** How far ahead occurrences of what recurs are written, in days: the run sheet's fortnight and a week. */
export const HORIZON_DAYS = 21;
/** Planned anew when less than this is left, so that a send is not looked at every time. */
const LEAST_DAYS = 20;
const DAY_MS = 86_400_000;
/** A rule can hold more in three weeks than anybody means to send; the rest is planned when its time comes nearer. */
const MOST_AT_ONCE = 400;

/**
 * The zones a plan needs a bucket in: all that anybody is in, since somebody may join the audience later; and those in
 * which it reaches somebody now, for saying when it goes.
 */
export interface PlanZones {
  all: string[];
  reached: string[];
}

/** The zones of some clocks, each once. */
export const zonesOf = (found: readonly { zone: string }[]): string[] =>
  [...new Set(found.map((each) => each.zone))].sort();

export async function planZones(db: Database, plan: Plan, now: AudienceContext): Promise<PlanZones> {
  if (!isLocal(plan.timing) || !plan.audience) return { all: [], reached: [] };
  const [all, reach] = await Promise.all([clocks(db), countReach(db, plan.audience, now)]);
  return { all: zonesOf(all), reached: zonesOf(reach.clocks) };
}

/** The first and the last instant at which some buckets reach anybody. */
export function reachSpan(
  buckets: readonly PlannedBucket[],
  zones: PlanZones,
): { firstMs: number; lastMs: number } | null {
  const reached = buckets.filter((bucket) => bucket.zone === '' || zones.reached.includes(bucket.zone));
  return spanOf(reached.length > 0 ? reached : buckets);
}

/** Plans the one occurrence of a send that goes out once; gives its id. */
export async function planOnce(
  db: Database,
  send: Pick<SendRow, 'id' | 'versionId' | 'plan'>,
  event: EventDetails | null,
  zones: PlanZones,
): Promise<number> {
  const { timing, ask } = send.plan;
  if (timing.kind === 'recurring') throw new Error('A recurring send has no one occurrence');
  const buckets = bucketsOnce(timing, event, zones.all, await databaseNow(db));
  const span = reachSpan(buckets, zones);
  if (!span) throw new Error('Nothing of this send would go out');
  const id = await insertOccurrence(db, {
    sendId: send.id,
    versionId: send.versionId,
    recursAt: '',
    buckets,
    ...span,
    deadlineMs: deadlineOf(ask, span.lastMs),
  });
  if (id === null) throw new Error('This send is planned already');
  await planChases(db, send, id, { lastMs: span.lastMs, deadlineMs: deadlineOf(ask, span.lastMs) });
  return id;
}

/**
 * Plans what of a recurring send comes within the horizon, each occurrence once however many planners there are; gives
 * the ids of those that were new, the nearest first.
 */
export async function planRecurring(
  db: Database,
  send: Pick<SendRow, 'id' | 'versionId' | 'plan'>,
  zones: PlanZones,
): Promise<number[]> {
  const { timing, ask } = send.plan;
  if (timing.kind !== 'recurring') return [];
  const nowMs = await databaseNow(db);
  const untilMs = nowMs + HORIZON_DAYS * DAY_MS;
  const coming = comingOccurrences(timing, zones.all, nowMs, { untilMs, most: MOST_AT_ONCE });
  const made: number[] = [];
  for (const { recursAt, buckets } of coming) {
    const span = reachSpan(buckets, zones);
    if (!span) continue;
    const id = await insertOccurrence(db, {
      sendId: send.id,
      versionId: send.versionId,
      recursAt,
      buckets,
      ...span,
      deadlineMs: deadlineOf(ask, span.lastMs),
    });
    if (id === null) continue;
    await planChases(db, send, id, { lastMs: span.lastMs, deadlineMs: deadlineOf(ask, span.lastMs) });
    made.push(id);
  }
  const last = coming.at(-1);
  const full =
    coming.length === MOST_AT_ONCE && last ? Math.min(...last.buckets.map((each) => each.dueMs)) : untilMs;
  await notePlanned(db, send.id, full);
  return made;
}

/** The planner's turn: every recurring send that is planned less far ahead than it should be. */
export async function planAhead(
  db: Database,
  failed: (error: unknown, sendId: number) => void = () => undefined,
): Promise<number> {
  const sends = await toBePlanned(db, LEAST_DAYS, 50);
  if (sends.length === 0) return 0;
  const now = await audienceContext(db);
  let planned = 0;
  for (const { id, unreadable } of sends) {
    try {
      if (unreadable) throw new Error('Its plan cannot be read by this version of Clear Bell');
      planned += await planOne(db, id, now);
      await takeUpAgain(db, 'planning', id);
    } catch (error) {
      // One that cannot be planned is set aside; the others are planned all the same.
      failed(error, id);
      await setAside(db, 'planning', id, await latestOf(db, id), error);
    }
  }
  return planned;
}

function planOne(db: Database, id: number, now: AudienceContext): Promise<number> {
  return transact(db, async (trx) => {
    // Read again and held, so that nobody changes or pauses it between the look and the planning.
    const send = await lockSend(trx, id);
    if (!send || send.state === 'ended') return 0;
    const made = await planRecurring(trx, send, await planZones(trx, send.plan, now));
    if (send.state === 'paused') await holdPlanned(trx, send.id);
    for (const occurrence of made) await emit(trx, 'send.planned', { occurrence });
    return made.length;
  });
}
