import { z } from 'zod';
import { audienceSchema } from '../audience/expression.ts';
import { dateSchema } from '../timing/bounds.ts';
import { aboutSchema } from './joining.ts';
import { isBlank } from '../content/document.ts';

const name = z
  .string('Give the group a name')
  .trim()
  .max(120, 'A name has at most 120 characters')
  .refine((text) => !isBlank(text), 'Give the group a name');

/** Most lines that are read at once; a longer list is brought in as parts. */
export const MOST_LINES = 5_000;

export const newGroupSchema = z
  .object({
    name,
    /** Null for a fixed group, whose people are picked by hand. */
    rule: audienceSchema.nullable(),
    /** Of a fixed group: whoever is in this audience at the moment is put in; null is nobody yet. */
    begin: audienceSchema.nullable().default(null),
  })
  .refine(({ rule, begin }) => rule === null || begin === null, {
    path: ['begin'],
    message: 'A group by a rule is filled by its rule. Leave one of the two out.',
  });

/** What a group is called, and what it is for. */
export const namedSchema = z.object({ name, about: aboutSchema });

export const groupChangeSchema = z
  .object({ name, rule: audienceSchema, about: aboutSchema })
  .partial()
  .refine((change) => Object.keys(change).length > 0, 'Say what to change');

/** What a group is turned into: fixed, of whoever is in it now, or live by a rule. */
export const groupKindSchema = z.discriminatedUnion(
  'kind',
  [z.object({ kind: z.literal('fixed') }), z.object({ kind: z.literal('live'), rule: audienceSchema })],
  'Say whether it is picked by hand or by a rule',
);

/** A rule to be tried, as it is now or as it would be on another date. */
export const ruleTrialSchema = z.object({
  rule: audienceSchema,
  /** YYYY-MM-DD; null is today. */
  on: dateSchema('2027-05-01').nullable().default(null),
});

/** Who is to be put into a group: people by id, and addresses or whole names, one a line. */
export const addedSchema = z.object({
  ids: z.array(z.int().positive()).max(1000).default([]),
  lines: z
    .array(z.string().max(254, 'A line has at most 254 characters'))
    .max(MOST_LINES, `At most ${MOST_LINES.toLocaleString('en-GB')} lines at once`)
    .default([]),
});
