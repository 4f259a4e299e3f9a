import type { Audience, Role, Standing } from './expression.ts';
import type { Stands } from './stands.ts';
import { UnreadableRule, type GroupDirectory } from './groups.ts';

/** What the resolver needs to know of a person. `joinedOn` is a calendar date, YYYY-MM-DD. */
export interface PersonFacts {
  id: number;
  /** Whether they are a guest from outside the organisation. */
  guest: boolean;
  stationId: number | null;
  role: Role;
  standing: Standing;
  occupation: string;
  joinedOn: string;
  fixedGroupIds: ReadonlySet<number>;
  attributes: ReadonlyMap<string, string>;
  /** The occurrences that asked something of them, with whether they have answered. */
  asked: ReadonlyMap<number, boolean>;
  /** The occurrences that have come to their inbox. */
  reached: ReadonlySet<number>;
  /** The occurrences they have opened. */
  read: ReadonlySet<number>;
  /** The occurrences whose event they signed up for. */
  signedUp: ReadonlySet<number>;
  /** What they have said of dates of the calendar. */
  said: ReadonlyMap<number, Stands>;
}

/** What the reading depends on besides the person: the groups as they are, and the UTC date it is read on. */
export interface AudienceContext {
  groups: GroupDirectory;
  today: string;
}

const DAY_MS = 86_400_000;

/** The first joining date that still counts as joined within so many days of `today`. Dates are YYYY-MM-DD. */
export function joinedSince(today: string, days: number): string {
  return new Date(Date.parse(`${today}T00:00:00Z`) - days * DAY_MS).toISOString().slice(0, 10);
}

/**
 * The plain reading of an audience: is this person in it? The database reading in the server compiles the same
 * expression to SQL; a property test holds the two together. A group that no longer exists holds nobody.
 * Somebody who has left is in no audience at all.
 *
 * A guest is in an audience only where it says so: through a fixed group, by name, as a guest, or by what has come to them
 * already. Everyone, a station, a role, an occupation and what else people are or have takes in those of the organisation alone; what
 * only narrows an audience or leaves people out of it holds for guests as for all.
 *
 * @throws UnreadableRule where it depends on a group whose rule cannot be read
 */
export function includes(audience: Audience, person: PersonFacts, now: AudienceContext): boolean {
  return person.standing !== 'left' && holds(audience, person, now);
}

/** As `includes`, but without putting aside those who have left: for telling who would otherwise be in. */
export function holds(audience: Audience, person: PersonFacts, now: AudienceContext): boolean {
  return person.guest ? takesInGuest(audience, person, now) : matches(audience, person, now);
}

/** What people are or have: it takes in those of the organisation alone, in plain code and in SQL. */
export const OF_THE_ORGANISATION: ReadonlySet<Audience['kind']> = new Set<Audience['kind']>([
  'everyone',
  'station',
  'role',
  'standing',
  'occupation',
  'joined within',
  'joined since',
  'attribute',
]);

/** Whether an audience says of a guest that they are in it. */
function takesInGuest(audience: Audience, guest: PersonFacts, now: AudienceContext): boolean {
  if (OF_THE_ORGANISATION.has(audience.kind)) return false;
  switch (audience.kind) {
    case 'group': {
      const group = now.groups.get(audience.id);
      if (group?.kind !== 'live') return matches(audience, guest, now);
      if (group.rule === null) throw new UnreadableRule(group.name);
      return takesInGuest(group.rule, guest, now);
    }
    case 'any':
      return audience.of.some((part) => takesInGuest(part, guest, now));
    case 'all':
      return matches(audience, guest, now) && audience.of.some((part) => takesInGuest(part, guest, now));
    case 'except':
      return takesInGuest(audience.from, guest, now) && !matches(audience.minus, guest, now);
    default:
      return matches(audience, guest, now);
  }
}

/** What an audience says of somebody, whether or not it takes in guests. */
function matches(audience: Audience, person: PersonFacts, now: AudienceContext): boolean {
  switch (audience.kind) {
    case 'everyone':
      return !person.guest;
    case 'guests':
      return person.guest;
    case 'group': {
      const group = now.groups.get(audience.id);
      if (!group) return false;
      if (group.kind === 'fixed') return person.fixedGroupIds.has(group.id);
      if (group.rule === null) throw new UnreadableRule(group.name);
      return matches(group.rule, person, now);
    }
    case 'station':
      return person.stationId === audience.id;
    case 'role':
      return person.role === audience.role;
    case 'standing':
      return person.standing === audience.standing;
    case 'occupation':
      return person.occupation === audience.occupation;
    case 'joined within':
      return person.joinedOn >= joinedSince(now.today, audience.days);
    case 'joined since':
      return person.joinedOn >= audience.date;
    case 'attribute':
      return person.attributes.get(audience.name) === audience.value;
    case 'answered':
      return person.asked.get(audience.occurrenceId) === audience.answered;
    case 'reached':
      return person.reached.has(audience.occurrenceId);
    case 'read':
      return person.read.has(audience.occurrenceId);
    case 'signed up':
      return person.signedUp.has(audience.occurrenceId);
    case 'session':
      return person.said.get(audience.dateId) === audience.stands;
    case 'person':
      return person.id === audience.id;
    case 'any':
      return audience.of.some((part) => matches(part, person, now));
    case 'all':
      return audience.of.every((part) => matches(part, person, now));
    case 'except':
      return matches(audience.from, person, now) && !matches(audience.minus, person, now);
  }
}
