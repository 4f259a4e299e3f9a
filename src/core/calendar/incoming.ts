import ICAL from 'ical.js';
import { findIana } from 'windows-iana';
import { linkSchema } from '../content/linkSchema.ts';
import { isZone, resolveMoment, wallAt } from '../timing/wallTime.ts';
import { MOST_DATES } from './dates.ts';

/** One date of a session as another calendar has it; `meant` is what it is known by, in the session's zone. */
export interface IncomingDate {
  meant: string;
  startMs: number;
  minutes: number;
  place: string;
  link: string;
  calledOff: boolean;
}

/** A session as another calendar has it, with its dates within the span that was asked for. */
export interface IncomingSession {
  /** RFC 5545 UID. */
  uid: string;
  title: string;
  text: string;
  place: string;
  link: string;
  /** When it begins first, on the clock of its zone. */
  wall: string;
  zone: string;
  minutes: number;
  recurs: boolean;
  calledOff: boolean;
  dates: IncomingDate[];
}

export interface IncomingCalendar {
  name: string;
  sessions: IncomingSession[];
  /** What was understood otherwise than it says, in words. */
  warnings: string[];
}

/** Why a text is no calendar, in words. */
export class CalendarProblem extends Error {}

export const MOST_SESSIONS = 1_000;
/** Occurrences looked at in all of a file: what recurs every second since 1970 is not counted through. */
const MOST_STEPS = 40_000;
/** A date is moved by no more than this from where its rule has it, or it is looked at in vain. */
const LONGEST_MOVE_MS = 62 * 86_400_000;
const MINUTE_MS = 60_000;
const LEAST_MINUTES = 5;
const WITHOUT_END_MINUTES = 30;
const MOST_MINUTES = 7 * 1440;

/** How times of an event are read: on the clock of a zone, or by what the file itself says of one. */
interface Clock {
  zone: string;
  /** Whether an instant is what ical.js makes of it: in UTC, or by the file's own description of a zone. */
  exact: boolean;
}

const textOf = (component: ICAL.Component, name: string): string => {
  const value = component.getFirstPropertyValue(name);
  return typeof value === 'string' ? value.trim() : '';
};

/** An IANA zone in what a program calls one: itself, at the end of a path, or by the names of another system (CLDR). */
export function namedZone(tzid: string): string | null {
  if (isZone(tzid)) return tzid;
  const tail = /[A-Za-z_+-]+(?:\/[A-Za-z_+-]+)+$/.exec(tzid)?.[0] ?? '';
  for (const path of [tail, tail.split('/').slice(-2).join('/')])
    if (path.includes('/') && isZone(path)) return path;
  const [known] = findIana(tzid);
  return known !== undefined && isZone(known) ? known : null;
}

const pad = (n: number, to = 2): string => String(n).padStart(to, '0');
const wallOf = (time: ICAL.Time): string =>
  `${pad(time.year, 4)}-${pad(time.month)}-${pad(time.day)}T${pad(time.hour)}:${pad(time.minute)}`;

function msOf(time: ICAL.Time, clock: Clock): number {
  return clock.exact && !time.isDate
    ? time.toUnixTime() * 1000
    : resolveMoment({ wall: wallOf(time), zone: clock.zone }).epochMs;
}

/** An address to join by: RFC 7986 CONFERENCE, else URL, else a place that is one. */
function linkOf(event: ICAL.Component): string {
  const written = [textOf(event, 'conference'), textOf(event, 'url'), textOf(event, 'location')];
  return written.find((each) => each.length <= 2000 && linkSchema.safeParse(each).success) ?? '';
}

const placeOf = (event: ICAL.Component): string => {
  const place = textOf(event, 'location').replace(/\s+/g, ' ');
  return linkSchema.safeParse(place).success ? '' : place.slice(0, 200);
};

/** Counting through what recurs by the minute takes long, and leads to nothing. */
function recursBySeconds(property: ICAL.Property): boolean {
  const rule = property.getFirstValue();
  return rule instanceof ICAL.Recur && (rule.freq === 'SECONDLY' || rule.freq === 'MINUTELY');
}

/** A date from which on all are changed (RANGE=THISANDFUTURE). */
interface Change {
  meantMs: number;
  component: ICAL.Component;
}

class Reading {
  readonly warnings: string[] = [];
  readonly #own: string;
  #steps = 0;

  constructor(own: string) {
    this.#own = own;
  }

  warn(words: string): void {
    if (this.warnings.length < 50 && !this.warnings.includes(words)) this.warnings.push(words);
  }

  /** How a time of an entry is read: the time itself, or where it has none of that name the one it begins at. */
  clockOf(component: ICAL.Component, title: string, name = 'dtstart'): Clock {
    const property = component.getFirstProperty(name) ?? component.getFirstProperty('dtstart');
    const time = property?.getFirstValue();
    if (!property || !(time instanceof ICAL.Time))
      throw new CalendarProblem('it does not say when it begins');
    return this.#clockIn(property, time, title);
  }

