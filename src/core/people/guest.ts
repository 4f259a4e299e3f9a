import { z } from 'zod';
import { dateSchema } from '../timing/bounds.ts';

/** The last day of a guest from outside; null, or nothing written, where somebody is no guest. */
export const guestUntilSchema = z.preprocess(
  (date) => (date === '' ? null : date),
  dateSchema('2026-12-31').nullable(),
);
