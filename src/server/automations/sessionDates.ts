import type { Audience } from '../../core/audience/expression.ts';
import { STANDS } from '../../core/audience/stands.ts';
import type { INVITED } from '../../core/automation/automation.ts';
import { sessionDue, type OnSession } from '../../core/automation/dates.ts';
import type { Row } from '../../core/automation/items.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { countsOf, dateById, datesOf, type DateRow } from '../calendar/dateStore.ts';
import { sessionById, sessionsAhead } from '../calendar/store.ts';
import { looksAfterCalendar, sessionsFor } from '../calendar/visible.ts';
import type { Database } from '../database/connection.ts';

const DAY_MS = 86_400_000;
/** Of one session at most so many dates are looked at in a period. */
const MOST = 2_000;
const SPAN_DAYS = { minutes: 1 / 1440, hours: 1 / 24, days: 1 };

/** The dates of a session that set an automation off in a period, each with the instant; none that is called off. */
export async function sessionDatesDue(
  db: Database,
  when: OnSession,
  fromMs: number,
  toMs: number,
): Promise<{ date: DateRow; dueMs: number }[]> {
  // A day more at either end: days of a zone may be an hour longer or shorter.
  const spanMs = when.span * SPAN_DAYS[when.unit] * DAY_MS;
  const near = { endAfterMs: fromMs - spanMs - DAY_MS, beforeMs: toMs - spanMs + DAY_MS };
  const found = await datesOf(db, [when.sessionId], near, MOST);
  return found
    .filter((date) => !date.calledOff)
    .map((date) => ({ date, dueMs: sessionDue(when, date) }))
    .filter(({ dueMs }) => dueMs >= fromMs && dueMs < toMs);
}

const at = (epochMs: number): string => `${new Date(epochMs).toISOString().slice(0, 16)}Z`;

/** Dates of a session as rows with what is known of each. */
export async function sessionRows(db: Database, dates: readonly DateRow[]): Promise<Row[]> {
  const counts = await countsOf(
    db,
    dates.map(({ id }) => id),
  );
  return dates.map((date): Row => {
    const { yes = 0, waiting = 0, perhaps = 0 } = counts.get(date.id) ?? {};
    return {
      id: date.id,
      values: new Map([
        ['session.title', date.title],
        ['session.begins', at(date.startMs)],
        ['session.ends', at(date.startMs + date.minutes * 60_000)],
        ['session.place', date.place],
        ['session.link', date.link],
        ['session.about', date.text],
        ['session.note', date.note],
        ['session.coming', String(yes)],
        ['session.perhaps', String(perhaps)],
        ['session.waiting', String(waiting)],
        ['session.free', date.capacity === null ? '' : String(Math.max(0, date.capacity - yes))],
      ]),
    };
  });
}

/** Whether somebody may know of a session: coordinators of each, others of what is for them. */
export async function mayKnowSession(db: Database, actor: Actor, sessionId: number): Promise<boolean> {
  const session = await sessionById(db, sessionId);
  if (!session) return false;
  return looksAfterCalendar(actor) || (await sessionsFor(db, actor.id, [session])).has(sessionId);
}

/** Those whom a date is for, or some of them by what they have said; null where it is gone. */
export async function invitedTo(
  db: Database,
  dateId: number,
  which: (typeof INVITED)[number],
): Promise<Audience | null> {
  const date = await dateById(db, dateId);
  const session = date && (await sessionById(db, date.sessionId));
  if (!session) return null;
  const { audience } = session;
  const said = (stands: (typeof STANDS)[number]): Audience => ({ kind: 'session', dateId, stands });
  switch (which) {
    case 'all':
      return audience;
    case 'not declined':
      return { kind: 'except', from: audience, minus: said('no') };
    case 'coming':
      return said('yes');
    case 'silent':
      return { kind: 'except', from: audience, minus: { kind: 'any', of: STANDS.map(said) } };
  }
}

/** At most so many sessions are offered. */
const MOST_OFFERED = 500;

/** The sessions with a date ahead that somebody may know of. */
export async function sessionsKnown(
  db: Database,
  actor: Actor,
): Promise<{ id: number; title: string; recurs: boolean }[]> {
  const ahead = await sessionsAhead(db, MOST_OFFERED);
  const known = looksAfterCalendar(actor) ? null : await sessionsFor(db, actor.id, ahead);
  return ahead
    .filter(({ id }) => known === null || known.has(id))
    .map(({ id, title, recurs }) => ({ id, title, recurs }));
}
