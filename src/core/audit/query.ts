import { z } from 'zod';
import { dateSchema } from '../timing/bounds.ts';
import { SUBJECTS } from './deeds.ts';

const day = dateSchema('2026-12-24').nullable().default(null);

/** What is looked for in the audit trail; days on the reader's clock, both included. */
export const auditQuerySchema = z.object({
  search: z.string().max(100).default(''),
  subject: z.enum(SUBJECTS).nullable().default(null),
  from: day,
  to: day,
  before: z.coerce.number().int().positive().nullable().default(null),
});
