/** What a moderator decides on a post. */
export const DECISIONS = [
  'approve',
  'return',
  'decline',
  'hide',
  'show',
  'delete',
  'lock',
  'unlock',
] as const;
export type ModeratorDecision = (typeof DECISIONS)[number];
