import { z } from 'zod';
import { audienceTextSchema, PEOPLE_ORDERS, SHOWN_PEOPLE } from './together.ts';

/** Which people a page lists, as its address says; what it says wrongly is as if it said nothing. */
export const peopleInAddress = z.object({
  search: z.string().max(100).catch(''),
  shown: z.enum(SHOWN_PEOPLE).catch('all'),
  order: z.enum(PEOPLE_ORDERS).catch('name'),
  turned: z.enum(['yes', '']).catch(''),
  audience: audienceTextSchema.nullable().catch(null),
});
