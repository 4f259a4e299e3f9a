import { rows, type Database } from '../database/connection.ts';
import type { Sql } from '../audience/sql.ts';

/**
 * The people of a condition over `people p` who joined on some days, each with the zone they read by; yearly, on those days
 * of any year up to then.
 */
export function joinedOnDays(
  db: Database,
  who: Sql,
  { first, last }: { first: string; last: string },
  yearly: boolean,
): Promise<{ id: number; joinedOn: string; zone: string }[]> {
  const days: string[] = [];
  for (let ms = Date.parse(first); ms <= Date.parse(last); ms += 86_400_000) {
    days.push(new Date(ms).toISOString().slice(5, 10));
    // Who joined on a leap day has it on the day before in other years.
    if (days.at(-1) === '02-28') days.push('02-29');
  }
  const [when, bindings] = yearly
    ? [
        `p.joined_on <= ? AND DATE_FORMAT(p.joined_on, '%m-%d') IN (${days.map(() => '?').join(', ')})`,
        [last, ...days],
      ]
    : ['p.joined_on BETWEEN ? AND ?', [first, last]];
  return rows(
    db,
    `SELECT p.id, DATE_FORMAT(p.joined_on, '%Y-%m-%d') AS joinedOn, p.zone FROM people p
     WHERE (${who.sql}) AND p.standing <> 'left' AND p.linked_to IS NULL AND ${when}`,
    [...who.bindings, ...bindings],
  );
}
