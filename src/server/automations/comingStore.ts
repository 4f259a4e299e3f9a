import type { Sql } from '../audience/sql.ts';
import { change, isDuplicate, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

const HERE = "p.standing <> 'left' AND p.linked_to IS NULL";

/**
 * Notes who is in a group now and was not, and who was and is not any more, in set operations.
 *
 * @param who a condition over `people p` for being in it
 * @param firstLook whether those found are in it already, and have not just come
 * @returns the ids of the comings that were new, and of those that ended
 */
export async function noteComings(
  db: Database,
  groupId: number,
  who: Sql,
  firstLook: boolean,
): Promise<{ came: number[]; went: number[] }> {
  const [last] = await rows<{ id: number | null }>(db, 'SELECT MAX(id) AS id FROM group_comings');
  const ended = await rows<{ id: number }>(
    db,
    `SELECT c.id FROM group_comings c JOIN people p ON p.id = c.person_id
     WHERE c.group_id = ? AND c.is_in = 1 AND NOT (${HERE} AND (${who.sql})) FOR UPDATE SKIP LOCKED`,
    [groupId, ...who.bindings],
  );
  if (ended.length > 0)
    await change(
      db,
      `UPDATE group_comings SET went_at = NOW(3) WHERE id IN (${ended.map(() => '?').join(', ')}) AND is_in = 1`,
      ended.map((row) => row.id),
    );
  // The unique key keeps a second engine from noting the same coming.
  const inserted = await change(
    db,
    `INSERT INTO group_comings (group_id, person_id, first_look)
     SELECT ?, p.id, ? FROM people p WHERE ${HERE} AND (${who.sql})
       AND NOT EXISTS (SELECT 1 FROM group_comings c WHERE c.group_id = ? AND c.person_id = p.id AND c.is_in = 1)
     ON DUPLICATE KEY UPDATE group_comings.id = group_comings.id`,
    [groupId, firstLook, ...who.bindings, groupId],
  );
  const came =
    inserted === 0
      ? []
      : await rows<{ id: number }>(
          db,
          'SELECT id FROM group_comings WHERE group_id = ? AND id > ? AND first_look = FALSE ORDER BY id',
          [groupId, last?.id ?? 0],
        );
  return { came: firstLook ? [] : came.map((row) => row.id), went: ended.map((row) => row.id) };
}

/** Forgets what was noted of groups nobody watches any more, so that they are looked at anew when somebody does. */
export async function forgetUnwatched(db: Database, watched: readonly number[]): Promise<void> {
  const others = watched.length === 0 ? 'TRUE' : `group_id NOT IN (${watched.map(() => '?').join(', ')})`;
  await change(db, `DELETE FROM watched_groups WHERE ${others}`, watched);
  await change(db, `DELETE FROM group_comings WHERE is_in = 1 AND ${others}`, watched);
}

/** Begins to watch a group; false where it is watched already. Of several at once one begins. */
export async function beginWatching(db: Database, groupId: number): Promise<boolean> {
  try {
    return (
      (await change(
        db,
        `INSERT INTO watched_groups (group_id) SELECT ? FROM DUAL
         WHERE NOT EXISTS (SELECT 1 FROM watched_groups w WHERE w.group_id = ?)`,
        [groupId, groupId],
      )) === 1
    );
  } catch (error) {
    if (isDuplicate(error)) return false;
    throw error;
  }
}

/** The people of some comings. */
export async function peopleOfComings(
  db: Database,
  ids: readonly number[],
): Promise<{ id: number; personId: number }[]> {
  if (ids.length === 0) return [];
  return rows(
    db,
    `SELECT id, person_id AS personId FROM group_comings WHERE id IN (${ids.map(() => '?').join(', ')}) ORDER BY id`,
    ids,
  );
}

/** Who came into a group in a period of time, or went out of it, in order. */
export function comingsBetween(
  db: Database,
  groupId: number,
  { fromMs, toMs }: { fromMs: number; toMs: number },
  which: 'came' | 'went',
  most: number,
): Promise<{ personId: number; atMs: number }[]> {
  const column = which === 'came' ? 'came_at' : 'went_at';
  return rows(
    db,
    `SELECT person_id AS personId, ${ms(column)} AS atMs FROM group_comings
     WHERE group_id = ? AND ${column} >= ? AND ${column} < ? AND NOT (? = 'came' AND first_look) ORDER BY ${column} LIMIT ?`,
    [groupId, new Date(fromMs), new Date(toMs), which, most],
  );
}

/** The last place given to an event: where it has not moved, nothing has happened since. */
export async function lastPlace(db: Database): Promise<number> {
  const [row] = await rows<{ position: number }>(
    db,
    "SELECT position FROM event_positions WHERE name = 'last'",
  );
  return row?.position ?? 0;
}
