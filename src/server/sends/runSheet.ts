import { comingOccurrences } from '../../core/plan/coming.ts';
import { isLocal } from '../../core/plan/plan.ts';
import { briefText, sentenceText } from '../../core/plan/sentence.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { DeliveryCount, RunSheetRow } from '../../core/sends/send.ts';
import type { Need } from '../../core/desk/desk.ts';
import { audienceWords } from '../../core/audience/words.ts';
import { requireDesk } from '../accounts/require.ts';
import { tallies } from '../asks/store.ts';
import { automationsAhead } from '../automations/ahead.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { planNames } from './planNames.ts';
import { planZones, reachSpan } from './planning.ts';
import { recurringBeyond } from './store.ts';
import { writtenAfter } from './comingStore.ts';
import {
  deliveryCounts,
  needs,
  occurrencesBetween,
  occurrencesByIds,
  type Occurrence,
} from './occurrenceStore.ts';

const total = (counts: DeliveryCount[], method: string, states: string[]): number =>
  counts
    .filter((row) => row.method === method && states.includes(row.state))
    .reduce((sum, row) => sum + row.n, 0);

function localWallOf({ plan, recursAt, movedTo }: Occurrence): string | null {
  const { timing } = plan;
  if (timing.kind === 'local') return timing.wall;
  if (timing.kind !== 'recurring' || timing.zone !== null) return null;
  return movedTo ?? recursAt;
}

const recursOf = ({ plan, sendState, recursAt, movedTo }: Occurrence): RunSheetRow['recurs'] =>
  plan.timing.kind === 'recurring' ? { state: sendState, at: recursAt, moved: movedTo !== null } : null;

/** Occurrences with what became of them, in the order given. */
export async function withOutcome(db: Database, actor: Actor, found: Occurrence[]): Promise<RunSheetRow[]> {
  const ids = found.map((occurrence) => occurrence.id);
  const [counts, rolls, names, nowMs] = await Promise.all([
    deliveryCounts(db, ids),
    tallies(db, ids),
    planNames(
      db,
      actor,
      found.map((each) => each.plan),
    ),
    databaseNow(db),
  ]);
  return found.map((occurrence) => {
    const rows = counts.get(occurrence.id) ?? [];
    const worst = rows.map((row) => row.worstLateMs).filter((late) => late !== null);
    return {
      occurrenceId: occurrence.id,
      announcementId: occurrence.announcementId,
      title: occurrence.title,
      importance: occurrence.importance,
      state: occurrence.state,
      sendId: occurrence.sendId,
      kind: occurrence.kind,
      chases: occurrence.chases,
      asks: occurrence.asked.kind,
      recurs: recursOf(occurrence),
      local: isLocal(occurrence.plan.timing),
      dueMs: occurrence.dueMs,
      endsMs: occurrence.endsMs,
      correctedMs: occurrence.correctedMs,
      correction: occurrence.correction,
      withdrawn: occurrence.withdrawn,
      sentMs: occurrence.sentMs,
      deadlineMs: occurrence.deadlineMs,
      author: occurrence.createdByName,
      whom: occurrence.plan.audience ? audienceWords(occurrence.plan.audience, names) : '',
      boards: occurrence.plan.boards.flatMap((id) => names.board(id) ?? []),
      localWall: localWallOf(occurrence),
      projectedFrom: null,
      automationId: null,
      movable:
        occurrence.kind === 'send' &&
        occurrence.plan.timing.kind !== 'now' &&
        (occurrence.state === 'scheduled' ||
          (occurrence.state === 'going out' && isLocal(occurrence.plan.timing) && nowMs < occurrence.endsMs)),
      sentence: sentenceText(occurrence.plan, names, nowMs),
      brief: briefText(occurrence.plan, names, nowMs),
      failure: occurrence.failure,
      inbox: total(rows, 'inbox', ['delivered']),
      mailed: total(rows, 'mail', ['delivered']),
      waiting: total(rows, 'mail', ['waiting', 'sending']),
      outside: total(rows, 'outside', ['delivered']),
      resting: total(rows, 'inbox', ['resting']),
      failed: total(rows, 'mail', ['failed']) + total(rows, 'outside', ['failed']),
      worstLateMs: worst.length > 0 ? Math.max(...worst) : null,
      roll: rolls.get(occurrence.id) ?? null,
    };
  });
}

