import {
  CalendarProblem,
  type IncomingCalendar,
  type IncomingDate,
  type IncomingSession,
} from '../../core/calendar/incoming.ts';
import { AHEAD_DAYS, relay } from '../../core/calendar/dates.ts';
import type { SessionInput } from '../../core/calendar/session.ts';
import { momentWords, zoneWords } from '../../core/timing/words.ts';
import {
  changeDate,
  datesOf,
  datesToRelay,
  deleteDates,
  insertDates,
  moveDates,
  setCalledOff,
  type DateRow,
} from '../calendar/dateStore.ts';
import {
  insertSession,
  markCalledOff,
  sessionById,
  updateSession,
  type CalendarSession,
} from '../calendar/store.ts';
import { notifyOfDate } from '../calendar/telling.ts';
import type { Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import * as store from './store.ts';

const DAY_MS = 86_400_000;
/** Changes of dates of one session that are told one by one; of more, it is told once. */
const TOLD_ONE_BY_ONE = 3;
/** A calendar that loses most of its sessions at once is more likely broken than right. */
const FEW = 3;

interface World {
  followed: store.FollowedRow;
  nowMs: number;
}

/** What is to be told of a date. */
interface Told {
  dateId: number;
  title: string;
  text: string;
}

const inputOf = (
  from: IncomingSession,
  { audience, remindMinutes }: Pick<SessionInput, 'audience' | 'remindMinutes'>,
  capacity: number | null,
): SessionInput => ({
  title: from.title,
  text: from.text,
  wall: from.wall,
  zone: from.zone,
  minutes: from.minutes,
  place: from.place,
  link: from.link,
  rule: null,
  audience,
  capacity,
  remindMinutes,
});

/** Puts dates in, those alike in one statement, and calls off those that are. */
async function putDates(
  trx: Database,
  sessionId: number,
  dates: readonly IncomingDate[],
  remindMinutes: number | null,
): Promise<void> {
  const alike = new Map<string, IncomingDate[]>();
  for (const date of dates) {
    const key = JSON.stringify([date.minutes, date.place, date.link]);
    alike.set(key, [...(alike.get(key) ?? []), date]);
  }
  for (const some of alike.values()) {
    const [first] = some;
    if (first) await insertDates(trx, sessionId, some, { ...first, remindMinutes });
  }
  const off = new Set(dates.filter((date) => date.calledOff).map((date) => date.meant));
  if (off.size === 0) return;
  const known = await datesToRelay(trx, sessionId, 0);
  await setCalledOff(
    trx,
    known.filter((date) => off.has(date.meant) && !date.calledOff).map((date) => date.id),
    true,
    '',
  );
}

async function addSession(trx: Database, { followed, nowMs }: World, from: IncomingSession): Promise<void> {
  const dates = from.dates.filter((date) => date.startMs > nowMs);
  if (dates.length === 0 || from.calledOff) return;
  const id = await insertSession(
    trx,
    inputOf(from, followed, null),
    followed.madeBy,
    nowMs + AHEAD_DAYS * DAY_MS,
  );
  await store.setFollowed(trx, id, followed.id, from.uid);
  await putDates(trx, id, dates, followed.remindMinutes);
  await emit(trx, 'session.changed', { session: id });
}

const whenWords = (startMs: number, zone: string): string =>
  `${momentWords(startMs, zone)} in ${zoneWords(zone)}`;

/** Has the dates ahead of a session be as they are elsewhere; gives what changed for those who come. */
async function followDates(
  trx: Database,
  session: CalendarSession,
  wanted: readonly IncomingDate[],
  { followed, nowMs }: World,
): Promise<{ changed: boolean; told: Told[] }> {
  const { id, title, zone, remindMinutes } = session;
  // Nothing of them is changed here, so that nothing of them is their own.
  const known = (await datesToRelay(trx, id, nowMs)).map((date) => ({ ...date, own: false }));
  const before = new Map<number, DateRow>(
    (await datesOf(trx, [id], { endAfterMs: nowMs }, 2_000)).map((date) => [date.id, date]),
  );
  const relaid = relay(known, wanted);
  await deleteDates(
    trx,
    relaid.dropped.map((date) => date.id),
  );
  await moveDates(
    trx,
    relaid.moved.map(({ date, to }) => ({ id: date.id, to })),
    remindMinutes,
  );
  const gone = `It is not in ${followed.name} any more.`;
  await setCalledOff(
    trx,
    relaid.calledOff.map((date) => date.id),
    true,
    gone,
  );
  const byMeant = new Map(wanted.map((date) => [date.meant, date]));
  await putDates(
    trx,
    id,
    relaid.made.flatMap(({ meant }) => byMeant.get(meant) ?? []),
    remindMinutes,
  );
  const told: Told[] = relaid.calledOff.map((date) => ({
    dateId: date.id,
    title: `${title} is called off`,
    text: `${whenWords(date.startMs, zone)}. ${gone}`,
  }));
  let changed =
    relaid.dropped.length + relaid.moved.length + relaid.calledOff.length + relaid.made.length > 0;
  const stays = [
    ...relaid.kept.map((date) => ({ date, meant: date.meant })),
    ...relaid.moved.map(({ date, to }) => ({ date, meant: to.meant })),
  ];
  for (const { date, meant } of stays) {
    const to = byMeant.get(meant);
    const was = before.get(date.id);
    if (!to || !was) continue;
    const elsewhere = was.place !== to.place || was.link !== to.link;
    if (elsewhere || was.minutes !== to.minutes) {
      changed = true;
      await changeDate(trx, date.id, to.startMs, { ...to, wall: meant, note: '' }, remindMinutes);
    }
    if (date.calledOff !== to.calledOff) {
      changed = true;
      await setCalledOff(trx, [date.id], to.calledOff, '');
      told.push({
        dateId: date.id,
        title: `${title} ${to.calledOff ? 'is called off' : 'takes place after all'}`,
        text: `${whenWords(to.startMs, zone)}.`,
      });
    } else if (!to.calledOff && (date.startMs !== to.startMs || elsewhere))
      told.push({
        dateId: date.id,
        title: `${title} ${date.startMs === to.startMs ? 'is somewhere else' : 'is moved'}`,
        text: `It is at ${whenWords(to.startMs, zone)}${to.place === '' ? '' : `, ${to.place}`}.`,
      });
  }
  return { changed, told };
}

async function notifyAll(
  trx: Database,
  session: CalendarSession,
  told: readonly Told[],
  nowMs: number,
): Promise<void> {
  const [first] = told;
  const some: readonly Told[] =
    first === undefined || told.length <= TOLD_ONE_BY_ONE
      ? told
      : [
          {
            dateId: first.dateId,
            title: `${session.title} has changed`,
            text: `${told.length} of its dates are moved, somewhere else or called off.`,
          },
        ];
  for (const { dateId, title, text } of some)
    await notifyOfDate(
      trx,
      session,
      { id: dateId },
      { title, text, dedupeKey: `session date ${dateId} followed ${nowMs}` },
    );
}

async function changeFollowed(
  trx: Database,
  world: World,
  session: CalendarSession,
  from: IncomingSession,
): Promise<void> {
  const { nowMs } = world;
  const input = inputOf(from, session, session.capacity);
  const same = (Object.keys(input) as (keyof SessionInput)[]).every(
    (key) => JSON.stringify(input[key]) === JSON.stringify(session[key]),
  );
  if (!same) await updateSession(trx, session.id, input, nowMs + AHEAD_DAYS * DAY_MS);
  if (from.calledOff !== session.calledOff)
    await (from.calledOff ? markCalledOff(trx, session.id) : store.markTakesPlace(trx, session.id));
  const wanted = from.dates
    .filter((date) => date.startMs > nowMs)
    .map((date) => (from.calledOff ? { ...date, calledOff: true } : date));
  const { changed, told } = await followDates(trx, { ...session, ...input }, wanted, world);
  await notifyAll(trx, { ...session, ...input }, told, nowMs);
  if (!same || changed || from.calledOff !== session.calledOff)
    await emit(trx, 'session.changed', { session: session.id });
}

/** Takes a session out: what nobody said anything of goes without a word, the rest is called off and they are told. */
async function takeOut(trx: Database, world: World, session: CalendarSession): Promise<void> {
  const { changed, told } = await followDates(trx, session, [], world);
  await notifyAll(trx, session, told, world.nowMs);
  if (await store.deleteEmptySession(trx, session.id))
    await emit(trx, 'session.changed', { session: session.id });
  else if (changed) {
    if (!session.calledOff) await markCalledOff(trx, session.id);
    await emit(trx, 'session.changed', { session: session.id });
  }
}

/**
 * Has the sessions that come from a calendar be as it says: new ones are put in, times, places and what is called off follow, what is
 * not in it any more goes. What was said of dates that stay stays, and whoever it is for is told of what changed.
 *
 * @param force whether it may take most of them out at once
 * @throws a CalendarProblem where it would, and was not told to
 */
export async function applyCalendar(
  trx: Database,
  followed: store.FollowedRow,
  incoming: IncomingCalendar,
  { nowMs, force }: { nowMs: number; force: boolean },
): Promise<void> {
  const world = { followed, nowMs };
  const known = await store.sessionsFrom(trx, followed.id);
  const there = new Map(incoming.sessions.map((session) => [session.uid, session]));
  const goes: CalendarSession[] = [];
  let ahead = 0;
  for (const [uid, id] of known) {
    const session = await sessionById(trx, id, true);
    if (!session) continue;
    const isAhead = (await datesToRelay(trx, id, nowMs)).some((date) => !date.calledOff);
    if (isAhead) ahead++;
    if (there.has(uid)) continue;
    if (isAhead) goes.push(session);
  }
  if (!force && goes.length >= FEW && goes.length * 2 > ahead)
    throw new CalendarProblem(
      `It would take out ${goes.length} of ${ahead} sessions ahead, which looks like a mistake there. If it is right, press “Read it now”.`,
    );
  for (const session of goes) await takeOut(trx, world, session);
  for (const from of incoming.sessions) {
    const id = known.get(from.uid);
    const session = id === undefined ? undefined : await sessionById(trx, id, true);
    if (session) await changeFollowed(trx, world, session, from);
    else await addSession(trx, world, from);
  }
}

/** Takes out all that is ahead of a calendar that is followed no more. */
export async function takeOutAll(trx: Database, followed: store.FollowedRow, nowMs: number): Promise<void> {
  for (const id of (await store.sessionsFrom(trx, followed.id)).values()) {
    const session = await sessionById(trx, id, true);
    if (session) await takeOut(trx, { followed, nowMs }, session);
  }
}
