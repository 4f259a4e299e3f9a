import { z } from 'zod';
import { audienceSchema } from '../audience/expression.ts';
import { isBlank } from '../content/document.ts';
import { EVERY, MOST_CALENDAR } from './followed.ts';

const whence = {
  /** Where it is read, again and again; null for a file. */
  url: z
    .string()
    .trim()
    .max(2000, 'An address has at most 2,000 characters')
    .transform((url) => url.replace(/^webcals?:\/\//i, 'https://'))
    .refine((url) => /^https?:\/\//i.test(url) && URL.canParse(url), 'An address begins with https://')
    .nullable(),
  /** A file that is read once; null where it is read at an address. */
  text: z
    .string()
    .max(MOST_CALENDAR, 'The file is too large. Have the calendar read at its address instead')
    .nullable(),
};
const oneOf = ({ url, text }: { url: string | null; text: string | null }): boolean =>
  (url === null) !== (text === null);
const ONE = { message: 'Give the address of the calendar, or choose its file', path: ['url'] };

export const triedCalendarSchema = z.object(whence).strict().refine(oneOf, ONE);

const kept = {
  name: z
    .string()
    .trim()
    .max(80, 'A name has at most 80 characters')
    .refine((name) => !isBlank(name), 'Give it a name: whose calendar it is'),
  everyMinutes: z.int().refine((minutes) => minutes in EVERY, 'Choose how often it is read'),
  /** Whom its sessions are for. */
  audience: audienceSchema,
  remindMinutes: z
    .int()
    .min(5)
    .max(7 * 1440)
    .nullable(),
};

/** A calendar elsewhere whose events become sessions here. */
export const followedSchema = z
  .object({ ...whence, ...kept })
  .strict()
  .refine(oneOf, ONE);
export type FollowedInput = z.infer<typeof followedSchema>;

/** A change of one: where it is read, or another file, only where that changes. */
export const followedChangeSchema = z.object({ ...whence, ...kept, revision: z.int().positive() }).strict();