  #clockIn(property: ICAL.Property, time: ICAL.Time, title: string): Clock {
    const tzid = property.getParameter('tzid');
    if (time.zone === ICAL.Timezone.utcTimezone) return { zone: this.#own, exact: true };
    if (typeof tzid !== 'string') return { zone: this.#own, exact: false };
    const zone = namedZone(tzid);
    if (zone !== null) return { zone, exact: false };
    // The file describes it itself (VTIMEZONE): then its times are known, whatever it is called.
    if (time.zone !== ICAL.Timezone.localTimezone) return { zone: this.#own, exact: true };
    this.warn(`“${title}” is of a zone that nobody knows, ${tzid}. It is read on the clock of ${this.#own}.`);
    return { zone: this.#own, exact: false };
  }

  /** Dates that were changed by themselves, by when the rule has them; those that change all after them as well, in order. */
  #changes(
    changed: readonly ICAL.Component[],
    title: string,
  ): { one: Map<number, ICAL.Component>; on: Change[] } {
    const one = new Map<number, ICAL.Component>();
    const on: Change[] = [];
    for (const component of changed) {
      const property = component.getFirstProperty('recurrence-id');
      const time = property?.getFirstValue();
      if (!(time instanceof ICAL.Time)) continue;
      const clock = this.clockOf(component, title, 'recurrence-id');
      const meantMs = msOf(time, clock);
      one.set(meantMs, component);
      if (property?.getParameter('range') === 'THISANDFUTURE') on.push({ meantMs, component });
    }
    return { one, on: on.sort((a, b) => a.meantMs - b.meantMs) };
  }

  /** Whether a date of the rule is taken out (EXDATE); a date without an hour takes out its whole day. */
  #takenOut(component: ICAL.Component, title: string): (meantMs: number, meant: ICAL.Time) => boolean {
    const instants = new Set<number>();
    const days = new Set<string>();
    for (const property of component.getAllProperties('exdate'))
      for (const time of property.getValues())
        if (time instanceof ICAL.Time) {
          if (time.isDate) days.add(wallOf(time).slice(0, 10));
          else instants.add(msOf(time, this.#clockIn(property, time, title)));
        }
    return (meantMs, meant) => instants.has(meantMs) || days.has(wallOf(meant).slice(0, 10));
  }

  datesOf(
    component: ICAL.Component,
    changed: readonly ICAL.Component[],
    clock: Clock,
    title: string,
    span: { fromMs: number; toMs: number },
  ): IncomingDate[] {
    if (component.getAllProperties('rrule').some(recursBySeconds)) {
      this.warn(`“${title}” recurs every minute or second, which nobody gathers for: it is left out.`);
      return [];
    }
    const found = new Map<string, IncomingDate>();
    const takenOut = this.#takenOut(component, title);
    const { one, on } = this.#changes(changed, title);
    // What is taken out is told by its instant here, and not by how it is written.
    const plain = new ICAL.Component(structuredClone(component.jCal), component.parent);
    plain.removeAllProperties('exdate');
    const event = new ICAL.Event(plain);
    const lengthMs = this.#lengthOf(component, title);
    const iterator = event.iterator();
    const following = (): ICAL.Time | null => iterator.next();
    for (let next = following(); next; next = following()) {
      if (++this.#steps > MOST_STEPS || found.size >= MOST_DATES) {
        this.warn(`“${title}” recurs too often, or since too long ago: not all of its dates are laid out.`);
        break;
      }
      // Whatever its zone, it is no more than a day off.
      if (next.toUnixTime() * 1000 < span.fromMs - LONGEST_MOVE_MS) continue;
      const meantMs = msOf(next, clock);
      if (meantMs > span.toMs) break;
      if (takenOut(meantMs, next)) continue;
      const own = one.get(meantMs);
      const since = on.filter((each) => each.meantMs <= meantMs).at(-1);
      const from = own ?? since?.component ?? component;
      const startMs = own
        ? this.#startOf(own, title)
        : since
          ? meantMs + this.#startOf(since.component, title) - since.meantMs
          : meantMs;
      if (Math.max(startMs, meantMs) < span.fromMs) continue;
      const meant = wallAt(meantMs, clock.zone);
      found.set(meant, {
        meant,
        startMs,
        minutes: this.#minutes(from, from === component ? lengthMs : this.#lengthOf(from, title), title),
        place: placeOf(from),
        link: linkOf(from),
        calledOff: textOf(from, 'status').toUpperCase() === 'CANCELLED',
      });
    }
    return [...found.values()].sort((a, b) => a.startMs - b.startMs);
  }

  #startOf(component: ICAL.Component, title: string): number {
    return msOf(new ICAL.Event(component).startDate, this.clockOf(component, title));
  }

  #lengthOf(component: ICAL.Component, title: string): number {
    return (
      msOf(new ICAL.Event(component).endDate, this.clockOf(component, title, 'dtend')) -
      this.#startOf(component, title)
    );
  }

  #minutes(component: ICAL.Component, lengthMs: number, title: string): number {
    const saysEnd = component.hasProperty('dtend') || component.hasProperty('duration');
    const start = component.getFirstPropertyValue('dtstart');
    if (!saysEnd && !(start instanceof ICAL.Time && start.isDate)) return WITHOUT_END_MINUTES;
    const minutes = Math.round(lengthMs / MINUTE_MS);
    if (minutes > MOST_MINUTES) this.warn(`“${title}” lasts longer than a week: its first week is kept.`);
    return Math.min(MOST_MINUTES, Math.max(LEAST_MINUTES, minutes));
  }

