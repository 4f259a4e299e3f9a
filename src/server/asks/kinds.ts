import type { Ask, Asking, AskOf } from '../../core/asks/ask.ts';
import type { LetterAsk } from '../mail/letter.tsx';
import { SERVED_ACKNOWLEDGEMENT } from './acknowledgement/servedAcknowledgement.ts';
import { SERVED_CHECK_IN } from './check-in/servedCheckIn.ts';
import type { ServedKind } from './kind.ts';
import { SERVED_POLL } from './poll/servedPoll.ts';

/** The kinds of asks by what is kept of them, as `core/asks/ask.ts` has them by what is so of them. */
const KINDS: { [K in Asking['kind']]: ServedKind<AskOf<K>> } = {
  acknowledgement: SERVED_ACKNOWLEDGEMENT,
  poll: SERVED_POLL,
  'check-in': SERVED_CHECK_IN,
};

/** How the asks of a kind are kept, counted and told. */
export const servedKind = (ask: Asking): ServedKind<Asking> => KINDS[ask.kind];

/** How an ask is put in a letter: one choice as a button each, anything else behind one button. */
export const letterAsk = (ask: Ask): LetterAsk | null =>
  ask.kind === 'nothing' ? null : servedKind(ask).letter(ask);
