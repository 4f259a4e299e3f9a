import { filled } from '../../core/asks/roll.ts';
import { CLASH_MS, MUCH_A_DAY, type Desk, type Ribbon, type Strain } from '../../core/desk/desk.ts';
import { groupsNamedIn } from '../../core/audience/expression.ts';
import { isReadable } from '../../core/audience/groups.ts';
import { together } from '../../core/bundling/together.ts';
import { clashingZones } from '../../core/load/clash.ts';
import { dayAround } from '../../core/timing/day.ts';
import { STALE_PIN_DAYS } from '../../core/boards/board.ts';
import { decide, moderates, type Actor } from '../../core/rights/decide.ts';
import type { Session } from '../accounts/service.ts';
import { listDrafts, listForReview } from '../announcements/service.ts';
import { listAsks } from '../asks/service.ts';
import { isAnybodyIn } from '../audience/store.ts';
import { boardsSeenBy } from '../boards/service.ts';
import { waitingOn } from '../boards/store.ts';
import { callsOn } from '../comments/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { listAside } from '../aside/service.ts';
import { engineHealth } from '../operating/processStore.ts';
import { audienceContext } from '../groups/directory.ts';
import { organisation, stations } from '../people/store.ts';
import { lastBackups } from '../operating/figuresStore.ts';
import { backupTrouble } from '../../core/operating/running.ts';
import { stalePins } from '../posts/pinStore.ts';
import { alike, shared } from '../rehearsal/store.ts';
import { goings, needsYou, runSheet } from '../sends/runSheet.ts';
import { eveningBefore } from '../../core/timing/evening.ts';
import { automationsSince } from '../automations/latelyStore.ts';
import { outsideInTrouble } from './outsideStore.ts';
import { asOther, otherGoings } from '../sends/otherGoings.ts';
import { countOpen } from '../shelf/service.ts';

const DAYS_AHEAD = 14;
const DAYS_BACK = 7;
const DAY_MS = 86_400_000;
/** A roll this full by the last day is not behind. */
const ENOUGH = 0.75;
/** Most pairs looked at for one period. */
const MOST_PAIRS = 60;

/** Today's ribbon for whoever works at the desk; nothing for members. */
export async function ribbonFor(db: Database, session: Session): Promise<Ribbon | undefined> {
  return decide(session.actor, { kind: 'see the desk' }).outcome === 'allowed'
    ? ribbon(db, session)
    : undefined;
}

/** The desk at a glance: today's ribbon, the days around it, and what needs somebody. */
export async function deskToday(db: Database, session: Session): Promise<Desk> {
  const nowMs = await databaseNow(db);
  const { actor, zone } = session;
  const first = dayAround(nowMs, zone, -DAYS_BACK);
  const last = dayAround(nowMs, zone, DAYS_AHEAD);
  const sinceMs = eveningBefore(nowMs, zone);
  const [
    rows,
    needs,
    engine,
    drafts,
    reviews,
    calls,
    asked,
    places,
    hollows,
    moderated,
    questions,
    aside,
    outside,
    unsaved,
    did,
  ] = await Promise.all([
    runSheet(db, actor, first.startMs, last.endMs),
    needsYou(db, actor),
    engineHealth(db),
    listDrafts(db, actor),
    listForReview(db, actor),
    callsOn(db, actor.id, 10),
    listAsks(db, actor),
    stations(db),
    hollow(db, actor, nowMs, last.endMs),
    boardsToModerate(db, actor),
    actor.role === 'coordinator' ? countOpen(db) : 0,
    listAside(db, actor),
    actor.role === 'coordinator' ? outsideInTrouble(db) : [],
    actor.role === 'coordinator' ? withoutBackup(db, nowMs) : [],
    automationsSince(db, sinceMs, actor.role === 'coordinator' ? null : actor.id),
  ]);
  return {
    nowMs,
    zone,
    today: dayAround(nowMs, zone),
    rows,
    covers: { fromMs: first.startMs, toMs: last.endMs },
    needs: [...needs],
    engine,
    aside,
    reviews: reviews.map((draft) => ({
      id: draft.id,
      title: draft.content.title.trim(),
      by: draft.reviewByName ?? draft.authorName,
      sinceMs: draft.reviewMs ?? draft.savedMs,
    })),
    calls,
    behind: asked.flatMap(({ occurrenceId, kind, title, deadlineMs, closedMs, tally }) =>
      closedMs === null &&
      deadlineMs !== null &&
      deadlineMs > nowMs &&
      deadlineMs < nowMs + DAY_MS &&
      filled(tally) < ENOUGH
        ? [{ occurrenceId, kind, title, deadlineMs, tally }]
        : [],
    ),
    hollow: hollows,
    ...moderated,
    questions,
    outside: [...unsaved, ...outside],
    lately: did.ran + did.paused > 0 ? { sinceMs, ...did } : null,
    stations: places.map((place) => ({ name: place.name, zone: place.zone })),
    drafts: drafts.map((draft) => ({
      id: draft.id,
      title: draft.content.title.trim(),
      savedMs: draft.savedMs,
      savedBy: draft.savedByName,
    })),
  };
}

