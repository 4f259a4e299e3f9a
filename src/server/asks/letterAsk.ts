import { hasDeadline, type Ask } from '../../core/asks/ask.ts';
import { optionsOf } from '../../core/asks/poll.ts';
import type { LetterAsk } from '../mail/letter.tsx';

/** More buttons than this in a mail are a list to scroll; the page behind its one button shows them better. */
const MOST_BUTTONS = 10;

/** How an ask is put in a letter: one choice as a button each, anything else behind one button. */
export function letterAsk(ask: Ask): LetterAsk | null {
  switch (ask.kind) {
    case 'nothing':
      return null;
    case 'acknowledgement': {
      const says = ask.statement.trim();
      return says === ''
        ? {
            deed: 'Acknowledge',
            says,
            choices: [],
            please: hasDeadline(ask) ? 'Please acknowledge' : 'Please acknowledge that you have read this',
          }
        : { deed: 'Agree and acknowledge', says, choices: [], please: 'Please agree and acknowledge' };
    }
    case 'check-in':
      return { deed: 'Check in', says: '', choices: [], please: 'Please check in' };
    case 'poll': {
      const { poll } = ask;
      const choices =
        poll.kind === 'single' || poll.kind === 'approval'
          ? optionsOf(poll).map((option) => ({ id: option.id, words: option.label }))
          : poll.kind === 'rating'
            ? Array.from({ length: poll.scale }, (_, i) => ({ id: i + 1, words: String(i + 1) }))
            : [];
      return {
        deed: 'Vote',
        says: poll.question.trim(),
        choices: choices.length <= MOST_BUTTONS ? choices : [],
        please: poll.anonymous ? 'Please vote; your name is not kept with your vote' : 'Please vote',
      };
    }
  }
}
