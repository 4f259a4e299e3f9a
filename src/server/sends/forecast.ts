import { asksOf, askWarnings, deadlineOf, digestBoards, ofWorkingDays } from '../../core/asks/ask.ts';
import { chasePlan } from '../../core/asks/chase.ts';
import { groupsNamedIn, type Audience } from '../../core/audience/expression.ts';
import { isReadable } from '../../core/audience/groups.ts';
import type { Problem } from '../../core/content/announcement.ts';
import type { PlannedBucket } from '../../core/plan/buckets.ts';
import { comingOccurrences, type PlannedOccurrence } from '../../core/plan/coming.ts';
import {
  bucketsOnce,
  isLocal,
  mayUnsubscribe,
  planProblems,
  planWarnings,
  waitsForMorning,
  type Plan,
} from '../../core/plan/plan.ts';
import { sentence } from '../../core/plan/sentence.ts';
import type { Brief, Forecast, NextOne } from '../../core/sends/forecast.ts';
import { decide, isToEveryone, type Actor } from '../../core/rights/decide.ts';
import { quietUntil } from '../../core/timing/quiet.ts';
import { comingIn } from '../../core/timing/recurrence.ts';
import { clockChangeWords } from '../../core/timing/wallTime.ts';
import { requireSeen, unseenIn } from '../audience/naming.ts';
import { countContacts, countPeople, countReach, namesWhere, type Reach } from '../audience/store.ts';
import { countFailing } from '../audience/failingStore.ts';
import { countReaders } from '../boards/readers.ts';
import { boardsSeenBy, type BoardForReader } from '../boards/service.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { audienceNames, audienceContext } from '../groups/directory.ts';
import { clocks, organisation } from '../people/store.ts';
import { instantsIn, worksAt } from '../people/working.ts';
import { outsidePlaces } from '../gateways/outStore.ts';
import { placeWarnings, ruleOf } from '../gateways/places.ts';
import { groupsToClear } from './clearance.ts';
import { gettingIt, missedOf, SAMPLE } from './missed.ts';
import { reachSpan, zonesOf } from './planning.ts';
import { textProblems, type NamesWhere } from './textProblems.ts';

/** The rows shown beside the count. */
const FIRST = 6;

/**
 * How many people an audience holds and the first of them by name: what of a forecast is told at once.
 *
 * @throws 403 where it names what is not this person's to see
 */
export async function quickCount(
  db: Database,
  actor: Actor,
  audience: Audience | null,
): Promise<Pick<Forecast, 'people' | 'sample'>> {
  if (!audience) return { people: 0, sample: [] };
  await requireSeen(db, actor, audience);
  const now = await audienceContext(db);
  const [people, sample] = await Promise.all([
    countPeople(db, audience, now),
    namesWhere(db, audience, now, 'anybody', FIRST),
  ]);
  return { people, sample };
}

/** The parts a text of so many sections stands in on a board. */
const partsOn = (board: BoardForReader, sections: number): number => Math.ceil(sections / board.sectionLimit);

/** What a forecast is made from. */
type Basis = Awaited<ReturnType<typeof basisOf>>;

async function basisOf(db: Database, actor: Actor, wished: Plan, brief: Brief) {
  const [now, boards, nowMs, everyClock, home, unseen, allPlaces] = await Promise.all([
    audienceContext(db),
    boardsSeenBy(db, actor),
    databaseNow(db),
    clocks(db),
    organisation(db),
    unseenIn(db, actor, [wished.audience]),
    wished.outside.length > 0 ? outsidePlaces(db) : [],
  ]);
  const unreadable = wished.audience !== null && !isReadable(wished.audience, now);
  // What may not be looked at, or cannot be told, is not counted.
  const plan: Plan = unseen.reason === null && !unreadable ? wished : { ...wished, audience: null };
  const { audience } = plan;
  const byId = new Map(boards.map((board) => [board.id, board]));
  const places = allPlaces.filter((place) => plan.outside.includes(place.id));
  const digestOn = digestBoards(plan.ask);
  const namesOf: NamesWhere = async (further) =>
    audience ? (await namesWhere(db, audience, now, further, SAMPLE)).map((person) => person.name) : [];
  return {
    now,
    nowMs,
    home,
    unseen,
    unreadable,
    wished,
    plan,
    brief,
    allZones: zonesOf(everyClock),
    chosen: plan.boards.flatMap((id) => byId.get(id) ?? []),
    places,
    digestOn,
    digests: digestOn.flatMap((id) => byId.get(id) ?? []),
    names: {
      ...(await audienceNames(db, now, [wished.audience], unseen)),
      board: (id: number) => byId.get(id)?.name,
      outside: (id: number) => places.find((place) => place.id === id)?.hook.name,
    },
    reach: audience ? await countReach(db, audience, now) : null,
    namesOf,
  };
}

