import type { z } from 'zod';
import { audienceWords } from '../../core/audience/words.ts';
import { STANDS_WORDS, type Stands } from '../../core/audience/stands.ts';
import type { tryDatesSchema } from '../../core/calendar/session.ts';
import { datesAfter, neverAfter, sessionWhenWords } from '../../core/calendar/dates.ts';
import type { CalendarPage, ParticipantPage, SessionPage, TriedDates } from '../../core/calendar/shown.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { countPeople, countWhere } from '../audience/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { audienceNames, audienceContext } from '../groups/directory.ts';
import { csvStream } from '../http/csvStream.ts';
import { namesOfPeople } from '../people/store.ts';
import { notFound } from '../problem.ts';
import { countsOf, datesOf, datesPast, hasSaidNothing, participants } from './dateStore.ts';
import { sessionById, sessionsBetween } from './store.ts';
import { invitedTo, looksAfterCalendar, openDate, requireCalendar, sessionsFor, shownTo } from './visible.ts';

const PAGE = 40;
const PAST = 12;
const AHEAD = 60;
const PEOPLE = 50;
const TRIED = 5;
/** How many people are read at a time for a file. */
const LINES = 2_000;

/**
 * The dates ahead that are for somebody, by when they begin, a page at a time; all that there are for whoever looks after the
 * calendar and asks for them.
 */
export async function calendarPage(
  db: Database,
  actor: Actor,
  { everybodys, after }: { everybodys: boolean; after: { startMs: number; id: number } | null },
): Promise<CalendarPage> {
  const nowMs = await databaseNow(db);
  // What began within the last week may still be going on.
  const sessions = await sessionsBetween(db, nowMs - 7 * 86_400_000, null);
  const invited = await sessionsFor(db, actor.id, sessions);
  const all = everybodys && looksAfterCalendar(actor);
  const dates = await datesOf(
    db,
    sessions.flatMap(({ id }) => (all || invited.has(id) ? [id] : [])),
    { endAfterMs: nowMs, after },
    PAGE + 1,
  );
  const page = dates.slice(0, PAGE);
  const last = page.at(-1);
  return {
    dates: await shownTo(db, actor.id, page, invited),
    next: dates.length > PAGE && last ? { startMs: last.startMs, id: last.id } : null,
  };
}

/** A session with its dates, for whoever looks after the calendar. */
export async function sessionPage(db: Database, actor: Actor, id: number): Promise<SessionPage> {
  requireCalendar(actor);
  const [session, now, nowMs] = await Promise.all([
    sessionById(db, id),
    audienceContext(db),
    databaseNow(db),
  ]);
  if (!session) throw notFound('session');
  const { audience, madeBy, followedId, ...rest } = session;
  const [ahead, past, names, makers, people, invited] = await Promise.all([
    datesOf(db, [id], { endAfterMs: nowMs }, AHEAD),
    datesPast(db, id, nowMs, PAST),
    audienceNames(db, now, [audience]),
    namesOfPeople(db, madeBy === null ? [] : [madeBy]),
    countPeople(db, audience, now),
    sessionsFor(db, actor.id, [session]),
  ]);
  const dates = await shownTo(db, actor.id, [...ahead, ...past], invited);
  return {
    ...rest,
    audience,
    madeBy: madeBy === null ? null : (makers.get(madeBy) ?? null),
    whenWords:
      followedId === null || dates.length <= 1
        ? sessionWhenWords(session, nowMs)
        : `at the times of ${session.followedName ?? 'another calendar'}`,
    whomWords: audienceWords(audience, names),
    people,
    dates,
  };
}

/** When a session would take place, and how many it would be for, before it is saved. */
export async function tryDates(
  db: Database,
  actor: Actor,
  { audience, ...when }: z.infer<typeof tryDatesSchema>,
): Promise<TriedDates> {
  requireCalendar(actor);
  const nowMs = await databaseNow(db);
  return {
    starts: datesAfter(when, nowMs)
      .slice(0, TRIED)
      .map((date) => date.startMs),
    never: neverAfter(when, nowMs),
    people: audience ? await countPeople(db, audience, await audienceContext(db)) : null,
  };
}

async function invitedToDate(db: Database, actor: Actor, id: number) {
  requireCalendar(actor);
  const { date } = await openDate(db, actor, id);
  const session = await sessionById(db, date.sessionId);
  if (!session) throw notFound('session');
  const now = await audienceContext(db);
  return { date, who: invitedTo(session.audience, now), session, now };
}

/** Whom a date is for and what each has said, a page at a time. */
export async function participantPage(
  db: Database,
  actor: Actor,
  id: number,
  filter: { stands: Stands | 'silent' | 'all'; after: { name: string; personId: number } | null },
): Promise<ParticipantPage> {
  const { who, session, now } = await invitedToDate(db, actor, id);
  const [found, counts, silent] = await Promise.all([
    participants(db, id, who, filter, PEOPLE + 1),
    countsOf(db, [id]),
    countWhere(db, session.audience, now, hasSaidNothing(id), 0),
  ]);
  const of = counts.get(id) ?? { yes: 0, waiting: 0, perhaps: 0, no: 0 };
  const page = found.slice(0, PEOPLE);
  const last = page.at(-1);
  return {
    people: page,
    counts: { ...of, silent: silent.n },
    next: found.length > PEOPLE && last ? { name: last.name, personId: last.personId } : null,
  };
}

/** Whom a date is for and what each has said, as a CSV. */
export async function participantsCsv(
  db: Database,
  actor: Actor,
  id: number,
): Promise<ReadableStream<Uint8Array>> {
  const { who } = await invitedToDate(db, actor, id);
  async function* lines(): AsyncGenerator<string[][]> {
    let after: { name: string; personId: number } | null = null;
    for (;;) {
      const page: Awaited<ReturnType<typeof participants>> = await participants(
        db,
        id,
        who,
        { stands: 'all', after },
        LINES,
      );
      yield page.map((person) => [
        person.name,
        person.detail,
        person.stands === null ? 'nothing said' : STANDS_WORDS[person.stands],
        person.saidMs === null ? '' : new Date(person.saidMs).toISOString(),
      ]);
      const last = page.at(-1);
      if (page.length < LINES || !last) return;
      after = last;
    }
  }
  return csvStream(['Name', 'Detail', 'Comes', 'Said (UTC)'], lines());
}
