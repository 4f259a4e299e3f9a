/** The most calls that a way in can be set to take in a minute. */
export const MOST_A_MINUTE = 600;

/** What a way in has to spend in a minute, of which each call takes a share: so finely that no whole number of calls is rounded. */
export const POINTS_A_MINUTE = 1_000_000;

/** What a call takes of it, where so many a minute are taken: that many fit, and not one more. */
export const pointsOfCall = (perMinute: number): number => Math.floor(POINTS_A_MINUTE / perMinute);
