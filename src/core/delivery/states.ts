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
