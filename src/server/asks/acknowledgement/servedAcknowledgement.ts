import type { Acknowledgement } from '../../../core/asks/acknowledgement/acknowledgement.ts';
import { hasDeadline, statementOf } from '../../../core/asks/ask.ts';
import { people } from '../../../core/words.ts';
import type { ServedKind } from '../kind.ts';

export const SERVED_ACKNOWLEDGEMENT: ServedKind<Acknowledgement> = {
  canChange: false,
  page: 'acknowledge',
  letter(ask) {
    const says = statementOf(ask).trim();
    if (says !== '')
      return { deed: 'Agree and acknowledge', says, choices: [], please: 'Please agree and acknowledge' };
    return {
      deed: 'Acknowledge',
      says,
      choices: [],
      please: hasDeadline(ask) ? 'Please acknowledge' : 'Please acknowledge that you have read this',
    };
  },
  box: () => Promise.resolve({ poll: null, checkIn: null }),
  // That they answered is all there is to write.
  write: () => Promise.resolve(),
  closed: () => Promise.resolve(),
  outcomeWords: (_db, _id, _ask, { answered, asked }) =>
    Promise.resolve(`${answered} of ${people(asked)} have acknowledged it.`),
};
