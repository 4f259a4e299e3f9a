import { z } from 'zod';

/** The years that dates and times are taken of: nothing is planned, joined or looked back on outside them. */
const FIRST_YEAR = 1970;
const LAST_YEAR = 2199;
const LAST_MS = Date.UTC(LAST_YEAR + 1, 0, 1) - 1;

/** Whether a date or wall-clock time, beginning with its year, is of those years. */
export const isNear = (written: string): boolean => {
  const year = Number(written.slice(0, 4));
  return year >= FIRST_YEAR && year <= LAST_YEAR;
};

/** What is said of a date or time outside those years. */
export const FAR = `A year from ${FIRST_YEAR} to ${LAST_YEAR} is needed`;

/**
 * A calendar date, YYYY-MM-DD, of the years that are taken.
 *
 * @param example a date that would do, for what is said of anything else
 */
export const dateSchema = (example: string) =>
  z.iso.date({ error: `A date is needed, such as ${example}`, abort: true }).refine(isNear, FAR);

/** An instant in milliseconds since 1970, of the years that are taken. */
export const instantSchema = z
  .int('An instant is needed, in whole milliseconds since 1970')
  .min(0, 'An instant from 1970 on is needed')
  .max(LAST_MS, FAR);

/** The same written in an address. */
export const instantInAddress = z.coerce.number().pipe(instantSchema);
