import { z } from 'zod';
import { momentSchema } from '../timing/wallTimeSchema.ts';
import { chaseSchema } from './chase.ts';

const commonSchema = z.object({
  deadline: momentSchema.nullable(),
  /** A deadline so many hours after it goes out, for what recurs. */
  within: z.int().min(1, 'At least an hour').max(2400, 'At most 100 days').nullable().default(null),
  chase: chaseSchema.nullable().default(null),
  joiners: z.boolean().default(false),
});
export type Common = z.infer<typeof commonSchema>;

/** What every ask has: until when, the chase, and whether those who join later are asked too. */
export const common = commonSchema.shape;
