import { z } from 'zod';
import type { Problem } from '../content/announcement.ts';
import { resolveMoment } from '../timing/wallTime.ts';
import { momentWords, zoneWords } from '../timing/words.ts';
import { ACKNOWLEDGEMENT, acknowledgementSchema } from './acknowledgement/acknowledgement.ts';
import { chaseWords } from './chase.ts';
import { CHECK_IN, checkInAskSchema } from './check-in/checkInAsk.ts';
import type { KindOfAsk } from './kind.ts';
import { POLL, pollAskSchema } from './poll/pollAsk.ts';

/** What an announcement wants back. */
export const askSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('nothing') }),
  acknowledgementSchema,
  pollAskSchema,
  checkInAskSchema,
]);
export type Ask = z.infer<typeof askSchema>;
/** An ask that wants something back. */
export type Asking = Exclude<Ask, { kind: 'nothing' }>;
/** An ask of one kind. */
export type AskOf<K extends Asking['kind']> = Extract<Asking, { kind: K }>;

/** The kinds of asks, each with what is so of it; where it is kept, counted and shown asks by the same names. */
const KINDS: { [K in Asking['kind']]: KindOfAsk<AskOf<K>> } = {
  acknowledgement: ACKNOWLEDGEMENT,
  poll: POLL,
  'check-in': CHECK_IN,
};

const kindOf = (ask: Asking): KindOfAsk<Asking> => KINDS[ask.kind];

export const asksOf = (ask: Ask): Asking | null => (ask.kind === 'nothing' ? null : ask);

/** Whether it stops taking answers at its deadline. */
export const closes = (ask: Ask): boolean => ask.kind !== 'nothing' && kindOf(ask).closes;

/** Whether it is asked only of those whose working day it is. */
export const ofWorkingDays = (ask: Ask): boolean => ask.kind !== 'nothing' && kindOf(ask).ofWorkingDays;

/** Whether it can be asked again of those who answered an earlier text. */
export const canAskAgain = (ask: Ask): boolean => ask.kind !== 'nothing' && kindOf(ask).asksAgain;

/** What one agrees to by answering; empty where to nothing. */
export const statementOf = (ask: Ask): string => (ask.kind === 'nothing' ? '' : kindOf(ask).statement(ask));

/** Whether one press answers it, so that a button in a notice can. */
export const answeredByOnePress = (ask: Ask): boolean =>
  ask.kind !== 'nothing' && kindOf(ask).byOnePress(ask);

/** Whether it is told to nobody who has answered while it is open, and never what. */
export const withoutNames = (ask: Ask): boolean => ask.kind !== 'nothing' && kindOf(ask).withoutNames(ask);

/** Whether it closes when everybody has answered. */
export const closesWhenAll = (ask: Ask): boolean => ask.kind !== 'nothing' && kindOf(ask).closesWhenAll(ask);

/** The boards on which what was said is put together when it closes. */
export const digestBoards = (ask: Ask): readonly number[] =>
  ask.kind === 'nothing' ? [] : kindOf(ask).digestOn(ask);

/** What should be known before so many people are asked. */
export const askWarnings = (ask: Ask, people: number): Problem[] =>
  ask.kind === 'nothing' ? [] : kindOf(ask).warnings(ask, people);

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
  const by = ask.deadline
    ? ` by ${momentWords(resolveMoment(ask.deadline).epochMs, ask.deadline.zone, nowMs)} in ${zoneWords(ask.deadline.zone)}`
    : ask.within !== null
      ? ` within ${ask.within === 1 ? 'an hour' : `${ask.within} hours`}`
      : '';
  const chase = ask.chase ? `, ${chaseWords(ask.chase)}` : '';
  return `${kindOf(ask).words(ask)}${by}${ask.joiners ? ', also those who join later' : ''}${chase}`;
}

/** What keeps an ask from going out, besides its times. */
export function askProblems(ask: Ask): Problem[] {
  if (ask.kind === 'nothing') return [];
  const problems = kindOf(ask).problems(ask);
  if (ask.chase?.from === 'before' && !hasDeadline(ask))
    problems.push({
      field: 'ask.chase',
      detail:
        'The chase counts from the deadline, and there is none. Set one, or count from when it goes out.',
    });
  return problems;
}
