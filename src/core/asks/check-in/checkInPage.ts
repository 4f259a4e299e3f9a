import type { ByQuestion, Question, Said } from './checkIn.ts';

/** A check-in as those who are in it, and those who asked, see it. Instants are milliseconds since 1970. */
export interface CheckInPage {
  occurrenceId: number;
  title: string;
  /** The date it is for: where it goes by readers' clocks, on all of them. */
  date: string;
  closesMs: number | null;
  closedMs: number | null;
  questions: Question[];
  /** The blocked on top. */
  said: Said[];
  byQuestion: ByQuestion[];
  missing: { id: number; name: string }[];
  /** How many are missing in all; `missing` holds the first of them. */
  missingCount: number;
  /** Since when it is only known how many checked in, in milliseconds since 1970, and how many did; null where it is known who. */
  forgotten: { atMs: number; answered: number } | null;
  /** Other days of the same, the latest first. */
  days: { occurrenceId: number; date: string }[];
  /** Whether who looks is asked themselves, and has answered. */
  mine: 'not asked' | 'waiting' | 'answered';
  mayClose: boolean;
  me: number;
}

export interface CheckInReply {
  id: number;
  authorId: number;
  author: string;
  text: string;
  atMs: number;
}

/** What one person said, with the thread under it. */
export interface Thread {
  said: Said;
  /** The latest in the order they were written. */
  replies: CheckInReply[];
  /** From where earlier ones begin; null where there are none. */
  earlier: number | null;
}

export interface HistoryPage {
  questions: Question[];
  said: (Said & { occurrenceId: number; date: string })[];
  people: { id: number; name: string }[];
  next: { answeredMs: number; personId: number } | null;
}
