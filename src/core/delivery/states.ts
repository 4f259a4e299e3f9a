/** The states of a send, in the order it goes through them; the last two are where it may end instead. */
export const SEND_STATES = [
  'draft',
  'for review',
  'cleared',
  'scheduled',
  'going out',
  'sent',
  'recalled',
  'failed',
] as const;
export type SendState = (typeof SEND_STATES)[number];
/** The states of what is planned or has gone. */
export const OCCURRENCE_STATES = ['scheduled', 'going out', 'sent', 'recalled', 'failed'] as const;
export type OccurrenceState = (typeof OCCURRENCE_STATES)[number];

/** From which of its states an occurrence is moved to which, and by whom. One that is in none of them stays as it is. */
export const OCCURRENCE_MOVES = {
  /** By the engine, when it comes due or the first of it has reached somebody. */
  begin: { from: ['scheduled'], to: 'going out' },
  /** By whoever ends the last of it that was on its way. */
  finish: { from: ['going out'], to: 'sent' },
  /** By the engine, when it gives a part of it up, or finds nobody in the audience. */
  fail: { from: ['scheduled', 'going out', 'failed'], to: 'failed' },
  /** By the engine, when nobody is left whom it is for; by whoever takes it back before any of it went. */
  recall: { from: ['scheduled', 'going out'], to: 'recalled' },
  /** By whoever calls off what has not begun: it is skipped, its series ended or paused, its ask closed. */
  'call off': { from: ['scheduled'], to: 'recalled' },
  /** By whoever puts back what was skipped. */
  'plan again': { from: ['recalled'], to: 'scheduled' },
  /** By whoever has a part that was given up tried again, of which nothing had gone. */
  'begin again': { from: ['failed'], to: 'scheduled' },
  /** By whoever has a part that was given up tried again, of which some had gone. */
  'go on': { from: ['scheduled', 'sent', 'failed'], to: 'going out' },
  /** By whoever has failed mail tried again. One of which a part was given up stays failed. */
  'try mail again': { from: ['sent', 'recalled'], to: 'going out' },
} as const satisfies Record<string, { from: readonly OccurrenceState[]; to: OccurrenceState }>;
export type OccurrenceMove = keyof typeof OCCURRENCE_MOVES;

/** How a delivery travels: to a person, or as one to an outside place. A board post is none: it is for whoever comes to read. */
export const METHODS = ['inbox', 'mail', 'outside'] as const;
export type Method = (typeof METHODS)[number];

/**
 * What became of a delivery. `sending` is claimed by an engine until its lease ends; `resting` is of the inbox, until
 * the end of the reader's quiet hours; `called off` is of a chase, where they answered before it went.
 */
export const DELIVERY_STATES = [
  'waiting',
  'sending',
  'delivered',
  'failed',
  'resting',
  'called off',
] as const;
export type DeliveryState = (typeof DELIVERY_STATES)[number];