/** When a plan goes. */
interface When {
  zones: { all: string[]; reached: string[] };
  /** Of what recurs, the next. */
  coming: PlannedOccurrence[];
  buckets: readonly PlannedBucket[];
  /** The buckets of which somebody is. */
  reached: PlannedBucket[];
  inZone: (zone: string) => number;
}

function whenOf({ plan: { timing }, brief, allZones, reach, nowMs }: Basis): When {
  const found = reach?.clocks ?? [];
  const zones = isLocal(timing) ? { all: allZones, reached: zonesOf(found) } : { all: [], reached: [] };
  const coming = timing.kind === 'recurring' ? comingOccurrences(timing, zones.all, nowMs, { most: 10 }) : [];
  const buckets =
    timing.kind === 'recurring'
      ? (coming[0]?.buckets ?? [])
      : bucketsOnce(timing, brief.event, zones.all, nowMs);
  const inZone = (zone: string): number =>
    found.filter((clock) => clock.zone === zone).reduce((sum, clock) => sum + clock.n, 0);
  const reached = buckets.filter((bucket) => bucket.zone === '' || inZone(bucket.zone) > 0);
  return { zones, coming, buckets, reached, inZone };
}

type Who = Awaited<ReturnType<typeof whoOf>>;

/** Those who get it, without those whom the engine leaves out when it comes due. */
async function whoOf(db: Database, basis: Basis, { buckets, reached }: When) {
  const { plan, brief, now, chosen, reach, allZones } = basis;
  const { audience } = plan;
  const works =
    audience && ofWorkingDays(plan.ask) && buckets.length > 0 ? worksAt(instantsIn(buckets, allZones)) : null;
  const getting = gettingIt(reached, works);
  const stoppable = mayUnsubscribe(brief.importance, plan.ask);
  const [got, contacts, sample, readers, onBoards, failing] = await Promise.all([
    audience && getting ? countReach(db, audience, now, getting) : reach,
    audience && plan.contacts
      ? countContacts(db, audience, now, getting ?? undefined)
      : { all: 0, byMail: 0 },
    audience ? namesWhere(db, audience, now, 'anybody', FIRST, getting ?? undefined) : [],
    Promise.all(chosen.map((board) => countReaders(db, [board.groupId], now))),
    countReaders(
      db,
      chosen.map((board) => board.groupId),
      now,
    ),
    audience && plan.mail ? countFailing(db, audience, now, stoppable) : 0,
  ]);
  return { works, stoppable, got, contacts, sample, readers, onBoards, failing };
}

/** What must be mended in a plan before it can be confirmed, but for its text. */
function problemsOf(basis: Basis, { zones }: When, { got }: Who): Problem[] {
  const { wished, plan, brief, chosen, places, digestOn, digests, now, reach, nowMs } = basis;
  const problems = planProblems(
    wished,
    brief.event,
    zones.reached.length > 0 ? zones.reached : zones.all,
    nowMs,
  );
  const add = (field: string, detail: string): unknown => problems.push({ field, detail });
  if (chosen.length < plan.boards.length)
    add('boards', 'A chosen board no longer exists. Choose the boards again.');
  if (places.length < plan.outside.length)
    add('outside', 'A chosen outside place no longer exists. Choose the places again.');
  if (plan.audience && groupsNamedIn(plan.audience).some((id) => !now.groups.has(id)))
    add('audience', 'A chosen group no longer exists. Choose the groups again.');
  if (basis.unreadable)
    add(
      'audience',
      'The rule of a chosen group cannot be read, so who is in it is not known. Write its rule anew.',
    );
  if (reach?.people === 0) add('audience', 'Nobody is in this audience. Choose others.');
  else if (got?.people === 0 && plan.boards.length === 0 && places.length === 0)
    add('audience', 'Nobody of this audience would get it at that time. Choose another time, or others.');
  if (digests.length < digestOn.length)
    add('ask.digestOn', 'A board for the digest no longer exists. Choose again.');
  return problems;
}

/** What recurs next, each with what the clocks do that day. */
function nextOnes({ plan: { timing } }: Basis, { coming, zones }: When): NextOne[] {
  const clockZone = timing.kind === 'recurring' ? (timing.zone ?? zones.reached[0] ?? 'UTC') : 'UTC';
  const clock = comingIn(
    clockZone,
    coming.map((each) => each.recursAt),
  );
  return coming.flatMap(({ recursAt, buckets }, i): NextOne[] => {
    const span = reachSpan(buckets, zones);
    const { hour = 'ordinary', clockMoved = 0 } = clock[i] ?? {};
    return span ? [{ recursAt, ...span, clock: { hour, clockMoved } }] : [];
  });
}

