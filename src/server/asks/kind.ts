import { z } from 'zod';
import type { Asking } from '../../core/asks/ask.ts';
import type { AskBox } from '../../core/asks/box.ts';
import type { Database } from '../database/connection.ts';
import type { LetterAsk } from '../mail/letter.tsx';
import type { Problem } from '../problem.ts';
import type { Occurrence } from '../sends/occurrenceStore.ts';

/** Who looks at what is asked of them. */
export interface Reader {
  id: number;
  zone: string;
}

/** What somebody answers; which part counts depends on what is asked. Of an acknowledgement nothing is needed. */
export const answerSchema = z.object({
  choices: z.array(z.int()).max(200).optional(),
  ranking: z.array(z.int()).max(200).optional(),
  answers: z.record(z.string(), z.union([z.string(), z.number()])).optional(),
  rating: z.int().optional(),
  text: z.string().max(2000).optional(),
});
export type Answer = z.infer<typeof answerSchema>;
export type Via = 'page' | 'mail' | 'push';

/** An answer to an ask as it was read for it, on its way to the roll. */
export interface Given<A extends Asking = Asking> {
  ask: A;
  secret: string;
  personId: number;
  given: Answer;
  via: Via;
}

/** How far an ask is for one reader. */
export interface BoxState {
  answered: boolean;
  closed: boolean;
  asked: number;
  nowMs: number;
}

/** How the asks of one kind are kept, counted and told; `A` is an ask of that kind. */
export interface ServedKind<A extends Asking> {
  /** Whether an answer can be changed while it is open; otherwise the first one stands, and again changes nothing. */
  canChange: boolean;
  /** Which page a letter leads to. */
  page: 'acknowledge' | 'answer';
  /** How it is put in a letter. */
  letter(ask: A): LetterAsk;
  /** The part of its box that is of this kind. */
  box(
    db: Database,
    secret: string,
    reader: Reader,
    occurrence: Occurrence,
    ask: A,
    state: BoxState,
  ): Promise<Pick<AskBox, 'poll' | 'checkIn'>>;
  /**
   * Writes what was answered, besides that it was. What cannot count is put among the refused with its reason.
   *
   * @param isFirst whether somebody has not answered before
   */
  write(
    trx: Database,
    occurrenceId: number,
    given: readonly Given<A>[],
    isFirst: (of: Given<A>) => boolean,
    refused: Map<Given, Problem>,
  ): Promise<void>;
  /** Does what follows its closing, once. */
  closed(trx: Database, occurrence: Occurrence, ask: A): Promise<void>;
  /** What has come of it, as everybody may be told. */
  outcomeWords(
    db: Database,
    occurrenceId: number,
    ask: A,
    state: { asked: number; answered: number; closed: boolean; zone: string },
  ): Promise<string>;
}
