import { asksOf, deadlineOf, ofWorkingDays } from '../../core/asks/ask.ts';
import { LEAST_SHOWN } from '../../core/asks/breakdown.ts';
import { chasePlan } from '../../core/asks/chase.ts';
import { groupsNamedIn, type Audience } from '../../core/audience/expression.ts';
import { isReadable } from '../../core/audience/groups.ts';
import type { Circumstances } from '../../core/audience/includes.ts';
import type { PlannedBucket } from '../../core/plan/buckets.ts';
import { comingOccurrences } from '../../core/plan/coming.ts';
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
import type { Brief, Forecast, Missed, NextOne } from '../../core/sends/forecast.ts';
import { decide, isToEveryone, type Actor } from '../../core/rights/decide.ts';
import { quietUntil } from '../../core/timing/quiet.ts';
import { comingIn } from '../../core/timing/recurrence.ts';
import { settledWords } from '../../core/timing/wallTime.ts';
import { zoneWords } from '../../core/timing/words.ts';
import { list, people as peopleWords } from '../../core/words.ts';
import { requireSeen, unseenIn } from '../audience/naming.ts';
import {
  countContacts,
  countPeople,
  countReach,
  countWhere,
  leftFrom,
  namesWhere,
  type Reach,
} from '../audience/store.ts';
import { countFailing } from '../audience/failingStore.ts';
import { countReaders } from '../boards/readers.ts';
import { boardsSeenBy, type BoardForReader } from '../boards/service.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { audienceNames, circumstances } from '../groups/directory.ts';
import { clocks, organisation } from '../people/store.ts';
import { instantsIn, worksAt } from '../people/working.ts';
import type { Sql } from '../audience/sql.ts';
import { outsidePlaces } from '../gateways/outStore.ts';
import { placeWarnings, ruleOf } from '../gateways/places.ts';
import { groupsToClear } from './clearance.ts';
import { reachSpan, zonesOf } from './planning.ts';
import { textProblems, type NamesWhere } from './textProblems.ts';

const SAMPLE = 50;
/** The rows shown beside the count. */
const FIRST = 6;

/** Those of an audience whose working day it is not when their bucket comes due. */
async function whoRestsFromWork(
  db: Database,
  audience: Audience,
  now: Circumstances,
  buckets: readonly PlannedBucket[],
  zones: readonly string[],
): Promise<{ n: number; names: string[] }> {
  const works = worksAt(instantsIn(buckets, zones));
  return countWhere(db, audience, now, { sql: `NOT ${works.sql}`, bindings: works.bindings }, SAMPLE);
}

/** A condition over `people p`: not in a zone that is left out, and at work where it goes on working days alone. */
const gettingIt = (skipped: readonly string[], works: Sql | null): Sql => ({
  sql: [
    skipped.length > 0 ? `p.zone NOT IN (${skipped.map(() => '?').join(', ')})` : 'TRUE',
    works?.sql ?? 'TRUE',
  ].join(' AND '),
  bindings: [...skipped, ...(works?.bindings ?? [])],
});

/** Those who would not be reached as the plan says, with what can be done. */
async function missedOf(
  db: Database,
  plan: Plan,
  brief: Brief,
  reach: Reach,
  buckets: readonly PlannedBucket[],
  namesOf: NamesWhere,
  fixed: number[],
): Promise<Missed[]> {
  const missed: Missed[] = [];
  const stoppable = mayUnsubscribe(brief.importance, plan.ask);
  if (plan.mail && reach.withoutMail > 0)
    missed.push({
      kind: 'no mail address',
      n: reach.withoutMail,
      detail: `${peopleWords(reach.withoutMail)} without a mail address: the inbox only.`,
      remedy: 'Add their addresses under People, or tell them in another way.',
      names: await namesOf('no mail'),
    });
  if (plan.mail && stoppable && reach.mailStopped > 0)
    missed.push({
      kind: 'mail stopped',
      n: reach.mailStopped,
      detail: `${peopleWords(reach.mailStopped)} stopped mail of this kind: the inbox only.`,
      remedy: 'If they must have it by mail, ask for an acknowledgement or make it urgent.',
      names: await namesOf('mail stopped'),
    });
  const skipped = buckets.filter((bucket) => bucket.fate === 'not').map((bucket) => bucket.zone);
  const passed = reach.clocks
    .filter((clock) => skipped.includes(clock.zone))
    .reduce((sum, each) => sum + each.n, 0);
  if (passed > 0)
    missed.push({
      kind: 'hour passed',
      n: passed,
      detail: `${peopleWords(passed)} for whom the hour has passed (${list(skipped.map(zoneWords), 'and')}): nothing.`,
      remedy: 'Choose that they get it at once or the next day, or choose a later time.',
      names: [],
    });
  const left = await leftFrom(db, fixed, SAMPLE);
  if (left.length > 0)
    missed.push({
      kind: 'left',
      n: left.length,
      detail: `${peopleWords(left.length)} still listed in a fixed group but no longer here: nothing.`,
      remedy: 'Take them out of the group, or put somebody in their place.',
      names: left.map((person) => person.name),
    });
  return missed;
}

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
  const now = await circumstances(db);
  const [people, sample] = await Promise.all([
    countPeople(db, audience, now),
    namesWhere(db, audience, now, 'anybody', FIRST),
  ]);
  return { people, sample };
}

