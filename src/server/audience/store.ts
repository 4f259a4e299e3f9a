import type { Audience } from '../../core/audience/expression.ts';
import { leavesOf, ROLES, STANDINGS } from '../../core/audience/expression.ts';
import { groupsThrough } from '../../core/audience/groups.ts';
import type { AudienceContext, PersonFacts } from '../../core/audience/includes.ts';
import type { Stands } from '../../core/audience/stands.ts';
import { idsIn, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import type { Quiet } from '../../core/timing/quiet.ts';
import { readQuiet, type QuietColumns } from '../people/store.ts';
import { condition, matching, type Sql } from './sql.ts';

/** The condition for being in an audience: it holds, they have not left, and they are nobody's linked contact. */
export function isIn(audience: Audience, now: AudienceContext): Sql {
  const who = condition(audience, now);
  return { sql: `p.standing <> 'left' AND p.linked_to IS NULL AND ${who.sql}`, bindings: who.bindings };
}

export interface Reach {
  people: number;
  withMail: number;
  withoutMail: number;
  mailStopped: number;
  onLeave: number;
  withoutStation: number;
  withoutOccupation: number;
  /** How many read by each clock: a zone, and quiet hours of their own. */
  clocks: { zone: string; quiet: Quiet | null; n: number }[];
}

type Counted = 'withMail' | 'mailStopped' | 'onLeave' | 'withoutStation' | 'withoutOccupation';

/** As `isIn`, for those of whom a further condition over `people p` holds as well. */
function isInAnd(audience: Audience, now: AudienceContext, further: Sql | undefined): Sql {
  const who = isIn(audience, now);
  return further ? inBoth(who, further) : who;
}

/** How many people an audience holds, how they can be reached, and by which clocks they read: in one pass. */
export async function countReach(
  db: Database,
  audience: Audience,
  now: AudienceContext,
  further?: Sql,
): Promise<Reach> {
  const who = isInAnd(audience, now, further);
  const found = await rows<{ zone: string; n: number } & QuietColumns & Record<Counted, string | number>>(
    db,
    `SELECT p.zone, p.quiet_from AS quietFrom, p.quiet_to AS quietTo, COUNT(*) AS n,
       SUM(p.mail IS NOT NULL) AS withMail,
       SUM(p.mail IS NOT NULL AND p.mail_stopped_at IS NOT NULL) AS mailStopped,
       SUM(p.standing = 'on leave') AS onLeave,
       SUM(p.station_id IS NULL) AS withoutStation,
       SUM(p.occupation = '') AS withoutOccupation
     FROM people p WHERE ${who.sql} GROUP BY p.zone, p.quiet_from, p.quiet_to`,
    who.bindings,
  );
  const sum = (key: Counted): number => found.reduce((total, row) => total + Number(row[key]), 0);
  const people = found.reduce((total, row) => total + row.n, 0);
  return {
    people,
    withMail: sum('withMail'),
    withoutMail: people - sum('withMail'),
    mailStopped: sum('mailStopped'),
    onLeave: sum('onLeave'),
    withoutStation: sum('withoutStation'),
    withoutOccupation: sum('withoutOccupation'),
    clocks: found.map((row) => ({ zone: row.zone, n: row.n, quiet: readQuiet(row) })),
  };
}

/** The fixed groups an audience is any of, and nothing else; null for any other. */
function groupsAlone(audience: Audience, now: AudienceContext): number[] | null {
  const parts = audience.kind === 'any' ? audience.of : [audience];
  const ids = parts.flatMap((part) =>
    part.kind === 'group' && now.groups.get(part.id)?.kind === 'fixed' ? [part.id] : [],
  );
  return ids.length > 0 && ids.length === parts.length ? ids : null;
}

/** How many are in any of some fixed groups: all their members, less those who are in no audience, or are not counted. */
async function countMembers(
  db: Database,
  groupIds: readonly number[],
  guests: 'with guests' | 'without guests',
): Promise<number> {
  const counted = groupIds.length === 1 ? 'COUNT(*)' : 'COUNT(DISTINCT m.person_id)';
  const [members, out] = await Promise.all([
    rows<{ n: number }>(
      db,
      `SELECT ${counted} AS n FROM group_members m WHERE m.group_id IN (${marks(groupIds)})`,
      groupIds,
    ),
    rows<{ n: number }>(
      db,
      `SELECT COUNT(DISTINCT m.person_id) AS n
       FROM (SELECT id FROM people WHERE standing = 'left' UNION SELECT id FROM people WHERE linked_to IS NOT NULL
         ${guests === 'with guests' ? '' : 'UNION SELECT id FROM people WHERE guest_until IS NOT NULL'}) p
         JOIN group_members m ON m.person_id = p.id WHERE m.group_id IN (${marks(groupIds)})`,
      groupIds,
    ),
  ]);
  return (members[0]?.n ?? 0) - (out[0]?.n ?? 0);
}

/**
 * How many people an audience holds, and no more: for the figure that follows as it is changed.
 *
 * Who is left out is counted by itself, beside those it is taken from, and members of groups are counted where they are
 * listed: among 100,000 people the one condition over everybody took 64 to 73 ms, and these take 35 to 45.
 */
export async function countPeople(db: Database, audience: Audience, now: AudienceContext): Promise<number> {
  const groups = groupsAlone(audience, now);
  if (groups) return countMembers(db, groups, 'with guests');
  if (audience.kind === 'except') {
    const { from, minus } = audience;
    const left = from.kind === 'everyone' ? groupsAlone(minus, now) : null;
    const [whole, less] = await Promise.all([
      countPeople(db, from, now),
      left
        ? countMembers(db, left, 'without guests')
        : countThose(db, inBoth(isIn(from, now), matching(minus, now))),
    ]);
    return whole - less;
  }
  return countThose(db, isIn(audience, now));
}

const inBoth = (who: Sql, further: Sql): Sql => ({
  sql: `${who.sql} AND ${further.sql}`,
  bindings: [...who.bindings, ...further.bindings],
});

async function countThose(db: Database, who: Sql): Promise<number> {
  // Looked up one by one: MariaDB prefers to write the members of groups into a table first, which takes twice as long.
  const [row] = await rows<{ n: number }>(
    db,
    `SET STATEMENT optimizer_switch = 'materialization=off' FOR SELECT COUNT(*) AS n FROM people p WHERE ${who.sql}`,
    who.bindings,
  );
  return row?.n ?? 0;
}

/** How many linked contacts an audience has, and how many of them can be copied in by mail. */
export async function countContacts(
  db: Database,
  audience: Audience,
  now: AudienceContext,
  further?: Sql,
): Promise<{ all: number; byMail: number }> {
  const who = isInAnd(audience, now, further);
  const [row] = await rows<{ all: number; byMail: string | null }>(
    db,
    `SELECT COUNT(*) AS \`all\`, SUM(c.mail IS NOT NULL AND c.mail_stopped_at IS NULL) AS byMail
     FROM people c JOIN people p ON p.id = c.linked_to WHERE c.standing <> 'left' AND ${who.sql}`,
    who.bindings,
  );
  return { all: row?.all ?? 0, byMail: Number(row?.byMail ?? 0) };
}

/** A condition over `people p`: mail to their address comes back. */
export const MAIL_FAILS = 'p.mail_failing IS NOT NULL AND p.mail_failing = p.mail';

const FURTHER = {
  anybody: 'TRUE',
  'no mail': 'p.mail IS NULL',
  'mail stopped': 'p.mail IS NOT NULL AND p.mail_stopped_at IS NOT NULL',
  'mail comes back': MAIL_FAILS,
  'no station': 'p.station_id IS NULL',
  'no occupation': "p.occupation = ''",
} as const;

/** Whether a condition over `people p` holds of somebody, also of one who has left. */
export const holdsOf = async (db: Database, id: number, { sql, bindings }: Sql): Promise<boolean> =>
  (await rows(db, `SELECT 1 FROM people p WHERE p.id = ? AND ${sql}`, [id, ...bindings])).length > 0;

/** Whether anybody is in an audience. */
export async function isAnybodyIn(db: Database, audience: Audience, now: AudienceContext): Promise<boolean> {
  const who = isIn(audience, now);
  return (await rows(db, `SELECT 1 FROM people p WHERE ${who.sql} LIMIT 1`, who.bindings)).length > 0;
}

/** The first names of those in an audience for whom a further condition over `people p` holds. */
export function namesWhere(
  db: Database,
  audience: Audience,
  now: AudienceContext,
  further: keyof typeof FURTHER,
  most: number,
  also?: Sql,
): Promise<{ id: number; name: string }[]> {
  const who = isInAnd(audience, now, also);
  return rows(
    db,
    `SELECT p.id, p.shown_name AS name FROM people p WHERE ${who.sql} AND ${FURTHER[further]} ORDER BY p.name, p.id LIMIT ?`,
    [...who.bindings, most],
  );
}

/** Those of hand-picked groups who have left: somebody may still expect them to be reached. */
export function leftFrom(
  db: Database,
  groupIds: number[],
  most: number,
): Promise<{ id: number; name: string; leftMs: number | null }[]> {
  if (groupIds.length === 0) return Promise.resolve([]);
  return rows(
    db,
    `SELECT DISTINCT p.id, p.name, ${ms('p.left_at')} AS leftMs
     FROM people p JOIN group_members m ON m.person_id = p.id
     WHERE p.standing = 'left' AND m.group_id IN (${groupIds.map(() => '?').join(', ')})
     ORDER BY p.name, p.id LIMIT ?`,
    [...groupIds, most],
  );
}

/** Everything an audience looks at, through the rules of the live groups it names. */
export function lookedAt(audience: Audience, now: AudienceContext): Audience[] {
  const rules = groupsThrough(audience, now.groups).flatMap((id) => {
    const group = now.groups.get(id);
    return group?.kind === 'live' && group.rule !== null ? leavesOf(group.rule) : [];
  });
  return [...leavesOf(audience), ...rules];
}

const marks = (values: readonly unknown[]): string => values.map(() => '?').join(', ');

function gathered<T extends { personId: number }, K, V>(
  found: readonly T[],
  entry: (row: T) => [K, V],
): Map<number, Map<K, V>> {
  const byPerson = new Map<number, Map<K, V>>();
  for (const row of found) {
    const map = byPerson.get(row.personId) ?? new Map<K, V>();
    map.set(...entry(row));
    byPerson.set(row.personId, map);
  }
  return byPerson;
}

/** What was noted of some people that the parts of an audience look at; nothing of what none of them asks for. */
function factRows(db: Database, ids: readonly number[], parts: ReturnType<typeof lookedAt>) {
  const named = (kind: 'answered' | 'reached' | 'read' | 'signed up'): number[] =>
    parts.flatMap((part) => (part.kind === kind ? [part.occurrenceId] : []));
  const dates = parts.flatMap((part) => (part.kind === 'session' ? [part.dateId] : []));
  return Promise.all([
    rows<{
      id: number;
      stationId: number | null;
      role: string;
      standing: string;
      occupation: string;
      joinedOn: string;
      guest: number;
      groups: string | null;
    }>(
      db,
      `SELECT id, guest_until IS NOT NULL AS guest, station_id AS stationId, role, standing, occupation, DATE_FORMAT(joined_on, '%Y-%m-%d') AS joinedOn,
         (SELECT JSON_ARRAYAGG(m.group_id) FROM group_members m WHERE m.person_id = people.id) AS \`groups\`
       FROM people WHERE id IN (${marks(ids)}) AND linked_to IS NULL`,
      ids,
    ),
    parts.some((part) => part.kind === 'attribute')
      ? rows<{ personId: number; name: string; value: string }>(
          db,
          `SELECT person_id AS personId, name, value FROM person_attributes WHERE person_id IN (${marks(ids)})`,
          ids,
        )
      : [],
    named('answered').length > 0
      ? rows<{ personId: number; occurrenceId: number; answered: number }>(
          db,
          `SELECT person_id AS personId, occurrence_id AS occurrenceId, answered_at IS NOT NULL AS answered FROM roll
           WHERE person_id IN (${marks(ids)}) AND occurrence_id IN (${marks(named('answered'))})`,
          [...ids, ...named('answered')],
        )
      : [],
    named('reached').length > 0
      ? rows<{ personId: number; occurrenceId: number }>(
          db,
          `SELECT person_id AS personId, occurrence_id AS occurrenceId FROM deliveries
           WHERE person_id IN (${marks(ids)}) AND occurrence_id IN (${marks(named('reached'))}) AND method = 'inbox'
             AND state = 'delivered'`,
          [...ids, ...named('reached')],
        )
      : [],
    named('read').length > 0
      ? rows<{ personId: number; occurrenceId: number }>(
          db,
          `SELECT person_id AS personId, occurrence_id AS occurrenceId FROM deliveries
           WHERE person_id IN (${marks(ids)}) AND occurrence_id IN (${marks(named('read'))}) AND method = 'inbox'
             AND read_at IS NOT NULL`,
          [...ids, ...named('read')],
        )
      : [],
    named('signed up').length > 0
      ? rows<{ personId: number; occurrenceId: number }>(
          db,
          `SELECT w.id AS personId, u.occurrence_id AS occurrenceId FROM (
             SELECT p.id, p.mail FROM people p WHERE p.id IN (${marks(ids)})
             UNION SELECT a.person_id, a.mail FROM person_addresses a WHERE a.person_id IN (${marks(ids)})) w
           JOIN sign_ups u ON u.mail = w.mail WHERE u.occurrence_id IN (${marks(named('signed up'))})`,
          [...ids, ...ids, ...named('signed up')],
        )
      : [],
    dates.length > 0
      ? rows<{ personId: number; dateId: number; stands: Stands }>(
          db,
          `SELECT person_id AS personId, date_id AS dateId, stands FROM session_answers
           WHERE person_id IN (${marks(ids)}) AND date_id IN (${marks(dates)})`,
          [...ids, ...dates],
        )
      : [],
  ]);
}

/**
 * What the plain reading of an audience needs to know of these people, and no more: years of answers are not read for
 * an audience that asks for none.
 */
export async function factsOf(
  db: Database,
  ids: readonly number[],
  audience: Audience,
  now: AudienceContext,
): Promise<Map<number, PersonFacts>> {
  if (ids.length === 0) return new Map();
  const [people, attributes, asked, reached, read, signedUp, said] = await factRows(
    db,
    ids,
    lookedAt(audience, now),
  );
  const attributesOf = gathered(attributes, (row) => [row.name, row.value]);
  const askedOf = gathered(asked, (row) => [row.occurrenceId, row.answered === 1]);
  const reachedBy = gathered(reached, (row) => [row.occurrenceId, true]);
  const readBy = gathered(read, (row) => [row.occurrenceId, true]);
  const saidBy = gathered(said, (row) => [row.dateId, row.stands]);
  const comes = gathered(signedUp, (row) => [row.occurrenceId, true]);
  return new Map(
    people.map(({ groups, ...person }) => [
      person.id,
      {
        ...person,
        guest: person.guest === 1,
        role: ROLES.find((role) => role === person.role) ?? 'member',
        standing: STANDINGS.find((standing) => standing === person.standing) ?? 'left',
        fixedGroupIds: new Set(idsIn(groups)),
        attributes: attributesOf.get(person.id) ?? new Map<string, string>(),
        asked: askedOf.get(person.id) ?? new Map<number, boolean>(),
        reached: new Set(reachedBy.get(person.id)?.keys()),
        read: new Set(readBy.get(person.id)?.keys()),
        signedUp: new Set(comes.get(person.id)?.keys()),
        said: saidBy.get(person.id) ?? new Map<number, Stands>(),
      },
    ]),
  );
}

/** How many of an audience a further condition over `people p` holds for, with the first names. */
export async function countWhere(
  db: Database,
  audience: Audience,
  now: AudienceContext,
  further: Sql,
  most: number,
): Promise<{ n: number; names: string[] }> {
  const who = isIn(audience, now);
  const where = `FROM people p WHERE ${who.sql} AND ${further.sql}`;
  const bindings = [...who.bindings, ...further.bindings];
  const [[counted], named] = await Promise.all([
    rows<{ n: number }>(db, `SELECT COUNT(*) AS n ${where}`, bindings),
    rows<{ name: string }>(db, `SELECT p.shown_name AS name ${where} ORDER BY p.name, p.id LIMIT ?`, [
      ...bindings,
      most,
    ]),
  ]);
  return { n: counted?.n ?? 0, names: named.map((person) => person.name) };
}

/** Those of some people who are in an audience. */
export async function peopleAmong(
  db: Database,
  ids: readonly number[],
  audience: Audience,
  now: AudienceContext,
): Promise<Set<number>> {
  if (ids.length === 0) return new Set();
  const who = isIn(audience, now);
  const found = await rows<{ id: number }>(
    db,
    `SELECT p.id FROM people p WHERE p.id IN (${ids.map(() => '?').join(', ')}) AND ${who.sql}`,
    [...ids, ...who.bindings],
  );
  return new Set(found.map((row) => row.id));
}
