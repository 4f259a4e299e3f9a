import { z } from 'zod';
import { dateSchema } from '../timing/bounds.ts';

/** When somebody is on leave: civil dates on their own clock, both included; no last one is until further notice. */
export const leaveSchema = z
  .object({ from: dateSchema('2026-03-09'), until: dateSchema('2026-09-01').nullable() })
  .strict()
  .refine(({ from, until }) => until === null || until >= from, {
    path: ['until'],
    message: 'The last day is the first or a later one',
  });
export type Leave = z.infer<typeof leaveSchema>;
