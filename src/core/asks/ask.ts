import { z } from 'zod';
import type { Problem } from '../content/announcement.ts';
import { resolveMoment } from '../timing/wallTime.ts';
import { momentSchema } from '../timing/wallTimeSchema.ts';
import { momentWords, zoneWords } from '../timing/words.ts';
import { count } from '../words.ts';
import { chaseSchema, chaseWords } from './chase.ts';
import { checkInProblems, MOST_QUESTIONS, questionSchema } from './checkIn.ts';
import { pollProblems, pollSchema } from './poll.ts';
import { DEED } from './askWords.ts';

/** What every ask has: until when, the chase, and whether those who join later are asked too. */
const common = {
  deadline: momentSchema.nullable(),
  /** A deadline so many hours after it goes out, for what recurs. */
  within: z.int().min(1, 'At least an hour').max(2400, 'At most 100 days').nullable().default(null),
  chase: chaseSchema.nullable().default(null),
  joiners: z.boolean().default(false),
};

/**
 * What an announcement wants back. The deadline of an acknowledgement is a wish: a late one counts. A poll and a check-in
 * close with it, and what has been answered stands.
 */
export const askSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('nothing') }),
  z.object({
    kind: z.literal('acknowledgement'),
    ...common,
    /** What one agrees to by acknowledging; empty where one only says that one has read it. */
    statement: z.string().max(600, 'At most 600 characters').default(''),
  }),
  z.object({ kind: z.literal('poll'), ...common, poll: pollSchema }),
  z.object({
    kind: z.literal('check-in'),
    ...common,
    questions: z.array(questionSchema).max(MOST_QUESTIONS, `At most ${MOST_QUESTIONS} questions`),
    /** The boards on which what was said is put together when it closes. */
    digestOn: z.array(z.int().positive()).max(20).default([]),
  }),
]);
export type Ask = z.infer<typeof askSchema>;
/** An ask that wants something back. */
export type Asking = Exclude<Ask, { kind: 'nothing' }>;

export const asksOf = (ask: Ask): Asking | null => (ask.kind === 'nothing' ? null : ask);

/** Whether it stops taking answers at its deadline. */
export const closes = (ask: Ask): boolean => ask.kind === 'poll' || ask.kind === 'check-in';

/** Whether it is asked only of those whose working day it is. */
export const ofWorkingDays = (ask: Ask): boolean => ask.kind === 'check-in';

/**
 * The instant of an ask's deadline, or null.
 *
 * @param lastMs when the last reader gets it: by readers' clocks that is up to a day after the first one does, and nobody
 *   is to be asked after it has closed
 */
export function deadlineOf(ask: Ask, lastMs: number): number | null {
  if (ask.kind === 'nothing') return null;
  if (ask.deadline) return resolveMoment(ask.deadline).epochMs;
  return ask.within === null ? null : lastMs + ask.within * 3_600_000;
}

export const hasDeadline = (ask: Ask): boolean =>
  ask.kind !== 'nothing' && (ask.deadline !== null || ask.within !== null);

/** An ask as a phrase of the sentence: "agree and acknowledge by 12:00 on Friday 4 December in London". */
export function askWords(ask: Asking, nowMs: number): string {
  const deed =
    ask.kind === 'acknowledgement' && ask.statement.trim() !== ''
      ? 'agree and acknowledge'
      : ask.kind === 'poll'
        ? `vote on “${ask.poll.question.trim() || 'a question that is not written yet'}”${ask.poll.anonymous ? ' without their names' : ''}`
        : ask.kind === 'check-in'
          ? `check in with ${count(ask.questions.length, 'answer', 'answers')} on their working days`
          : DEED[ask.kind];
  const by = ask.deadline
    ? ` by ${momentWords(resolveMoment(ask.deadline).epochMs, ask.deadline.zone, nowMs)} in ${zoneWords(ask.deadline.zone)}`
    : ask.within !== null
      ? ` within ${ask.within === 1 ? 'an hour' : `${ask.within} hours`}`
      : '';
  const chase = ask.chase ? `, ${chaseWords(ask.chase)}` : '';
  return `${deed}${by}${ask.joiners ? ', also those who join later' : ''}${chase}`;
}

/** What keeps an ask from going out, besides its times. */
export function askProblems(ask: Ask): Problem[] {
  if (ask.kind === 'nothing') return [];
  const problems: Problem[] =
    ask.kind === 'poll'
      ? pollProblems(ask.poll)
      : ask.kind === 'check-in'
        ? checkInProblems(ask.questions)
        : [];
  if (ask.chase?.from === 'before' && !hasDeadline(ask))
    problems.push({
      field: 'ask.chase',
      detail:
        'The chase counts from the deadline, and there is none. Set one, or count from when it goes out.',
    });
  if (ask.kind === 'check-in' && !hasDeadline(ask))
    problems.push({
      field: 'ask.within',
      detail: 'A check-in closes some hours after it is asked. Say after how many.',
    });
  return problems;
}

export type Acknowledgement = Extract<Ask, { kind: 'acknowledgement' }>;

/** An acknowledgement with nothing to agree to, no deadline and no chase, but for what is given. */
export const acknowledgement = (given: Partial<Omit<Acknowledgement, 'kind'>> = {}): Acknowledgement => ({
  kind: 'acknowledgement',
  deadline: null,
  within: null,
  chase: null,
  joiners: false,
  statement: '',
  ...given,
});
