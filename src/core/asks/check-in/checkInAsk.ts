import { z } from 'zod';
import { count } from '../../words.ts';
import { common } from '../common.ts';
import type { KindOfAsk } from '../kind.ts';
import { checkInProblems, MOST_QUESTIONS, questionSchema } from './checkIn.ts';

/** A few questions on working days. It closes some hours after it is asked, and what was said stands. */
export const checkInAskSchema = z.object({
  kind: z.literal('check-in'),
  ...common,
  questions: z.array(questionSchema).max(MOST_QUESTIONS, `At most ${MOST_QUESTIONS} questions`),
  /** The boards on which what was said is put together when it closes. */
  digestOn: z.array(z.int().positive()).max(20).default([]),
});
export type CheckInAsk = z.infer<typeof checkInAskSchema>;

export const CHECK_IN: KindOfAsk<CheckInAsk> = {
  closes: true,
  ofWorkingDays: true,
  words: ({ questions }) =>
    `check in with ${count(questions.length, 'answer', 'answers')} on their working days`,
  problems: ({ questions, deadline, within }) => [
    ...checkInProblems(questions),
    ...(deadline === null && within === null
      ? [
          {
            field: 'ask.within',
            detail: 'A check-in closes some hours after it is asked. Say after how many.',
          },
        ]
      : []),
  ],
  asksAgain: false,
  statement: () => '',
  byOnePress: () => false,
  withoutNames: () => false,
  closesWhenAll: () => false,
  digestOn: ({ digestOn }) => digestOn,
  warnings: () => [],
};
