import { z } from 'zod';
import { liveRuleSchema } from '../audience/groups.ts';
import { isBlank } from '../content/document.ts';

const name = z
  .string('Give the group a name')
  .trim()
  .max(120, 'A name has at most 120 characters')
  .refine((text) => !isBlank(text), 'Give the group a name');

/** Most lines that are read at once; a longer list is brought in as parts. */
export const MOST_LINES = 5_000;

export const newGroupSchema = z.object({
  name,
  /** Null for a fixed group, whose people are picked by hand. */
  rule: liveRuleSchema.nullable(),
});

export const groupChangeSchema = z
  .object({ name, rule: liveRuleSchema })
  .partial()
  .refine((change) => Object.keys(change).length > 0, 'Say what to change');

/** What a group is turned into: fixed, of whoever is in it now, or live by a rule. */
export const groupKindSchema = z.discriminatedUnion(
  'kind',
  [z.object({ kind: z.literal('fixed') }), z.object({ kind: z.literal('live'), rule: liveRuleSchema })],
  'Say whether it is picked by hand or by a rule',
);

export const ruleSchema = z.object({ rule: liveRuleSchema });

/** Who is to be put into a group: people by id, and addresses or whole names, one a line. */
export const addedSchema = z.object({
  ids: z.array(z.int().positive()).max(1000).default([]),
  lines: z
    .array(z.string().max(254, 'A line has at most 254 characters'))
    .max(MOST_LINES, `At most ${MOST_LINES.toLocaleString('en-GB')} lines at once`)
    .default([]),
});