/** The parts a text of so many sections stands in on a board. */
const partsOn = (board: BoardForReader, sections: number): number => Math.ceil(sections / board.sectionLimit);

/**
 * What a plan would do if it were confirmed now: how many people, by which method, when, who would be missed and why.
 * Who is in is decided by the same condition the engine expands with, and when by the same buckets: the figures are of those
 * who get it, without those for whom the hour has passed or whose working day it is not.
 *
 * Of an audience that names what is not this person's to see nothing is counted; the right is then denied with the reason.
 */
export async function forecast(db: Database, actor: Actor, wished: Plan, brief: Brief): Promise<Forecast> {
  const [now, boards, nowMs, everyClock, home, unseen, allPlaces] = await Promise.all([
    circumstances(db),
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
  const { audience, timing } = plan;
  const byId = new Map(boards.map((board) => [board.id, board]));
  const chosen = plan.boards.flatMap((id) => byId.get(id) ?? []);
  const places = allPlaces.filter((place) => plan.outside.includes(place.id));
  const names = {
    ...(await audienceNames(db, now, [wished.audience], unseen)),
    board: (id: number) => byId.get(id)?.name,
    outside: (id: number) => places.find((place) => place.id === id)?.hook.name,
  };
  const reach = audience ? await countReach(db, audience, now) : null;
  const namesOf: NamesWhere = async (further) =>
    audience ? (await namesWhere(db, audience, now, further, SAMPLE)).map((person) => person.name) : [];

  const zones = isLocal(timing)
    ? { all: zonesOf(everyClock), reached: zonesOf(reach?.clocks ?? []) }
    : { all: [], reached: [] };
  const coming = timing.kind === 'recurring' ? comingOccurrences(timing, zones.all, nowMs, { most: 10 }) : [];
  const buckets =
    timing.kind === 'recurring'
      ? (coming[0]?.buckets ?? [])
      : bucketsOnce(timing, brief.event, zones.all, nowMs);
  const inZone = (zone: string): number =>
    (reach?.clocks ?? []).filter((clock) => clock.zone === zone).reduce((sum, clock) => sum + clock.n, 0);
  const reached = buckets.filter((bucket) => bucket.zone === '' || inZone(bucket.zone) > 0);

  // Those of the audience whom the engine leaves out when it comes due.
  const works =
    audience && ofWorkingDays(plan.ask) && buckets.length > 0
      ? worksAt(instantsIn(buckets, zonesOf(everyClock)))
      : null;
  const skipped = reached.filter((bucket) => bucket.fate === 'not').map((bucket) => bucket.zone);
  const getting: Sql | null = works || skipped.length > 0 ? gettingIt(skipped, works) : null;
  const [got, contacts, sample, readers, onBoards] = await Promise.all([
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
  ]);

  const problems = planProblems(
    wished,
    brief.event,
    zones.reached.length > 0 ? zones.reached : zones.all,
    nowMs,
  );
  if (chosen.length < plan.boards.length)
    problems.push({ field: 'boards', detail: 'A chosen board no longer exists. Choose the boards again.' });
  if (places.length < plan.outside.length)
    problems.push({
      field: 'outside',
      detail: 'A chosen outside place no longer exists. Choose the places again.',
    });
  const gone = audience ? groupsNamedIn(audience).filter((id) => !now.groups.has(id)) : [];
  if (gone.length > 0)
    problems.push({ field: 'audience', detail: 'A chosen group no longer exists. Choose the groups again.' });
  if (unreadable)
    problems.push({
      field: 'audience',
      detail: 'The rule of a chosen group cannot be read, so who is in it is not known. Write its rule anew.',
    });
  if (reach?.people === 0)
    problems.push({ field: 'audience', detail: 'Nobody is in this audience. Choose others.' });
  else if (got?.people === 0 && plan.boards.length === 0 && places.length === 0)
    problems.push({
      field: 'audience',
      detail: 'Nobody of this audience would get it at that time. Choose another time, or others.',
    });
  const text = await textProblems(db, actor, plan, brief, chosen, reach, namesOf, now);

  const missed =
    audience && reach
      ? await missedOf(
          db,
          plan,
          brief,
          reach,
          reached,
          namesOf,
          groupsNamedIn(audience).filter((id) => now.groups.get(id)?.kind === 'fixed'),
        )
      : [];
  if (contacts.all > contacts.byMail)
    missed.push({
      kind: 'contact without mail',
      n: contacts.all - contacts.byMail,
      detail: `${peopleWords(contacts.all - contacts.byMail)} linked to somebody and without a usable mail address: no copy.`,
      remedy: 'Add the addresses of the linked contacts under People.',
      names: [],
    });

  const stoppable = mayUnsubscribe(brief.importance, plan.ask);
  const failing = audience && plan.mail ? await countFailing(db, audience, now, stoppable) : 0;
  if (failing > 0)
    missed.push({
      kind: 'mail comes back',
      n: failing,
      detail: `${peopleWords(failing)} whose mail comes back: the inbox only.`,
      remedy: 'Ask them for another address, or let mail go there again from their page.',
      names: await namesOf('mail comes back'),
    });

  if (audience && works) {
    const idle = await whoRestsFromWork(db, audience, now, buckets, zonesOf(everyClock));
    if (idle.n > 0)
      missed.push({
        kind: 'not working',
        n: idle.n,
        detail: `${peopleWords(idle.n)} whose working day it is not (away, on leave, a holiday, or a day off): nothing.`,
        remedy: 'They are asked again on their next working day.',
        names: idle.names,
      });
  }
  const digestOn = plan.ask.kind === 'check-in' ? plan.ask.digestOn : [];
  const digests = digestOn.flatMap((id) => byId.get(id) ?? []);
  if (digests.length < digestOn.length)
    problems.push({
      field: 'ask.digestOn',
      detail: 'A board for the digest no longer exists. Choose again.',
    });
  const asking = asksOf(plan.ask);
  const span = buckets.length > 0 ? reachSpan(buckets, zones) : null;
  if (asking?.kind === 'poll' && asking.poll.anonymous && reach && reach.people < LEAST_SHOWN)
    text.warnings.push({
      field: 'ask.poll.anonymous',
      detail: `Fewer than ${LEAST_SHOWN} are asked. The result of a poll without names shows only if ${LEAST_SHOWN} have voted.`,
    });

  const resting = restingOf(plan, brief, got, reached, home?.quiet ?? null);
  const clockZone = timing.kind === 'recurring' ? (timing.zone ?? zones.reached[0] ?? 'UTC') : 'UTC';
  const clock = comingIn(
    clockZone,
    coming.map((each) => each.recursAt),
  );
  return {
    people: got?.people ?? 0,
    sample,
    byMail: got && plan.mail ? Math.max(0, got.withMail - (stoppable ? got.mailStopped : 0) - failing) : 0,
    contacts: contacts.byMail,
    boards: chosen.map((board, i) => ({
      id: board.id,
      name: board.name,
      parts: partsOn(board, brief.sections),
      readers: readers[i] ?? 0,
    })),
    outside: places.map(({ id, hook, state }) => ({ id, name: hook.name, standing: state })),
    onBoards,
    missed,
    onLeave: got?.onLeave ?? 0,
    phrases: sentence(wished, names, nowMs),
    problems: [...problems, ...text.problems],
    warnings: [
      ...planWarnings(plan, brief, reached, home?.zone ?? 'UTC'),
      ...placeWarnings(places),
      ...text.warnings,
    ],
    toEveryone: wished.audience !== null && isToEveryone(wished.audience),
    span,
    bands: reached
      .filter((bucket) => bucket.zone !== '')
      .map((bucket) => ({ ...bucket, n: inZone(bucket.zone) })),
    coming: coming.flatMap(({ recursAt, buckets: each }, i): NextOne[] => {
      const span = reachSpan(each, zones);
      const { hour = 'ordinary', clockMoved = 0 } = clock[i] ?? {};
      return span ? [{ recursAt, ...span, clock: { hour, clockMoved } }] : [];
    }),
    resting,
    clearance: await groupsToClear(db, wished.audience, chosen, now),
    clockNote: timing.kind === 'at' ? settledWords(timing) : null,
    chases: chasePlan(
      asking?.chase ?? null,
      span?.lastMs ?? nowMs,
      span && asking ? deadlineOf(asking, span.lastMs) : null,
    ),
    right:
      unseen.reason === null
        ? decide(actor, {
            kind: 'address',
            audience: wished.audience,
            boards: [...chosen, ...digests].map((board) => board.rules),
            outside: places.map(({ hook }) => ruleOf(hook)),
            recurs: plan.timing.kind === 'recurring',
          })
        : { outcome: 'denied', reason: unseen.reason },
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
    if (!bucket || bucket.fate === 'not') continue;
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
