import type { Audience } from '../../core/audience/expression.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { rows, type Database } from '../database/connection.ts';
import type { Sql } from './sql.ts';
import { countPeople, isIn } from './store.ts';

const anyOf = (conditions: readonly Sql[]): Sql => ({
  sql: conditions.map(({ sql }) => `(${sql})`).join(' OR '),
  bindings: conditions.flatMap(({ bindings }) => bindings),
});

/** Which of some people any of some conditions over `people p` holds for. */
export async function whichAmong(
  db: Database,
  ids: readonly number[],
  conditions: readonly Sql[],
): Promise<Set<number>> {
  if (ids.length === 0 || conditions.length === 0) return new Set();
  const any = anyOf(conditions);
  const found = await rows<{ id: number }>(
    db,
    `SELECT p.id FROM people p WHERE p.id IN (${ids.map(() => '?').join(', ')}) AND (${any.sql})`,
    [...ids, ...any.bindings],
  );
  return new Set(found.map(({ id }) => id));
}

/** How many of an audience are in neither another one nor those that any of some conditions over `people p` holds for. */
export async function countOutside(
  db: Database,
  from: Audience,
  minus: Audience,
  now: AudienceContext,
  conditions: readonly Sql[],
): Promise<number> {
  const rest: Audience = { kind: 'except', from, minus };
  if (conditions.length === 0) return countPeople(db, rest, now);
  const [within, any] = [isIn(rest, now), anyOf(conditions)];
  const [counted] = await rows<{ n: number }>(
    db,
    `SELECT COUNT(*) AS n FROM people p WHERE p.standing <> 'left' AND (${within.sql}) AND NOT (${any.sql})`,
    [...within.bindings, ...any.bindings],
  );
  return counted?.n ?? 0;
}
