import { dateSchema } from '../timing/bounds.ts';
import { z } from 'zod';

const date = dateSchema('2026-12-24');

/** The days of the week somebody works, 1 for Monday. */
export const workDaysSchema = z.object({
  workDays: z.array(z.int().min(1).max(7)).min(1, 'Choose one day at least').max(7),
});

const LAST_FIRST = { path: ['to'], message: 'The last day comes before the first' };

export const absenceSchema = z
  .object({ from: date, to: date })
  .refine(({ from, to }) => from <= to, LAST_FIRST);

/** An absence as it is filled in: of one day where no last day is given. */
export const awaySchema = z
  .object({ from: z.string().min(1, 'Choose the first day').pipe(date), to: z.union([z.literal(''), date]) })
  .refine(({ from, to }) => to === '' || from <= to, LAST_FIRST);

export const holidaySchema = z.object({
  on: date,
  name: z.string().trim().min(1, 'Give it a name').max(120, 'At most 120 characters'),
  /** Null: at every station. */
  stationId: z.int().positive().nullable(),
});

export interface Absence {
  id: number;
  from: string;
  to: string;
}

export interface Holiday {
  id: number;
  on: string;
  name: string;
  stationId: number | null;
  station: string | null;
}

/** When somebody works. */
export interface Working {
  workDays: number[];
  absences: Absence[];
}
