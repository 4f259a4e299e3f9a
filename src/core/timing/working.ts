import { Temporal } from 'temporal-polyfill';

/** The days of the week somebody works, as ISO 8601 numbers: Monday is 1, Sunday 7. */
export type WorkDays = readonly number[];

export const USUAL_WORK_DAYS: WorkDays = [1, 2, 3, 4, 5];

/** The day of the week of a date, 1 for Monday. */
export const weekdayOf = (date: string): number => Temporal.PlainDate.from(date).dayOfWeek;

/** Work days as bits, Monday the lowest, and back. */
export const workDaysToBits = (days: WorkDays): number =>
  [...new Set(days)].reduce((bits, day) => bits + 2 ** (day - 1), 0);
export const workDaysFromBits = (bits: number): number[] =>
  [1, 2, 3, 4, 5, 6, 7].filter((day) => Math.floor(bits / 2 ** (day - 1)) % 2 === 1);

export interface Worker {
  workDays: WorkDays;
  /** First and last day away, both included. */
  absences: readonly { from: string; to: string }[];
  /** Dates nobody at their station works. */
  holidays: readonly string[];
}

/** Why somebody does not work on a date, or null where they do. */
export function restsOn(date: string, worker: Worker): string | null {
  if (worker.absences.some((absence) => absence.from <= date && date <= absence.to)) return 'away that day';
  if (worker.holidays.includes(date)) return 'a holiday there';
  if (!worker.workDays.includes(weekdayOf(date))) return 'not a working day of theirs';
  return null;
}
