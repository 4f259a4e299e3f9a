import ical, {
  ICalCalendarMethod,
  ICalEventStatus,
  ICalEventTransparency,
  type ICalCalendar,
} from 'ical-generator';
import type { Stands } from '../../core/audience/stands.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { hashedKey, newFeedKeyText } from '../links/feedKey.ts';
import { notFound } from '../problem.ts';
import { dateUid } from './event.ts';
import { datesOf, saidBy, type DateRow } from './dateStore.ts';
import { personBySessionsKey, sessionsBetween, setSessionsKey } from './store.ts';
import { openDate, sessionsFor } from './visible.ts';

const DAY_MS = 86_400_000;
const BACK_DAYS = 31;
const AHEAD_DAYS = 366;
const MOST = 2_000;
const PRODUCT = { company: 'Clear Bell', product: 'Clear Bell', language: 'EN' };

/**
 * A date as an event of RFC 5545. It keeps its UID when it moves or is called off and its SEQUENCE grows, so that a calendar
 * follows it; only what one has said yes to takes up one's time.
 */
function addDate(calendar: ICalCalendar, date: DateRow, mine: Stands | null, publicUrl: string): void {
  const page = `${publicUrl}/calendar/dates/${date.id}`;
  calendar.createEvent({
    id: dateUid(date.id, new URL(publicUrl).hostname),
    sequence: date.sequence,
    start: new Date(date.startMs),
    end: new Date(date.startMs + date.minutes * 60_000),
    summary: date.title,
    description: [date.note, date.text, page].filter((part) => part !== '').join('\n\n'),
    status: date.calledOff ? ICalEventStatus.CANCELLED : ICalEventStatus.CONFIRMED,
    transparency:
      mine === 'yes' && !date.calledOff ? ICalEventTransparency.OPAQUE : ICalEventTransparency.TRANSPARENT,
    ...(date.place === '' ? {} : { location: date.place }),
    url: date.link === '' ? page : date.link,
  });
}

/** One date, as a file for its reader's own calendar. */
export async function dateFile(db: Database, actor: Actor, id: number, publicUrl: string): Promise<string> {
  const { date } = await openDate(db, actor, id);
  const said = await saidBy(db, actor.id, [id]);
  const calendar = ical({ method: ICalCalendarMethod.PUBLISH, prodId: PRODUCT });
  addDate(calendar, date, said.get(id) ?? null, publicUrl);
  return calendar.toString();
}

/** Makes the secret address of somebody's sessions; the one before ends. It is shown once. */
export async function newSessionsKey(db: Database, actor: Actor): Promise<string> {
  const key = newFeedKeyText();
  await transact(db, async (trx) => {
    await setSessionsKey(trx, actor.id, hashedKey(key));
    await record(trx, {
      actorId: actor.id,
      action: 'make sessions feed',
      subject: 'person',
      subjectId: actor.id,
    });
  });
  return key;
}

/**
 * The sessions that are for somebody, a month back and a year ahead, without those they do not come to, for a calendar program
 * that has no session: the key in the address is the right to read it.
 *
 * @throws 404 where nobody has the key, or they have left
 */
export async function sessionsFeed(db: Database, key: string, publicUrl: string): Promise<string> {
  const person = await personBySessionsKey(db, hashedKey(key));
  if (!person) throw notFound('calendar');
  const nowMs = await databaseNow(db);
  const fromMs = nowMs - BACK_DAYS * DAY_MS;
  const toMs = nowMs + AHEAD_DAYS * DAY_MS;
  const sessions = await sessionsBetween(db, fromMs, toMs);
  const invited = await sessionsFor(db, person.id, sessions);
  const dates = await datesOf(db, [...invited], { endAfterMs: fromMs, beforeMs: toMs }, MOST);
  const said = await saidBy(
    db,
    person.id,
    dates.map((date) => date.id),
  );
  const calendar = ical({ name: 'Clear Bell: sessions', prodId: PRODUCT, ttl: 600 });
  for (const date of dates)
    if (said.get(date.id) !== 'no') addDate(calendar, date, said.get(date.id) ?? null, publicUrl);
  return calendar.toString();
}