/** What goes out from one instant to before another, in order, with what became of it; and what automations will do by the clock. */
export async function runSheet(
  db: Database,
  actor: Actor,
  fromMs: number,
  toMs: number,
): Promise<RunSheetRow[]> {
  const [rows, beyond, byThemselves] = await Promise.all([
    goings(db, actor, fromMs, toMs).then((found) => withOutcome(db, actor, found)),
    projected(db, actor, fromMs, toMs),
    automationsAhead(db, actor, fromMs, toMs),
  ]);
  return [...rows, ...beyond, ...byThemselves].sort((a, b) => a.dueMs - b.dueMs);
}

/** What recurs, beyond what is planned of it: as its rule gives it, without rows of its own yet. */
async function projected(db: Database, actor: Actor, fromMs: number, toMs: number): Promise<RunSheetRow[]> {
  const sends = await recurringBeyond(db, toMs, actor.role === 'coordinator' ? null : actor.id);
  if (sends.length === 0) return [];
  const [known, now] = await Promise.all([
    occurrencesByIds(
      db,
      sends.map((send) => send.occurrenceId),
    ),
    audienceContext(db),
  ]);
  const rows = await withOutcome(db, actor, [...known.values()]);
  const written = await writtenAfter(
    db,
    [...known.values()].map((each) => each.sendId),
    fromMs,
  );
  const found = await Promise.all(
    sends.map(async ({ occurrenceId, plannedUntilMs }) => {
      const occurrence = known.get(occurrenceId);
      const row = rows.find((each) => each.occurrenceId === occurrenceId);
      if (!occurrence || !row || occurrence.plan.timing.kind !== 'recurring') return [];
      const zones = await planZones(db, occurrence.plan, now);
      const after = Math.max(plannedUntilMs, fromMs - DAY_MS);
      return comingOccurrences(occurrence.plan.timing, zones.all, after, {
        untilMs: toMs,
        most: 100,
      }).flatMap(({ recursAt, buckets }, i): RunSheetRow[] => {
        const span = reachSpan(buckets, zones);
        if (!span || span.firstMs < plannedUntilMs || span.lastMs < fromMs) return [];
        if (written.has(`${occurrence.sendId}:${recursAt}`)) return [];
        return [
          {
            ...row,
            occurrenceId: -(occurrence.sendId * 1000 + i),
            projectedFrom: occurrenceId,
            state: 'scheduled',
            dueMs: span.firstMs,
            endsMs: span.lastMs,
            sentMs: null,
            deadlineMs: null,
            failure: null,
            correctedMs: null,
            correction: null,
            withdrawn: null,
            recurs: { state: 'active', at: recursAt, moved: false },
            localWall: null,
            movable: false,
            inbox: 0,
            mailed: 0,
            waiting: 0,
            resting: 0,
            failed: 0,
            worstLateMs: null,
            roll: null,
          },
        ];
      });
    }),
  );
  return found.flat();
}

const DAY_MS = 86_400_000;

/** What goes out in a period of time, without what became of it: for the ribbon. */
export function goings(db: Database, actor: Actor, fromMs: number, toMs: number): Promise<Occurrence[]> {
  requireDesk(actor);
  return occurrencesBetween(db, fromMs, toMs, actor.role === 'coordinator' ? null : actor.id);
}

/** Mail that failed or is being tried again, for "Needs you". */
export async function needsYou(db: Database, actor: Actor): Promise<readonly Need[]> {
  requireDesk(actor);
  return needs(db, 14, actor.role === 'coordinator' ? null : actor.id);
}
