import { z } from 'zod';
import { identitySchema } from './identity.ts';

/** Lines of a list of identities that are looked at or brought in at once. */
export const MOST_IDENTITIES = 5_000;

/** A list of what people are called in a system, to be looked at, or to be kept. */
export const bringIdentitiesSchema = z
  .object({
    system: identitySchema.shape.system,
    rows: z
      .array(
        z
          .object({
            /** The line of the file, so that it can be told where it is. */
            line: z.int().positive(),
            /** A mail address of the person, or the whole name of exactly one. */
            who: z.string().max(400),
            value: z.string().max(400),
          })
          .strict(),
      )
      .min(1, 'The list is empty')
      .max(
        MOST_IDENTITIES,
        `At most ${MOST_IDENTITIES.toLocaleString('en-GB')} lines are brought in at once. Part the list`,
      ),
    /** Whether they are kept, or only looked at. */
    keep: z.boolean(),
  })
  .strict();

/** A line that is not brought in, with why. */
export interface LeftOutLine {
  line: number;
  who: string;
  value: string;
  why: string;
}

/** What becomes of a list: how many are new, are there already, and are left out; the first of those, each with why. */
export interface BroughtIdentities {
  made: number;
  there: number;
  leftOut: number;
  told: LeftOutLine[];
}
