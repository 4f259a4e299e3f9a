import type { KindWords } from '../kind.ts';

export const ACKNOWLEDGEMENT_WORDS: KindWords = {
  deed: 'acknowledge',
  done: 'acknowledged',
  youDid: 'You acknowledged this',
  stands: 'What you said before stands.',
  until: 'Please acknowledge by',
  withDeadline: 'with a deadline',
  saidAt: null,
  offered: 'An acknowledgement: one tap that says it was read',
};
