import type { Audience } from '../../core/audience/expression.ts';
import { ROLES, STANDINGS } from '../../core/audience/expression.ts';
import type { Circumstances, PersonFacts } from '../../core/audience/includes.ts';
import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { condition, type Sql } from './sql.ts';

/** The condition for being in an audience: it holds, and they have not left. */
export function isIn(audience: Audience, now: Circumstances): Sql {
  const who = condition(audience, now);
  return { sql: `p.standing <> 'left' AND ${who.sql}`, bindings: who.bindings };
}

export interface Reach {
  people: number;
  withMail: number;
  withoutMail: number;
  mailStopped: number;
  onLeave: number;
}

/** How many people an audience holds, and how they can be reached. */
export async function countReach(db: Database, audience: Audience, now: Circumstances): Promise<Reach> {
  const who = isIn(audience, now);
  const [row] = await rows<Record<keyof Reach, string | number | null>>(
    db,
    `SELECT COUNT(*) AS people,
       SUM(p.mail IS NOT NULL) AS withMail,
       SUM(p.mail IS NULL) AS withoutMail,
       SUM(p.mail IS NOT NULL AND p.mail_stopped_at IS NOT NULL) AS mailStopped,
       SUM(p.standing = 'on leave') AS onLeave
     FROM people p WHERE ${who.sql}`,
    who.bindings,
  );
  const n = (key: keyof Reach): number => Number(row?.[key] ?? 0);
  return {
    people: n('people'),
    withMail: n('withMail'),
    withoutMail: n('withoutMail'),
    mailStopped: n('mailStopped'),
    onLeave: n('onLeave'),
  };
}

/** The first names of those in an audience for whom a further condition over `people p` holds. */
export function namesWhere(
  db: Database,
  audience: Audience,
  now: Circumstances,
  further: 'no mail' | 'mail stopped',
  most: number,
): Promise<{ id: number; name: string }[]> {
  const who = isIn(audience, now);
  const also =
    further === 'no mail' ? 'p.mail IS NULL' : 'p.mail IS NOT NULL AND p.mail_stopped_at IS NOT NULL';
  return rows(
    db,
    `SELECT p.id, p.name FROM people p WHERE ${who.sql} AND ${also} ORDER BY p.name, p.id LIMIT ?`,
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

/** What the plain reading needs to know of these people. */
export async function factsOf(db: Database, ids: readonly number[]): Promise<Map<number, PersonFacts>> {
  if (ids.length === 0) return new Map();
  const marks = ids.map(() => '?').join(', ');
  const people = await rows<{
    id: number;
    stationId: number | null;
    role: string;
    standing: string;
    occupation: string;
    joinedOn: string;
  }>(
    db,
    `SELECT id, station_id AS stationId, role, standing, occupation, DATE_FORMAT(joined_on, '%Y-%m-%d') AS joinedOn
     FROM people WHERE id IN (${marks})`,
    ids,
  );
  const memberships = await rows<{ personId: number; groupId: number }>(
    db,
    `SELECT person_id AS personId, group_id AS groupId FROM group_members WHERE person_id IN (${marks})`,
    ids,
  );
  const groups = new Map<number, Set<number>>();
  for (const { personId, groupId } of memberships) {
    const set = groups.get(personId) ?? new Set();
    set.add(groupId);
    groups.set(personId, set);
  }
  return new Map(
    people.map((person) => [
      person.id,
      {
        ...person,
        role: ROLES.find((role) => role === person.role) ?? 'member',
        standing: STANDINGS.find((standing) => standing === person.standing) ?? 'left',
        fixedGroupIds: groups.get(person.id) ?? new Set(),
      },
    ]),
  );
}
