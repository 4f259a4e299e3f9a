import type { Sql } from '../audience/sql.ts';
import type { Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notify, idList, type Telling } from './store.ts';

/** Most people who are named to live updates one by one. */
const MOST_NAMED = 100;

/** Tells some people of something, of those a condition holds for, and has their open pages look again. */
export async function notifyPeople(
  db: Database,
  people: readonly number[],
  telling: Telling,
  where?: Sql,
): Promise<void> {
  if (people.length === 0) return;
  const named = idList(people);
  const who = where
    ? { sql: `(${named.sql}) AND (${where.sql})`, bindings: [...named.bindings, ...where.bindings] }
    : named;
  if ((await notify(db, who, telling)) > 0)
    await emit(db, 'person.notified', {
      people: people.slice(0, MOST_NAMED),
      many: people.length > MOST_NAMED,
    });
}

/** Tells everybody a condition over `people p` holds for, and has open pages look again. */
export async function notifyEverybody(db: Database, who: Sql, telling: Telling): Promise<void> {
  if ((await notify(db, who, telling)) > 0) await emit(db, 'person.notified', { people: [], many: true });
}