/** Whether this person may send it so. */
function rightOf(actor: Actor, { unseen, wished, chosen, digests, places, plan }: Basis): Forecast['right'] {
  if (unseen.reason !== null) return { outcome: 'denied', reason: unseen.reason };
  return decide(actor, {
    kind: 'address',
    audience: wished.audience,
    boards: [...chosen, ...digests].map((board) => board.rules),
    outside: places.map(({ hook }) => ruleOf(hook)),
    recurs: plan.timing.kind === 'recurring',
  });
}

/**
 * What a plan would do if it were confirmed now: how many people, by which method, when, who would be missed and why.
 * Who is in is decided by the same condition the engine expands with, and when by the same buckets: the figures are of those
 * who get it, without those for whom the hour has passed or whose working day it is not.
 *
 * Of an audience that names what is not this person's to see nothing is counted; the right is then denied with the reason.
 */
export async function forecast(db: Database, actor: Actor, wished: Plan, brief: Brief): Promise<Forecast> {
  const basis = await basisOf(db, actor, wished, brief);
  const { plan, now, nowMs, home, chosen, places, reach, namesOf } = basis;
  const when = whenOf(basis);
  const who = await whoOf(db, basis, when);
  const { got, contacts, failing, stoppable } = who;
  const [text, missed, clearance] = await Promise.all([
    textProblems(db, actor, plan, brief, chosen, reach, namesOf, now),
    plan.audience && reach
      ? missedOf(db, { ...who, plan, audience: plan.audience, now, reach, buckets: when.reached, namesOf })
      : [],
    groupsToClear(db, wished.audience, chosen, now),
  ]);
  const asking = asksOf(plan.ask);
  const warnings = [
    ...planWarnings(plan, brief, when.reached, home?.zone ?? 'UTC'),
    ...placeWarnings(places),
    ...text.warnings,
  ];
  if (reach) warnings.push(...askWarnings(plan.ask, reach.people));
  const span = when.buckets.length > 0 ? reachSpan(when.buckets, when.zones) : null;
  return {
    people: got?.people ?? 0,
    sample: who.sample,
    byMail: got && plan.mail ? Math.max(0, got.withMail - (stoppable ? got.mailStopped : 0) - failing) : 0,
    contacts: contacts.byMail,
    boards: chosen.map((board, i) => ({
      id: board.id,
      name: board.name,
      parts: partsOn(board, brief.sections),
      readers: who.readers[i] ?? 0,
    })),
    outside: places.map(({ id, hook, state }) => ({ id, name: hook.name, standing: state })),
    onBoards: who.onBoards,
    missed,
    onLeave: got?.onLeave ?? 0,
    phrases: sentence(wished, basis.names, nowMs),
    problems: [...problemsOf(basis, when, who), ...text.problems],
    warnings,
    toEveryone: wished.audience !== null && isToEveryone(wished.audience),
    span,
    bands: when.reached
      .filter((bucket) => bucket.zone !== '')
      .map((bucket) => ({ ...bucket, n: when.inZone(bucket.zone) })),
    coming: nextOnes(basis, when),
    resting: restingOf(plan, brief, got, when.reached, home?.quiet ?? null),
    clearance,
    clockNote: plan.timing.kind === 'at' ? clockChangeWords(plan.timing) : null,
    chases: chasePlan(
      asking?.chase ?? null,
      span?.lastMs ?? nowMs,
      span && asking ? deadlineOf(asking, span.lastMs) : null,
    ),
    right: rightOf(actor, basis),
  };
}

/** Those of an audience for whom it is quiet when their bucket comes due, and when the first and last rest ends. */
function restingOf(
  plan: Plan,
  brief: Brief,
  reach: Reach | null,
  buckets: readonly PlannedBucket[],
  quietOfAll: Parameters<typeof quietUntil>[2],
): Forecast['resting'] {
  if (!reach || !waitsForMorning(brief.importance)) return null;
  const ends: number[] = [];
  let n = 0;
  for (const clock of reach.clocks) {
    const bucket = buckets.find((each) => each.zone === clock.zone || each.zone === '');
    if (!bucket || bucket.pastHour === 'not') continue;
    const until = quietUntil(bucket.dueMs, clock.zone, clock.quiet ?? quietOfAll);
    if (until > bucket.dueMs) {
      n += clock.n;
      ends.push(until);
    }
  }
  return n === 0 || plan.audience === null
    ? null
    : { n, firstMs: Math.min(...ends), lastMs: Math.max(...ends) };
}
