import type { Role } from '../../core/audience/expression.ts';
import { change, rows, type Database } from '../database/connection.ts';

const AT_ONCE = 1_000;

export async function inParts<T>(all: readonly T[], work: (some: T[]) => Promise<void>): Promise<void> {
  for (let at = 0; at < all.length; at += AT_ONCE) await work(all.slice(at, at + AT_ONCE));
}

const marks = (all: readonly unknown[]): string => all.map(() => '?').join(', ');

export interface LockedPerson {
  id: number;
  name: string;
  role: Role;
  left: boolean;
  stationId: number | null;
}

/** Holds people until the transaction ends; ids of nobody and of linked contacts are passed over. */
export async function lockPeople(db: Database, ids: readonly number[]): Promise<LockedPerson[]> {
  if (ids.length === 0) return [];
  const found = await rows<Omit<LockedPerson, 'left'> & { left: number }>(
    db,
    `SELECT id, name, role, standing = 'left' AS \`left\`, station_id AS stationId FROM people
     WHERE id IN (${marks(ids)}) AND linked_to IS NULL AND erased_at IS NULL ORDER BY id FOR UPDATE`,
    ids,
  );
  return found.map((row) => ({ ...row, left: row.left === 1 }));
}

export interface PersonToAdd {
  name: string;
  sortName: string;
  greeting: string;
  mail: string | null;
  stationId: number | null;
  occupation: string;
  zone: string;
  /** YYYY-MM-DD, or null for today. */
  joinedOn: string | null;
}

/** Adds people; gives their ids in the order they were given. */
export async function insertPeople(db: Database, people: readonly PersonToAdd[]): Promise<number[]> {
  const ids: number[] = [];
  await inParts(people, async (some) => {
    const made = await rows<{ id: number }>(
      db,
      `INSERT INTO people (name, sort_name, greeting, mail, station_id, occupation, zone, joined_on)
       VALUES ${some.map(() => '(?, ?, ?, ?, ?, ?, ?, COALESCE(?, CURRENT_DATE))').join(', ')} RETURNING id`,
      some.flatMap((each) => [
        each.name,
        each.sortName,
        each.greeting,
        each.mail,
        each.stationId,
        each.occupation,
        each.zone,
        each.joinedOn,
      ]),
    );
    // One statement takes its ids one after the other, in the order of its rows.
    ids.push(...made.map((row) => row.id).sort((a, b) => a - b));
  });
  return ids;
}

/** The columns of a person that a list can change. */
export interface PersonColumns {
  id: number;
  name?: string;
  sortName?: string;
  greeting?: string;
  mail?: string | null;
  stationId?: number | null;
  occupation?: string;
  zone?: string;
  joinedOn?: string;
}

/** Changes people, each in the columns given. Two can exchange their mail addresses. */
export async function updatePeople(db: Database, people: readonly PersonColumns[]): Promise<void> {
  const moving = people.filter((each) => each.mail !== undefined && each.mail !== null);
  await inParts(moving, async (some) => {
    await change(
      db,
      `UPDATE people SET mail = NULL WHERE id IN (${marks(some)})`,
      some.map((each) => each.id),
    );
  });
  const columns = ['name', 'sort_name', 'greeting', 'mail', 'station_id', 'occupation', 'zone', 'joined_on'];
  const set = columns
    .map((column) => `p.${column} = IF(j.has_${column}, j.${column}, p.${column})`)
    .join(', ');
  await inParts(people, async (some) => {
    await change(
      db,
      `UPDATE people p JOIN JSON_TABLE(?, '$[*]' COLUMNS (id BIGINT PATH '$.id',
         name VARCHAR(160) PATH '$.name', has_name BOOLEAN EXISTS PATH '$.name',
         sort_name VARCHAR(160) PATH '$.sortName', has_sort_name BOOLEAN EXISTS PATH '$.sortName',
         greeting VARCHAR(80) PATH '$.greeting', has_greeting BOOLEAN EXISTS PATH '$.greeting',
         mail VARCHAR(254) PATH '$.mail', has_mail BOOLEAN EXISTS PATH '$.mail',
         station_id BIGINT PATH '$.stationId', has_station_id BOOLEAN EXISTS PATH '$.stationId',
         occupation VARCHAR(80) PATH '$.occupation', has_occupation BOOLEAN EXISTS PATH '$.occupation',
         zone VARCHAR(64) PATH '$.zone', has_zone BOOLEAN EXISTS PATH '$.zone',
         joined_on DATE PATH '$.joinedOn', has_joined_on BOOLEAN EXISTS PATH '$.joinedOn')) j ON j.id = p.id
       SET ${set}`,
      [JSON.stringify(some)],
    );
  });
}

export async function setAttributes(
  db: Database,
  found: readonly { personId: number; name: string; value: string }[],
): Promise<void> {
  const empty = found.filter((each) => each.value === '');
  await inParts(empty, async (some) => {
    await change(
      db,
      `DELETE FROM person_attributes WHERE (person_id, name) IN (${some.map(() => '(?, ?)').join(', ')})`,
      some.flatMap((each) => [each.personId, each.name]),
    );
  });
  await inParts(
    found.filter((each) => each.value !== ''),
    async (some) => {
      await db('person_attributes')
        .insert(some.map((each) => ({ person_id: each.personId, name: each.name, value: each.value })))
        .onConflict(['person_id', 'name'])
        .merge(['value']);
    },
  );
}

/** Marks people as left, ends their sessions and withdraws what would let them in; or marks them as back. */
export async function setAllLeft(db: Database, ids: readonly number[], left: boolean): Promise<void> {
  await inParts(ids, async (some) => {
    const places = marks(some);
    if (!left) {
      await change(db, `UPDATE people SET standing = 'active', left_at = NULL WHERE id IN (${places})`, some);
      return;
    }
    await change(db, `UPDATE people SET standing = 'left', left_at = NOW(3) WHERE id IN (${places})`, some);
    await change(db, `DELETE FROM devices WHERE person_id IN (${places})`, some);
    await change(db, `DELETE FROM sessions WHERE person_id IN (${places})`, some);
    await change(
      db,
      `UPDATE access_letters SET withdrawn_at = NOW(3), state = IF(state IN ('waiting', 'sending'), 'called off', state)
       WHERE person_id IN (${places}) AND kind <> 'told' AND used_at IS NULL AND withdrawn_at IS NULL`,
      some,
    );
  });
}

/** Those of some people whom something has reached or who have come in: their going would take more with it than their name. */
export async function touched(db: Database, ids: readonly number[]): Promise<Set<number>> {
  const found = new Set<number>();
  await inParts(ids, async (some) => {
    const places = marks(some);
    for (const table of ['deliveries', 'sessions', 'passwords'])
      for (const row of await rows<{ id: number }>(
        db,
        `SELECT DISTINCT person_id AS id FROM ${table} WHERE person_id IN (${places})`,
        some,
      ))
        found.add(row.id);
  });
  return found;
}

/** Deletes people; those something speaks of stay. Gives who is gone. */
export async function deletePeople(db: Database, ids: readonly number[]): Promise<number[]> {
  const gone: number[] = [];
  await inParts(ids, async (some) => {
    const places = marks(some);
    await change(db, `DELETE IGNORE FROM people WHERE id IN (${places})`, some);
    const left = new Set(
      (await rows<{ id: number }>(db, `SELECT id FROM people WHERE id IN (${places})`, some)).map(
        (row) => row.id,
      ),
    );
    gone.push(...some.filter((id) => !left.has(id)));
  });
  return gone;
}
