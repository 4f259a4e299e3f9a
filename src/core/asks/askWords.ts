import { ACKNOWLEDGEMENT_WORDS } from './acknowledgement/words.ts';
import { CHECK_IN_WORDS } from './check-in/words.ts';
import type { KindWords } from './kind.ts';
import { POLL_WORDS } from './poll/words.ts';

export type AskKind = 'nothing' | 'acknowledgement' | 'poll' | 'check-in';
/** The kinds that want something back. */
export type AskingKind = Exclude<AskKind, 'nothing'>;

/** The words of each kind: apart from the kinds themselves, which pages that only read need not load. */
const WORDS: Record<AskingKind, KindWords> = {
  acknowledgement: ACKNOWLEDGEMENT_WORDS,
  poll: POLL_WORDS,
  'check-in': CHECK_IN_WORDS,
};

/** The kind of an ask that somebody was asked. */
export const askingKind = (kind: AskKind): AskingKind => (kind === 'nothing' ? 'acknowledgement' : kind);

/** What is said of every ask of a kind. */
export const wordsOfKind = (kind: AskingKind): KindWords => WORDS[kind];

/** What is done to answer: "acknowledge", "vote", "check in". */
export const deedWords = (kind: AskingKind): string => WORDS[kind].deed;

/** What somebody did who has answered: "acknowledged", "voted", "checked in". */
export const doneWords = (kind: AskingKind): string => WORDS[kind].done;
