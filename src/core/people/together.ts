import { z } from 'zod';
import { audienceSchema } from '../audience/expression.ts';

const id = z.int().positive();

/** Most people something is done to at once. */
export const MOST_TOGETHER = 1_000;

/** One thing done to several people. The last two take back what the ones before them did. */
export const togetherSchema = z.object({
  ids: z
    .array(id)
    .min(1, 'Choose somebody')
    .max(MOST_TOGETHER, `Choose at most ${MOST_TOGETHER} people at once`),
  act: z.discriminatedUnion(
    'kind',
    [
      z.object({ kind: z.literal('leave') }),
      z.object({ kind: z.literal('return') }),
      z.object({ kind: z.literal('into group'), groupId: id }),
      z.object({ kind: z.literal('out of group'), groupId: id }),
      z.object({ kind: z.literal('to station'), stationId: id.nullable() }),
      z.object({
        kind: z.literal('back to stations'),
        stations: z.array(z.object({ id, stationId: id.nullable() })).max(MOST_TOGETHER),
      }),
    ],
    'Say what to do with them',
  ),
});
export type Together = z.infer<typeof togetherSchema>;

/** Whom it changed, and at which station each of them was before. */
export interface TogetherOutcome {
  changed: number[];
  before: { id: number; stationId: number | null }[];
}

/** Which people of the directory are listed, and in which order. */
export const SHOWN_PEOPLE = ['all', 'here', 'left', 'not in yet', 'guests', 'mail comes back'] as const;
export type ShownPeople = (typeof SHOWN_PEOPLE)[number];
/** By name, or by something else and then by name; `joined` has those who joined last first. */
export const PEOPLE_ORDERS = ['name', 'station', 'occupation', 'joined'] as const;
export type PeopleOrder = (typeof PEOPLE_ORDERS)[number];

/** An audience as JSON in a query; a text that is none is refused with its field. */
export const audienceTextSchema = z
  .string()
  .max(20_000)
  .transform((text, context) => {
    try {
      const read = audienceSchema.safeParse(JSON.parse(text));
      if (read.success) return read.data;
    } catch {
      // Told below, as whatever else is no audience.
    }
    context.addIssue({ code: 'custom', message: 'That is no audience. Build it anew.' });
    return z.NEVER;
  });

/** Which people of the directory are asked for, as a query says it. */
export const peopleAskedSchema = z.object({
  search: z.string().max(100).default(''),
  shown: z.enum(SHOWN_PEOPLE).default('all'),
  audience: audienceTextSchema.nullable().default(null),
});
