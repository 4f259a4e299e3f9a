import { Temporal } from 'temporal-polyfill';

/** The day of the week of a date, as ISO 8601 numbers it: Monday is 1, Sunday 7. */
export const weekdayOf = (date: string): number => Temporal.PlainDate.from(date).dayOfWeek;

/** Days of the week as bits, Monday the lowest, and back. */
export const workDaysToBits = (days: readonly number[]): number =>
  [...new Set(days)].reduce((bits, day) => bits + 2 ** (day - 1), 0);
export const workDaysFromBits = (bits: number): number[] =>
  [1, 2, 3, 4, 5, 6, 7].filter((day) => Math.floor(bits / 2 ** (day - 1)) % 2 === 1);
