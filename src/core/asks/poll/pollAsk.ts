import { z } from 'zod';
import { common } from '../common.ts';
import type { KindOfAsk } from '../kind.ts';
import { LEAST_SHOWN } from './breakdown.ts';
import { pollProblems, pollSchema } from './poll.ts';

/** One question, and what they choose. It closes at its deadline, and what was voted stands. */
export const pollAskSchema = z.object({ kind: z.literal('poll'), ...common, poll: pollSchema });
export type PollAsk = z.infer<typeof pollAskSchema>;

export const POLL: KindOfAsk<PollAsk> = {
  closes: true,
  ofWorkingDays: false,
  words: ({ poll }) =>
    `vote on “${poll.question.trim() || 'a question that is not written yet'}”${poll.anonymous ? ' without their names' : ''}`,
  problems: ({ poll }) => pollProblems(poll),
  asksAgain: false,
  statement: () => '',
  byOnePress: () => false,
  withoutNames: ({ poll }) => poll.anonymous,
  closesWhenAll: ({ poll }) => poll.closesWhenAll,
  digestOn: () => [],
  warnings: ({ poll }, people) =>
    poll.anonymous && people < LEAST_SHOWN
      ? [
          {
            field: 'ask.poll.anonymous',
            detail: `Fewer than ${LEAST_SHOWN} are asked. The result of a poll without names shows only if ${LEAST_SHOWN} have voted.`,
          },
        ]
      : [],
};
