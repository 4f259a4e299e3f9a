/**
 * Those who follow the events, each from its own place in their order: the search, the notices, the automations, and the
 * ways out. What one of them fails at is set aside under its name.
 */
export const CONSUMER_NAMES = ['finding', 'telling', 'acting', 'passing'] as const;
export type ConsumerName = (typeof CONSUMER_NAMES)[number];
