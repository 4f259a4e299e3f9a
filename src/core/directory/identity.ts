import { z } from 'zod';

/** What somebody is called in another system: a handle, a number or a name, unique in its system. */
export const identitySchema = z.object({
  system: z
    .string()
    .trim()
    .min(1, 'Name the system, such as “loans”')
    .max(40, 'The name of a system has at most 40 characters'),
  value: z.string().trim().min(1, 'Write what they are called there').max(200, 'At most 200 characters'),
});

/** Somebody's identity in a system, as their page shows it. */
export interface Identity {
  id: number;
  system: string;
  value: string;
}

/**
 * A handle as it is matched: one form of Unicode (NFKC), letters of either size alike, no space around it, and no @ before
 * it. Dots, plus-parts and everything else count: nothing is guessed.
 */
export const foldHandle = (value: string): string =>
  value.trim().normalize('NFKC').toLowerCase().replace(/^@/, '');