  session(
    component: ICAL.Component,
    changed: ICAL.Component[],
    span: { fromMs: number; toMs: number },
  ): IncomingSession {
    const title = textOf(component, 'summary').replace(/\s+/g, ' ').slice(0, 160) || 'Without a title';
    const event = new ICAL.Event(component);
    const clock = this.clockOf(component, title);
    const startMs = msOf(event.startDate, clock);
    return {
      uid: event.uid.slice(0, 500),
      title,
      text: textOf(component, 'description').slice(0, 2000),
      place: placeOf(component),
      link: linkOf(component),
      wall: wallAt(startMs, clock.zone),
      zone: clock.zone,
      minutes: this.#minutes(
        component,
        msOf(event.endDate, this.clockOf(component, title, 'dtend')) - startMs,
        title,
      ),
      recurs: event.isRecurring(),
      calledOff: textOf(component, 'status').toUpperCase() === 'CANCELLED',
      dates: this.datesOf(component, changed, clock, title, span),
    };
  }
}

/**
 * Reads an iCalendar text (RFC 5545): its events with all that recurs laid out within a span, exceptions and what was moved by itself
 * included (EXDATE, RDATE, RECURRENCE-ID). Zones are those of IANA, by whatever name a program has for them; one that nobody knows
 * and the file does not describe is read on the clock of `zone`, with a warning. One entry that cannot be read is left out, with a
 * warning.
 *
 * @param options.zone the IANA zone of what has none
 * @param options.fromMs milliseconds since 1970, as is `toMs`
 * @throws a CalendarProblem where it is no iCalendar text
 */
export function readCalendar(
  text: string,
  { zone, fromMs, toMs }: { zone: string; fromMs: number; toMs: number },
): IncomingCalendar {
  let calendar: ICAL.Component;
  try {
    const parsed = ICAL.parse(text.replace(/^\uFEFF/, '')) as unknown[];
    // Several calendars in one text come as a list of them.
    const first = Array.isArray(parsed[0]) ? parsed[0] : parsed;
    calendar = new ICAL.Component(first as ConstructorParameters<typeof ICAL.Component>[0]);
  } catch {
    throw new CalendarProblem(
      'This is no iCalendar text: it begins with BEGIN:VCALENDAR and ends with END:VCALENDAR.',
    );
  }
  if (calendar.name !== 'vcalendar')
    throw new CalendarProblem(
      'This is no iCalendar text: it begins with BEGIN:VCALENDAR and ends with END:VCALENDAR.',
    );
  const own = namedZone(textOf(calendar, 'x-wr-timezone')) ?? zone;
  const reading = new Reading(own);
  const byUid = new Map<string, { master?: ICAL.Component; changed: ICAL.Component[] }>();
  for (const event of calendar.getAllSubcomponents('vevent')) {
    const uid = textOf(event, 'uid');
    if (uid === '') {
      reading.warn(
        `“${textOf(event, 'summary')}” has no UID, by which a change of it would be known, and is left out.`,
      );
      continue;
    }
    const of = byUid.get(uid) ?? { changed: [] };
    if (event.hasProperty('recurrence-id')) of.changed.push(event);
    else of.master = event;
    byUid.set(uid, of);
  }
  const sessions: IncomingSession[] = [];
  for (const { master, changed } of byUid.values()) {
    // One that was invited to a single date of a series has that date alone.
    const [first, ...more] = master ? [master, ...changed] : changed;
    if (!first) continue;
    if (sessions.length >= MOST_SESSIONS) {
      reading.warn(
        `It has more than ${MOST_SESSIONS.toLocaleString('en-GB')} entries; the others are left out.`,
      );
      break;
    }
    try {
      sessions.push(reading.session(first, master ? more : [], { fromMs, toMs }));
    } catch (error) {
      const why =
        error instanceof CalendarProblem ? error.message : 'it is written in a way that cannot be read';
      reading.warn(`“${textOf(first, 'summary')}” is left out: ${why}.`);
    }
  }
  return {
    name: textOf(calendar, 'x-wr-calname') || textOf(calendar, 'name'),
    sessions,
    warnings: reading.warnings,
  };
}
