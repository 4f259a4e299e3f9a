import type { Audience } from '../audience/expression.ts';
import type { Rule } from '../timing/rule.ts';
import type { Stands } from '../audience/stands.ts';

/** One date of a session as a reader sees it. Instants in milliseconds since 1970. */
export interface ShownDate {
  id: number;
  sessionId: number;
  title: string;
  text: string;
  startMs: number;
  minutes: number;
  /** The zone it was set in. */
  zone: string;
  place: string;
  link: string;
  calledOff: boolean;
  /** A word with the last change of this date. */
  note: string;
  capacity: number | null;
  coming: number;
  perhaps: number;
  waiting: number;
  /** What the reader has said. */
  mine: Stands | null;
  /** Whether the reader is among those it is for; whoever looks after the calendar sees others too. */
  invited: boolean;
}

export interface CalendarPage {
  dates: ShownDate[];
  /** Where the page after this one begins; null where there is none. */
  next: { startMs: number; id: number } | null;
}

/** A session as whoever looks after the calendar sees it. */
export interface SessionPage {
  id: number;
  revision: number;
  title: string;
  text: string;
  wall: string;
  zone: string;
  minutes: number;
  place: string;
  link: string;
  rule: Rule | null;
  audience: Audience;
  capacity: number | null;
  remindMinutes: number | null;
  calledOff: boolean;
  /** The calendar elsewhere that it follows, by name; null for our own. */
  followedName: string | null;
  madeBy: string | null;
  /** When, and whom it is for, in words. */
  whenWords: string;
  whomWords: string;
  /** How many it is for. */
  people: number;
  /** The dates ahead, and the last ones before. */
  dates: ShownDate[];
}

/** Somebody a date is for, with what they have said; `saidMs` in milliseconds since 1970. */
export interface Participant {
  personId: number;
  name: string;
  detail: string;
  stands: Stands | null;
  saidMs: number | null;
}

export interface ParticipantPage {
  people: Participant[];
  counts: Record<Stands | 'silent', number>;
  next: { name: string; personId: number } | null;
}

/** When the next dates would fall, and how many people it would be for. */
export interface TriedDates {
  starts: number[];
  /** Why there is none, in words; null where there is one. */
  never: string | null;
  people: number | null;
}
