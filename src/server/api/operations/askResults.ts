import { z } from 'zod';
import { POLL_KINDS } from '../../../core/asks/poll/pollKinds.ts';
import { optionSchema } from '../../../core/asks/poll/poll.ts';
import { decide } from '../../../core/rights/decide.ts';
import { addOption, askedBy } from '../../asks/answering.ts';
import { openResults } from '../../asks/results.ts';
import { operationsAbout } from '../operation.ts';
import { at, id, instant } from '../shapes.ts';

const asks = operationsAbout('Asks');

const count = z.object({ option: id, votes: z.int() });

const pollAnswer = z.object({
  question: z.string(),
  kind: z.enum(POLL_KINDS),
  /** Whether it is a poll without names. */
  anonymous: z.boolean(),
  options: z.array(z.object({ id, words: z.string(), addedBy: z.string().nullable() })),
  /** Why nothing of the outcome may be seen yet; null where it may. */
  hidden: z.string().nullable(),
  /** What came of it, in a sentence. */
  words: z.string().nullable(),
  outcome: z
    .object({
      voted: z.int(),
      /** Of choices by option; of an order, first places; of a rating, by its number. */
      counts: z.array(count),
      dates: z.array(z.object({ option: id, yes: z.int(), maybe: z.int(), no: z.int() })).nullable(),
      rating: z.object({ mean: z.number(), median: z.number() }).nullable(),
      texts: z.array(z.object({ text: z.string(), times: z.int() })).nullable(),
      /** Of a poll that orders its options: all of them, the first one first, and by which method. */
      order: z.object({ method: z.string(), options: z.array(id) }).nullable(),
      /** The options that are ahead; several where they stand equal and no rule settles it. */
      leading: z.array(id),
      /** How a tie was settled, or that it was not; null where there was none. */
      tie: z.string().nullable(),
    })
    .nullable(),
  /** By station; null of orders and texts. Of a poll without names, small ones are put together. */
  stations: z
    .array(z.object({ name: z.string(), asked: z.int(), answered: z.int(), counts: z.array(count) }))
    .nullable(),
});

const counts = (of: readonly { id: number; n: number }[]): z.input<typeof count>[] =>
  of.map(({ id: option, n: votes }) => ({ option, votes }));

export const ASK_RESULTS = [
  asks('GET /asks/{id}/results', {
    id: 'readResults',
    scope: 'asks:read',
    summary: 'What came of an ask: of a poll its outcome, of all how the answers came',
    description: 'While a poll without names is open, when each vote came is told to nobody.',
    answer: z.object({
      poll: pollAnswer.nullable(),
      /** How many had answered in all at the end of each period since it went out. */
      curve: z.array(z.object({ at: instant, answered: z.int() })),
      /** What was asked before in the same send or series, and how many had answered when as much time had passed. */
      before: z
        .object({ id, title: z.string(), asked: z.int(), answered: z.int(), answeredByThen: z.int() })
        .nullable(),
    }),
    run: async ({ db, actor, zone, id: of }) => {
      const { poll, curve, before } = await openResults(db, { actor, zone }, of());
      const outcome = poll?.outcome;
      return {
        body: {
          poll: poll && {
            question: poll.question,
            kind: poll.kind,
            anonymous: poll.anonymous,
            options: poll.options,
            hidden: poll.hidden,
            words: poll.words,
            outcome: outcome
              ? {
                  voted: outcome.voted,
                  counts: counts(outcome.counts),
                  dates:
                    outcome.dates && outcome.dates.map(({ id: option, ...votes }) => ({ option, ...votes })),
                  rating: outcome.rating,
                  texts: outcome.texts && outcome.texts.map(({ vote: text, n: times }) => ({ text, times })),
                  order: outcome.ranking && {
                    method: outcome.ranking.methodWords,
                    options: outcome.ranking.order,
                  },
                  leading: outcome.leading,
                  tie: outcome.tie,
                }
              : null,
            stations:
              poll.breakdown &&
              poll.breakdown.rows.map((row) => ({
                name: row.name,
                asked: row.asked,
                answered: row.answered,
                counts: counts(row.counts),
              })),
          },
          curve: curve.map(({ atMs, answered }) => ({ at: at(atMs), answered })),
          before: before && {
            id: before.occurrenceId,
            title: before.title,
            asked: before.asked,
            answered: before.answered,
            answeredByThen: before.answeredByThen,
          },
        },
      };
    },
  }),
  asks('POST /asks/{id}/options', {
    id: 'addOption',
    scope: 'announcements:send',
    summary: 'Add an option to a poll that has gone out',
    description: 'Its author may, and where the poll lets them those who are asked.',
    body: optionSchema,
    answer: z.object({ id }),
    makes: true,
    run: async ({ db, actor, body, id: of }) => {
      const { occurrence } = await askedBy(db, of());
      const right = decide(actor, { kind: 'see send', authorId: occurrence.createdBy });
      return { body: { id: await addOption(db, actor.id, of(), body, right.outcome === 'allowed') } };
    },
  }),
];
