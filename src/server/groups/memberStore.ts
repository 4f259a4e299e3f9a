import type { Sql } from '../audience/sql.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** Whoever can be in a group: here, and no linked contact. */
const HERE = "p.standing <> 'left' AND p.linked_to IS NULL";

/**
 * People for whom a condition over `people p` holds, by what they are sorted by, after the last one of the page before.
 *
 * @param after `name` is what that one is sorted by
 */
export function peopleWhere(
  db: Database,
  who: Sql,
  after: { name: string; id: number } | null,
  most: number,
): Promise<{ id: number; name: string; sorted: string; station: string | null }[]> {
  return rows(
    db,
    `SELECT p.id, p.shown_name AS name, p.sorted, s.name AS station FROM people p LEFT JOIN stations s ON s.id = p.station_id
     WHERE (${who.sql}) AND ${HERE} AND (? IS NULL OR (p.sorted, p.id) > (?, ?)) ORDER BY p.sorted, p.id LIMIT ?`,
    [...who.bindings, after?.id ?? null, after?.name ?? '', after?.id ?? 0, most],
  );
}

/** Which of some conditions over `people p` hold for one person, in their order; none for somebody who has left. */
export async function whichHold(
  db: Database,
  personId: number,
  conditions: readonly Sql[],
): Promise<boolean[]> {
  const [found] = await rows<Record<string, number>>(
    db,
    `SELECT ${conditions.map(({ sql }, at) => `(${sql}) AS c${at}`).join(', ')} FROM people p WHERE p.id = ? AND ${HERE}`,
    [...conditions.flatMap(({ bindings }) => bindings), personId],
  );
  return conditions.map((_, at) => found?.[`c${at}`] === 1);
}

/** How many are in each fixed group that anybody is in. */
export async function countMembers(db: Database): Promise<Map<number, number>> {
  const found = await rows<{ id: number; n: number }>(
    db,
    `SELECT m.group_id AS id, COUNT(*) AS n FROM group_members m JOIN people p ON p.id = m.person_id WHERE ${HERE} GROUP BY m.group_id`,
  );
  return new Map(found.map(({ id, n }) => [id, n]));
}

/** How many conditions are counted in one pass over the people. */
const AT_ONCE = 25;

/** For how many people each of some conditions over `people p` holds, in their order; counted together, not one after the other. */
export async function countEach(db: Database, conditions: readonly Sql[]): Promise<number[]> {
  const counts: number[] = [];
  for (let from = 0; from < conditions.length; from += AT_ONCE) {
    const some = conditions.slice(from, from + AT_ONCE);
    const [found] = await rows<Record<string, number>>(
      db,
      `SELECT ${some.map(({ sql }, at) => `COUNT(IF(${sql}, 1, NULL)) AS c${at}`).join(', ')} FROM people p WHERE ${HERE}`,
      some.flatMap(({ bindings }) => bindings),
    );
    counts.push(...some.map((_, at) => found?.[`c${at}`] ?? 0));
  }
  return counts;
}

export async function countWhoIs(db: Database, who: Sql): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    `SELECT COUNT(*) AS n FROM people p WHERE (${who.sql}) AND ${HERE}`,
    who.bindings,
  );
  return row?.n ?? 0;
}

/**
 * Puts people into a fixed group; gives those who were not in it. Unknown ids and those who have left are passed over. Call
 * it with the group locked.
 */
export async function insertMembers(
  db: Database,
  groupId: number,
  ids: readonly number[],
): Promise<number[]> {
  if (ids.length === 0) return [];
  const joining = await rows<{ id: number }>(
    db,
    `SELECT p.id FROM people p WHERE ${HERE} AND p.id IN (${ids.map(() => '?').join(', ')})
       AND NOT EXISTS (SELECT 1 FROM group_members m WHERE m.group_id = ? AND m.person_id = p.id)`,
    [...ids, groupId],
  );
  if (joining.length > 0)
    await change(
      db,
      `INSERT INTO group_members (group_id, person_id) VALUES ${joining.map(() => '(?, ?)').join(', ')}`,
      joining.flatMap((row) => [groupId, row.id]),
    );
  return joining.map((row) => row.id);
}

/** Puts everybody into a fixed group for whom a condition over `people p` holds. */
export async function insertThose(db: Database, groupId: number, who: Sql): Promise<void> {
  await change(
    db,
    `INSERT INTO group_members (group_id, person_id) SELECT ?, p.id FROM people p WHERE (${who.sql}) AND ${HERE}`,
    [groupId, ...who.bindings],
  );
}

export async function deleteAllMembers(db: Database, groupId: number): Promise<void> {
  await change(db, 'DELETE FROM group_members WHERE group_id = ?', [groupId]);
}

/** Takes people out of a fixed group; gives those who were in it. */
export async function deleteMembers(
  db: Database,
  groupId: number,
  ids: readonly number[],
): Promise<number[]> {
  if (ids.length === 0) return [];
  const marks = ids.map(() => '?').join(', ');
  const found = await rows<{ id: number }>(
    db,
    `SELECT person_id AS id FROM group_members WHERE group_id = ? AND person_id IN (${marks})`,
    [groupId, ...ids],
  );
  await change(db, `DELETE FROM group_members WHERE group_id = ? AND person_id IN (${marks})`, [
    groupId,
    ...ids,
  ]);
  return found.map((row) => row.id);
}

export async function deleteMember(db: Database, groupId: number, personId: number): Promise<boolean> {
  return (
    (await change(db, 'DELETE FROM group_members WHERE group_id = ? AND person_id = ?', [
      groupId,
      personId,
    ])) === 1
  );
}

/** Whose mail address, or else whose whole name, each of some texts is; several where it is several people's. */
export async function peopleCalled(db: Database, texts: readonly string[]): Promise<Map<string, number[]>> {
  const found = new Map<string, number[]>();
  for (let i = 0; i < texts.length; i += 500) {
    const some = texts.slice(i, i + 500);
    const marks = some.map(() => '?').join(', ');
    const byMail = await rows<{ id: number; mail: string | null; name: string }>(
      db,
      `SELECT p.id, p.mail, p.name FROM people p WHERE ${HERE} AND (p.mail IN (${marks}) OR p.name IN (${marks}))
       UNION ALL SELECT p.id, a.mail, p.name FROM person_addresses a JOIN people p ON p.id = a.person_id
       WHERE ${HERE} AND a.mail IN (${marks})`,
      [...some, ...some, ...some],
    );
    const key = (text: string): string => text.normalize('NFKC').toLowerCase();
    for (const text of some) {
      const mine = byMail.filter((row) => key(row.mail ?? '') === key(text));
      const named = mine.length > 0 ? mine : byMail.filter((row) => key(row.name) === key(text));
      found.set(text, [...new Set(named.map((row) => row.id))]);
    }
  }
  return found;
}
