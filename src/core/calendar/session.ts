import { z } from 'zod';
import { isBlank } from '../content/document.ts';
import { linkSchema } from '../content/linkSchema.ts';
import { audienceSchema } from '../audience/expression.ts';
import { ruleSchema } from '../timing/rule.ts';
import { momentSchema, wallTimeSchema } from '../timing/wallTimeSchema.ts';

/** How long before a session begins its participants may be reminded, in minutes: at most a week. */
const MOST_REMIND = 7 * 1440;

const where = {
  minutes: z
    .int('How long it lasts is a whole number of minutes')
    .min(5, 'It lasts at least 5 minutes')
    .max(7 * 1440, 'It lasts at most a week'),
  place: z.string().trim().max(200, 'A place has at most 200 characters'),
  /** An address to join by; empty for none. */
  link: z
    .string()
    .trim()
    .max(2000, 'A link has at most 2,000 characters')
    .refine(
      (link) => link === '' || linkSchema.safeParse(link).success,
      'That is no address. Write one such as https://example.org/room',
    ),
};

/**
 * A session of the calendar: what people gather for, once or again and again. Its times are of one named zone; each reader sees
 * them on their own clock.
 */
export const sessionSchema = z
  .object({
    title: z
      .string()
      .trim()
      .max(160, 'A title has at most 160 characters')
      .refine((title) => !isBlank(title), 'Say what it is'),
    text: z.string().trim().max(2000, 'What it is about has at most 2,000 characters'),
    ...momentSchema.shape,
    ...where,
    /** How it recurs; null for once. */
    rule: ruleSchema.nullable(),
    audience: audienceSchema,
    /** How many can come; null for any number. */
    capacity: z
      .int('How many can come is a whole number')
      .min(1, 'At least one can come')
      .max(100_000, 'At most 100,000; for more, set no limit')
      .nullable(),
    /** How long before it begins those are reminded who have not said no; null for not at all. */
    remindMinutes: z
      .int('A whole number of minutes is needed')
      .min(5, 'At least 5 minutes before')
      .max(MOST_REMIND, 'At most a week before')
      .nullable(),
  })
  .strict();
export type SessionInput = z.infer<typeof sessionSchema>;

/** A change of a session, over the revision that was read. */
export const sessionChangeSchema = sessionSchema.extend({ revision: z.int().positive() });

/** A change of one date of a session: when and where it is instead, with a word to those who come. */
export const dateChangeSchema = z
  .object({
    wall: wallTimeSchema,
    ...where,
    note: z.string().trim().max(300, 'A word has at most 300 characters'),
  })
  .strict();
export type DateChange = z.infer<typeof dateChangeSchema>;

export const callOffSchema = z
  .object({ note: z.string().trim().max(300, 'A word has at most 300 characters') })
  .strict();

/** What somebody may say of whether they come. */
export const SAID = ['yes', 'perhaps', 'no'] as const;
export type Said = (typeof SAID)[number];

/** What is said of one date; null takes back what was said. */
export const saidSchema = z.object({ said: z.enum(SAID).nullable() }).strict();

/** When the dates of a rule fall, asked before it is saved. */
export const tryDatesSchema = z
  .object({ ...momentSchema.shape, rule: ruleSchema.nullable(), audience: audienceSchema.nullable() })
  .strict();
