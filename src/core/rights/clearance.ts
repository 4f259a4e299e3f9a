/** Of a group that asks for clearance, this share of its people reached at once is the group reached. */
const SHARE_OF_GROUP = 0.5;
/** What reaches this share of the organisation is news for all, not something for one of its groups. */
const SHARE_OF_ALL = 0.8;

/**
 * Whether what reaches some people reaches a group, so that its wish for a second person's clearance holds: half of its people
 * or more, however the audience is said. Fewer may be reached as what else they are, somebody at a station say. What goes to
 * (nearly) the whole organisation, where nobody is singled out, does not count unless it names the group.
 *
 * @param members people in the group
 * @param among those of them who are reached
 * @param reached people reached in all
 * @param everybody people in the organisation
 */
export const reachesGroup = (counts: {
  members: number;
  among: number;
  reached: number;
  everybody: number;
}): boolean =>
  counts.among > 0 &&
  counts.among >= counts.members * SHARE_OF_GROUP &&
  counts.reached < counts.everybody * SHARE_OF_ALL;
