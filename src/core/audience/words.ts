import type { Audience } from './expression.ts';
import { UnreadableRule } from './groups.ts';
import { includes, type AudienceContext, type PersonFacts } from './includes.ts';
import { list } from '../words.ts';

/** The names an audience is read with. A name that is missing is read as what it was: a group that is gone. */
export interface AudienceNames {
  group: (id: number) => string | undefined;
  station: (id: number) => string | undefined;
  person: (id: number) => string | undefined;
  /** The title of what an occurrence said. */
  occurrence: (id: number) => string | undefined;
  /** A date of the calendar: what it is of, and when. */
  session?: ((dateId: number) => string | undefined) | undefined;
}

const SAID = {
  yes: 'come to',
  waiting: 'wait for a place at',
  perhaps: 'perhaps come to',
  no: 'do not come to',
} as const;

const dateText = (date: string): string =>
  new Intl.DateTimeFormat('en-GB', {
    day: 'numeric',
    month: 'long',
    year: 'numeric',
    timeZone: 'UTC',
  }).format(Date.parse(`${date}T00:00:00Z`));

/** An audience as it is read aloud: "Vault keyholders and Sant Elm except those on leave". */
export function audienceWords(audience: Audience, names: AudienceNames): string {
  const read = (part: Audience): string => audienceWords(part, names);
  switch (audience.kind) {
    case 'everyone':
      return 'everyone';
    case 'guests':
      return 'guests';
    case 'group':
      return names.group(audience.id) ?? 'a group that no longer exists';
    case 'station':
      return `everyone at ${names.station(audience.id) ?? 'a station that no longer exists'}`;
    case 'role':
      return `every ${audience.role}`;
    case 'standing':
      return audience.standing === 'on leave' ? 'those on leave' : `those who are ${audience.standing}`;
    case 'occupation':
      return `every ${audience.occupation}`;
    case 'joined within':
      return `those who joined in the last ${audience.days} days`;
    case 'joined since':
      return `those who joined since ${dateText(audience.date)}`;
    case 'attribute':
      return `those whose ${audience.name} is ${audience.value}`;
    case 'answered':
      return `those who ${audience.answered ? 'have answered' : 'have not answered'} “${names.occurrence(audience.occurrenceId) ?? 'something that is gone'}”`;
    case 'reached':
      return `those who got “${names.occurrence(audience.occurrenceId) ?? 'something that is gone'}”`;
    case 'read':
      return `those who have read “${names.occurrence(audience.occurrenceId) ?? 'something that is gone'}”`;
    case 'signed up':
      return `those who signed up for “${names.occurrence(audience.occurrenceId) ?? 'something that is gone'}”`;
    case 'session':
      return `those who ${SAID[audience.stands]} “${names.session?.(audience.dateId) ?? 'a session that is gone'}”`;
    case 'person':
      return names.person(audience.id) ?? 'a person who is gone';
    case 'any':
      return audience.of.length === 0 ? 'nobody' : list(audience.of.map(read), 'and');
    case 'all':
      return audience.of.length === 0
        ? 'everyone'
        : `${read(audience.of[0] ?? { kind: 'everyone' })}, only ${list(audience.of.slice(1).map(read), 'and at once')}`;
    case 'except':
      return `${read(audience.from)} except ${read(audience.minus)}`;
  }
}

/** The parts of an audience that brought this person in, each in words; empty where they are not in it. */
export function reasonsIn(
  audience: Audience,
  person: PersonFacts,
  now: AudienceContext,
  names: AudienceNames,
): string[] {
  if (!includes(audience, person, now)) return [];
  switch (audience.kind) {
    case 'any':
    case 'all':
      return [...new Set(audience.of.flatMap((part) => reasonsIn(part, person, now, names)))];
    case 'except':
      return reasonsIn(audience.from, person, now, names);
    default:
      return [audienceWords(audience, names)];
  }
}

/** As `reasonsIn`, without reasons where a group it depends on cannot be read. */
export function reasonsKnown(
  audience: Audience,
  person: PersonFacts,
  now: AudienceContext,
  names: AudienceNames,
): string[] {
  try {
    return reasonsIn(audience, person, now, names);
  } catch (error) {
    if (error instanceof UnreadableRule) return [];
    throw error;
  }
}

/** The line that answers "why did I get this", for the reader. */
export function whyWords(reasons: readonly string[], organisation: string): string {
  if (reasons.length === 0) return `You were among those it was sent to when it went out.`;
  if (reasons.includes('everyone')) return `It went to everyone in ${organisation}.`;
  return `It went to ${list(reasons, 'and')}, and you are among them.`;
}
