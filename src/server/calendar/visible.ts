import type { Audience } from '../../core/audience/expression.ts';
import { UnreadableRule } from '../../core/audience/groups.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import type { ShownDate } from '../../core/calendar/shown.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import type { Sql } from '../audience/sql.ts';
import { isIn } from '../audience/store.ts';
import type { Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { notFound, Problem } from '../problem.ts';
import { countsOf, dateById, saidBy, type DateRow } from './dateStore.ts';
import { matchingSessions, sessionById } from './store.ts';

/** Whether somebody looks after the calendar: makes sessions and sees all of them. */
export const looksAfterCalendar = (actor: Pick<Actor, 'role' | 'id' | 'mayReach' | 'moderates'>): boolean =>
  decide(actor, { kind: 'look after the organisation' }).outcome === 'allowed';

/** A 403 problem for those who do not look after the calendar. */
export function requireCalendar(actor: Actor): void {
  if (!looksAfterCalendar(actor)) throw new Problem(403, 'Only a coordinator looks after the calendar.');
}

/** Whom a session is for; nobody, where a group it depends on cannot be read. */
export function invitedTo(audience: Audience, now: AudienceContext): Sql {
  try {
    return isIn(audience, now);
  } catch (error) {
    if (error instanceof UnreadableRule) return { sql: 'FALSE', bindings: [] };
    throw error;
  }
}

/** Which of some sessions are for a person. */
export async function sessionsFor(
  db: Database,
  personId: number,
  sessions: readonly { id: number; audience: Audience }[],
): Promise<Set<number>> {
  if (sessions.length === 0) return new Set();
  const now = await audienceContext(db);
  const AT_ONCE = 100;
  const found = new Set<number>();
  for (let from = 0; from < sessions.length; from += AT_ONCE)
    for (const id of await matchingSessions(
      db,
      personId,
      sessions.slice(from, from + AT_ONCE).map(({ id, audience }) => ({ id, who: invitedTo(audience, now) })),
    ))
      found.add(id);
  return found;
}

/** Dates as a person sees them. */
export async function shownTo(
  db: Database,
  personId: number,
  dates: readonly DateRow[],
  invited: ReadonlySet<number>,
): Promise<ShownDate[]> {
  const ids = dates.map((date) => date.id);
  const [counts, said] = await Promise.all([countsOf(db, ids), saidBy(db, personId, ids)]);
  return dates.map((date) => {
    const { id, sessionId, title, text, startMs, minutes, zone, place, link, calledOff, note, capacity } =
      date;
    const of = counts.get(id);
    return {
      id,
      sessionId,
      title,
      text,
      startMs,
      minutes,
      zone,
      place,
      link,
      calledOff,
      note,
      capacity,
      coming: of?.yes ?? 0,
      perhaps: of?.perhaps ?? 0,
      waiting: of?.waiting ?? 0,
      mine: said.get(id) ?? null,
      invited: invited.has(sessionId),
    };
  });
}

/** A date of a session for somebody it is for, or who looks after the calendar; for all others there is none. */
export async function openDate(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ date: DateRow; invited: boolean }> {
  const date = await dateById(db, id);
  const session = date && (await sessionById(db, date.sessionId));
  if (!date || !session) throw notFound('session');
  const invited = (await sessionsFor(db, actor.id, [session])).size > 0;
  if (!invited && !looksAfterCalendar(actor)) throw notFound('session');
  return { date, invited };
}

export async function shownDate(db: Database, actor: Actor, id: number): Promise<ShownDate> {
  const { date, invited } = await openDate(db, actor, id);
  const [shown] = await shownTo(db, actor.id, [date], new Set(invited ? [date.sessionId] : []));
  if (!shown) throw notFound('session');
  return shown;
}
