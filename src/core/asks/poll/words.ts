import type { KindWords } from '../kind.ts';

export const POLL_WORDS: KindWords = {
  deed: 'vote',
  done: 'voted',
  youDid: 'You voted',
  stands: 'What you voted before stands.',
  until: 'Open for votes until',
  withDeadline: 'closes at a time',
  saidAt: null,
  offered: 'A poll: one question, and what they choose',
};
