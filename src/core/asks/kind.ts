import type { Problem } from '../content/announcement.ts';

/** What is so of every ask of one kind, and what one of them says; `A` is an ask of that kind. */
export interface KindOfAsk<A> {
  /** Whether it stops taking answers at its deadline; otherwise a late one counts. */
  closes: boolean;
  /** Whether it is asked only of those whose working day it is. */
  ofWorkingDays: boolean;
  /** Whether it can be asked again of those who answered an earlier text. */
  asksAgain: boolean;
  /** It as a phrase of the sentence, without its times: "check in with 3 answers on their working days". */
  words(ask: A): string;
  /** What keeps it from going out, besides its times and its chase. */
  problems(ask: A): Problem[];
  /** What one agrees to by answering; empty where to nothing. */
  statement(ask: A): string;
  /** Whether one press answers it, so that a button in a notice can. */
  byOnePress(ask: A): boolean;
  /** Whether it is told to nobody who has answered while it is open, and never what. */
  withoutNames(ask: A): boolean;
  /** Whether it closes when everybody has answered. */
  closesWhenAll(ask: A): boolean;
  /** The boards on which what was said is put together when it closes. */
  digestOn(ask: A): readonly number[];
  /** What should be known before so many people are asked, in words by field. */
  warnings(ask: A, people: number): Problem[];
}

/** What is said of every ask of a kind. */
export interface KindWords {
  /** What is done to answer: "acknowledge". */
  deed: string;
  /** What somebody did who has answered: "acknowledged". */
  done: string;
  /** What was asked, as it is told to whoever answered it, before its instant: "You acknowledged this". */
  youDid: string;
  /** What stands when it has closed, as told to whoever answered. */
  stands: string;
  /** Before the instant of its deadline, as told to who is asked. */
  until: string;
  /** How a deadline is chosen where it is written. */
  withDeadline: string;
  /** What it is, where one chooses among kinds. */
  offered: string;
  /** Where what everybody said is read; null where an answer says nothing more than that it came, or is counted. */
  saidAt: ((occurrenceId: number) => string) | null;
}
