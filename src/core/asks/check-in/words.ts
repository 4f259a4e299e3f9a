import type { KindWords } from '../kind.ts';

export const CHECK_IN_WORDS: KindWords = {
  deed: 'check in',
  done: 'checked in',
  youDid: 'You checked in',
  stands: 'What you said before stands.',
  until: 'Open until',
  withDeadline: 'closes at a time',
  saidAt: (occurrenceId) => `/check-ins/${occurrenceId}`,
  offered: 'A check-in: a few questions on working days',
};
