import { z } from 'zod';
import { isNear } from '../timing/bounds.ts';

/** A month as it stands in an address: YYYY-MM (ISO 8601). */
export const monthSchema = z
  .string()
  .regex(/^\d{4}-(0[1-9]|1[0-2])$/, 'A month is needed, such as 2026-11')
  .refine(isNear, 'A year from 1970 to 2199 is needed');
