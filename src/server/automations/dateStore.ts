import { rows, type Database } from '../database/connection.ts';
import type { Sql } from '../audience/sql.ts';

/**
 * The people of a condition over `people p` of whom a date lies on some days, each with the zone they read by; yearly, on those days
 * of any year up to then.
 *
 * @param attribute the attribute that holds the date; null for the day they joined
 */
export function peopleOnDays(
  db: Database,
  who: Sql,
  attribute: string | null,
  { first, last }: { first: string; last: string },
  yearly: boolean,
): Promise<{ id: number; date: string; zone: string }[]> {
  const days: string[] = [];
  for (let ms = Date.parse(first); ms <= Date.parse(last); ms += 86_400_000) {
    days.push(new Date(ms).toISOString().slice(5, 10));
    // A leap day comes round on the day before in other years.
    if (days.at(-1) === '02-28') days.push('02-29');
  }
  const date = attribute === null ? "DATE_FORMAT(p.joined_on, '%Y-%m-%d')" : 'a.value';
  const marks = days.map(() => '?').join(', ');
  const [when, bindings] = yearly
    ? [`${date} <= ? AND SUBSTRING(${date}, 6) IN (${marks})`, [last, ...days]]
    : attribute === null
      ? ['p.joined_on BETWEEN ? AND ?', [first, last]]
      : ['a.value BETWEEN ? AND ?', [first, last]];
  return rows(
    db,
    `SELECT p.id, ${date} AS date, p.zone FROM people p
     ${attribute === null ? '' : "JOIN person_attributes a ON a.person_id = p.id AND a.name = ? AND a.value RLIKE '^[0-9]{4}-[0-9]{2}-[0-9]{2}$'"}
     WHERE (${who.sql}) AND p.standing <> 'left' AND p.linked_to IS NULL AND ${when}`,
    [...(attribute === null ? [] : [attribute]), ...who.bindings, ...bindings],
  );
}

/** The dates that an attribute of some people holds, by the person; who has none is not among them. */
export async function datesOfPeople(
  db: Database,
  people: readonly number[],
  attribute: string,
): Promise<Map<number, string>> {
  if (people.length === 0) return new Map();
  const found = await rows<{ personId: number; value: string }>(
    db,
    `SELECT person_id AS personId, value FROM person_attributes
     WHERE name = ? AND person_id IN (${people.map(() => '?').join(', ')})`,
    [attribute, ...people],
  );
  return new Map(found.map(({ personId, value }) => [personId, value]));
}