/** That there is no backup, or none that is new enough; nothing in the demo, which is made anew from nothing. */
async function withoutBackup(db: Database, nowMs: number): Promise<Desk['outside']> {
  const [home, [last]] = await Promise.all([organisation(db), lastBackups(db, 1)]);
  const why = home?.demo === true ? null : backupTrouble(last?.atMs ?? null, nowMs);
  return why === null ? [] : [{ path: '/running', name: 'Backups', why }];
}

/** What waits on the boards somebody moderates. */
async function boardsToModerate(db: Database, actor: Actor): Promise<Pick<Desk, 'boards' | 'stale'>> {
  const own = (await boardsSeenBy(db, actor)).filter(
    (board) => !board.archived && moderates(actor, board.rules),
  );
  const ids = own.map((board) => board.id);
  const [waiting, stale] = await Promise.all([
    waitingOn(db, ids, actor.id),
    stalePins(db, ids, STALE_PIN_DAYS),
  ]);
  const names = new Map(own.map((board) => [board.id, board.name]));
  return {
    boards: own.flatMap(({ id, name }) => {
      const n = waiting.get(id) ?? 0;
      return n > 0 ? [{ id, name, waiting: n }] : [];
    }),
    stale: stale.map(({ boardId, ...pin }) => ({ ...pin, board: names.get(boardId) ?? '' })),
  };
}

/** Today in this person's zone with every going-out where it stands. */
export async function ribbon(db: Database, session: Session): Promise<Ribbon> {
  const nowMs = await databaseNow(db);
  const today = dayAround(nowMs, session.zone);
  const rows = await goings(db, session.actor, today.startMs, today.endMs);
  return {
    nowMs,
    zone: session.zone,
    today,
    marks: rows.map(({ id, title, state, dueMs, endsMs }) => ({
      occurrenceId: id,
      title,
      state,
      dueMs,
      endsMs,
    })),
  };
}

/** What is planned and would reach nobody: its audience has become empty, or a group it names is gone. */
async function hollow(db: Database, actor: Actor, fromMs: number, toMs: number): Promise<Desk['hollow']> {
  const [found, now] = await Promise.all([goings(db, actor, fromMs, toMs), audienceContext(db)]);
  const seen = new Set<number>();
  const planned = found.filter((each) => {
    if (each.state !== 'scheduled' || !each.plan.audience || seen.has(each.sendId)) return false;
    seen.add(each.sendId);
    return true;
  });
  const told = await Promise.all(
    planned.map(async ({ id, title, plan }) => {
      const { audience } = plan;
      if (!audience) return [];
      if (groupsNamedIn(audience).some((group) => !now.groups.has(group)))
        return [{ occurrenceId: id, title, why: 'A group in its plan no longer exists.' }];
      if (!isReadable(audience, now))
        return [{ occurrenceId: id, title, why: 'The rule of a group in its plan cannot be read.' }];
      return (await isAnybodyIn(db, audience, now))
        ? []
        : [{ occurrenceId: id, title, why: 'Nobody is in its audience any more.' }];
    }),
  );
  return told.flat();
}

/**
 * What of a period of the run sheet strains people: goings-out that reach the same ones within two hours of each other,
 * and days on which somebody gets more than is good for them.
 */
export async function strain(
  db: Database,
  session: Pick<Session, 'actor' | 'zone'>,
  fromMs: number,
  toMs: number,
): Promise<Strain> {
  const { actor } = session;
  const [found, now] = await Promise.all([goings(db, actor, fromMs, toMs), audienceContext(db)]);
  const whose = actor.role === 'coordinator' ? null : actor.id;
  const alive = await otherGoings(db, found, { fromMs, toMs, whose }, now);
  const pairs = alive
    .flatMap((a, i) =>
      alive.slice(i + 1).map((b) => ({
        a,
        b,
        zones: clashingZones(a.dues, b.dues, CLASH_MS),
      })),
    )
    .filter(
      ({ a, b, zones }) =>
        zones.length > 0 && a.sendId !== b.sendId && (a.state === 'scheduled' || b.state === 'scheduled'),
    )
    .slice(0, MOST_PAIRS);
  const clashes = await Promise.all(
    pairs.map(async ({ a, b, zones }) => {
      const [both] = await shared(db, a.audience, now, [asOther(b, zones)]);
      return { a: a.id, b: b.id, people: both ?? 0 };
    }),
  );
  const days: Strain['days'] = [];
  for (let day = dayAround(fromMs, session.zone); day.startMs < toMs && days.length < 31;) {
    const ofDay = alive.filter((each) => each.dueMs >= day.startMs && each.dueMs < day.endMs);
    if (ofDay.length > 0) {
      const [readers, whats] = await Promise.all([
        alike(
          db,
          { kind: 'everyone' },
          now,
          ofDay.map((each) => asOther(each)),
        ),
        Promise.all(ofDay.map((each) => each.what())),
      ]);
      const goings = ofDay.flatMap((each, i) => {
        const what = whats[i];
        return what ? [{ what, dues: each.dues }] : [];
      });
      const things = together(null, goings, readers).load;
      days.push({
        startMs: day.startMs,
        most: Math.max(0, ...things.map((row) => row.things)),
        over: things.filter((row) => row.things > MUCH_A_DAY).reduce((sum, row) => sum + row.people, 0),
      });
    }
    day = dayAround(day.endMs + 1, session.zone);
  }
  return { clashes: clashes.filter((clash) => clash.people > 0), days };
}
