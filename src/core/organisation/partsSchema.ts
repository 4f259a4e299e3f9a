import { z } from 'zod';

export const archiveKeySchema = z.string().regex(/^[A-Za-z0-9_-]{22}$/, 'Choose the archive again');

export const partsChoiceSchema = z.object({
  parts: z
    .array(
      z.object({
        key: z.string().regex(/^[a-z]{1,20}:\d{1,15}$/),
        /** As what it was shown; where it is something else meanwhile, nothing is brought in. */
        state: z.enum(['new', 'changed', 'clash']),
        /** Whether it comes in beside the one of its name that is here. */
        beside: z.boolean(),
      }),
    )
    .min(1, 'Choose what is to be brought in')
    .max(5_000),
});
export type PartsChoice = z.infer<typeof partsChoiceSchema>;
