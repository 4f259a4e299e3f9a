import type { Moment } from '../core/timing/wallTime.ts';

/** What an ask of the demo is laid out around. */
export interface AskTimes {
  /** So many hours after it goes out. */
  by: (hours: number) => Moment;
  /** A date so many days from today, at an hour in a zone. */
  at: (days: number, time: string, zone: string) => Moment;
  board: (name: string) => number;
}
