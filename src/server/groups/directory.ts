import type { AudienceContext } from '../../core/audience/includes.ts';
import type { AudienceNames } from '../../core/audience/words.ts';
import { dateAt } from '../../core/timing/wallTime.ts';
import type { Database } from '../database/connection.ts';
import { leavesOf, type Audience } from '../../core/audience/expression.ts';
import { dateName } from '../calendar/naming.ts';
import { namedDates } from '../calendar/store.ts';
import { namesOfPeople, stations } from '../people/store.ts';
import { groupsNow, titlesOf } from './store.ts';

/** What an audience is read against: the groups as they are at this moment, and today's date. */
export async function audienceContext(db: Database): Promise<AudienceContext> {
  const { groups, nowMs } = await groupsNow(db);
  return { groups: new Map(groups.map((group) => [group.id, group])), today: dateAt(nowMs, 'UTC') };
}

const NOTHING = { groups: new Set<number>(), occurrences: new Set<number>() };

/**
 * The names an audience is read aloud with.
 *
 * @param of the audiences that will be read, for the names of the people and announcements in them
 * @param unseen what whoever reads it may not see, and is therefore not named
 */
export async function audienceNames(
  db: Database,
  now: AudienceContext,
  of: readonly (Audience | null)[] = [],
  unseen: { groups: ReadonlySet<number>; occurrences: ReadonlySet<number> } = NOTHING,
): Promise<AudienceNames> {
  const parts = of.flatMap((audience) => (audience ? leavesOf(audience) : []));
  const dates = parts.flatMap((part) => (part.kind === 'session' ? [part.dateId] : []));
  const [places, people, titles, sessions] = await Promise.all([
    stations(db),
    namesOfPeople(
      db,
      parts.flatMap((part) => (part.kind === 'person' ? [part.id] : [])),
    ),
    titlesOf(
      db,
      parts.flatMap((part) => ('occurrenceId' in part ? [part.occurrenceId] : [])),
    ),
    namedDates(db, dates),
  ]);
  const dateWords = new Map(sessions.map((date) => [date.id, dateName(date)]));
  const byId = new Map(places.map((place) => [place.id, place.name]));
  return {
    group: (id) => (unseen.groups.has(id) ? 'a group that is not yours to see' : now.groups.get(id)?.name),
    station: (id) => byId.get(id),
    person: (id) => people.get(id),
    occurrence: (id) => (unseen.occurrences.has(id) ? 'something that is not yours to see' : titles.get(id)),
    session: (id) => dateWords.get(id),
  };
}
