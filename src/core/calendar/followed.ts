import type { Audience } from '../audience/expression.ts';

/** How often a calendar may be read, in minutes, in words. */
export const EVERY: Record<number, string> = {
  5: 'every 5 minutes',
  15: 'every quarter of an hour',
  60: 'every hour',
  1440: 'every day',
};

/** The most characters of a calendar that is brought in as a file. */
export const MOST_CALENDAR = 900_000;

/** A calendar that is followed, as whoever looks after the calendar sees it. Instants in milliseconds since 1970. */
export interface FollowedCalendar {
  id: number;
  revision: number;
  name: string;
  url: string | null;
  everyMinutes: number;
  audience: Audience;
  remindMinutes: number | null;
  whomWords: string;
  madeBy: string | null;
  /** How many of its sessions have a date ahead. */
  sessions: number;
  readMs: number | null;
  nextMs: number | null;
  /** Why it could not be read; null where it could. */
  trouble: string | null;
  warnings: string[];
}

/** What is in a calendar, before it is brought in. */
export interface TriedCalendar {
  name: string;
  sessions: { title: string; startMs: number; zone: string; dates: number }[];
  /** How many have a date ahead; the first are listed. */
  total: number;
  warnings: string[];
}
