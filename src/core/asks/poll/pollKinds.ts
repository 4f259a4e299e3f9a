export const POLL_KINDS = ['single', 'several', 'ranking', 'dates', 'rating', 'text', 'approval'] as const;
export type PollKind = (typeof POLL_KINDS)[number];

export const POLL_KIND_WORDS: Record<PollKind, string> = {
  single: 'one choice',
  several: 'several choices',
  ranking: 'an order of choices',
  dates: 'dates',
  rating: 'a rating',
  text: 'a short text',
  approval: 'for or against',
};

/** How an order of choices is counted. */
export const RANKING_METHODS = ['instant runoff', 'borda', 'schulze'] as const;
export type RankingMethod = (typeof RANKING_METHODS)[number];

export const RANKING_METHOD_WORDS: Record<RankingMethod, string> = {
  'instant runoff': 'Instant runoff: round by round the choice with the fewest first places goes out',
  borda: 'Points: a choice gets a point for each choice it is placed above',
  schulze: 'Pairs: each choice against each other, strongest paths (Schulze)',
};

export const MAJORITIES = ['more than half', 'two thirds', 'three quarters'] as const;
export type Majority = (typeof MAJORITIES)[number];

export const SHOWN = ['always', 'after voting', 'after closing'] as const;
export type Shown = (typeof SHOWN)[number];

export const MOST_OPTIONS = 200;
export const MOST_TEXT = 300;

export const DATE_ANSWERS = ['yes', 'if need be', 'no'] as const;
export type DateAnswer = (typeof DATE_ANSWERS)[number];
