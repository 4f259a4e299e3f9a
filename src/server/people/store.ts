import type { Role } from '../../core/audience/expression.ts';
import type { Person } from '../../core/people/person.ts';
import { change, rows, type Database } from '../database/connection.ts';

const PERSON = `p.id, p.name, p.mail, p.role, p.standing, p.station_id AS stationId, s.name AS stationName,
  p.occupation, p.zone, DATE_FORMAT(p.joined_on, '%Y-%m-%d') AS joinedOn`;
const FROM = 'FROM people p LEFT JOIN stations s ON s.id = p.station_id';

export async function personById(db: Database, id: number): Promise<Person | undefined> {
  const [person] = await rows<Person>(db, `SELECT ${PERSON} ${FROM} WHERE p.id = ?`, [id]);
  return person;
}

/** A page of people by name, after the last one of the page before. */
export function peoplePage(
  db: Database,
  options: { search: string; after: { name: string; id: number } | null; most: number },
): Promise<Person[]> {
  const like = `%${options.search.replace(/[\\%_]/g, (mark) => `\\${mark}`)}%`;
  return rows<Person>(
    db,
    `SELECT ${PERSON} ${FROM}
     WHERE (? = '' OR p.name LIKE ? OR p.mail LIKE ? OR s.name LIKE ?)
       AND (? IS NULL OR (p.name, p.id) > (?, ?))
     ORDER BY p.name, p.id LIMIT ?`,
    [
      options.search,
      like,
      like,
      like,
      options.after?.id ?? null,
      options.after?.name ?? '',
      options.after?.id ?? 0,
      options.most,
    ],
  );
}

export function stations(db: Database): Promise<{ id: number; name: string; zone: string }[]> {
  return rows(db, 'SELECT id, name, zone FROM stations ORDER BY name');
}

export async function namesOfPeople(db: Database, ids: readonly number[]): Promise<Map<number, string>> {
  if (ids.length === 0) return new Map();
  const found = await rows<{ id: number; name: string }>(
    db,
    `SELECT id, name FROM people WHERE id IN (${ids.map(() => '?').join(', ')})`,
    ids,
  );
  return new Map(found.map(({ id, name }) => [id, name]));
}

export interface NewPerson {
  name: string;
  mail: string | null;
  role: Role;
  stationId: number | null;
  zone: string;
}

export async function insertPerson(db: Database, person: NewPerson): Promise<number> {
  const [id] = await db('people').insert({
    name: person.name,
    mail: person.mail,
    role: person.role,
    station_id: person.stationId,
    zone: person.zone,
    joined_on: db.raw('CURRENT_DATE'),
  });
  return id ?? 0;
}

/** Marks a person as left or back; false where that is how they stood already. */
export async function setLeft(db: Database, id: number, left: boolean): Promise<boolean> {
  const changed = left
    ? await change(
        db,
        "UPDATE people SET standing = 'left', left_at = NOW(3) WHERE id = ? AND standing <> 'left'",
        [id],
      )
    : await change(
        db,
        "UPDATE people SET standing = 'active', left_at = NULL WHERE id = ? AND standing = 'left'",
        [id],
      );
  return changed === 1;
}

/** Stops or resumes mail that may be unsubscribed. */
export async function setMailStopped(db: Database, id: number, stopped: boolean): Promise<void> {
  await change(
    db,
    stopped
      ? 'UPDATE people SET mail_stopped_at = COALESCE(mail_stopped_at, NOW(3)) WHERE id = ?'
      : 'UPDATE people SET mail_stopped_at = NULL WHERE id = ?',
    [id],
  );
}

export interface Organisation {
  name: string;
  zone: string;
  demo: boolean;
}

export async function organisation(db: Database): Promise<Organisation | undefined> {
  const [row] = await rows<{ name: string; zone: string; demo: number }>(
    db,
    'SELECT name, zone, demo FROM organisation WHERE id = 1',
  );
  return row && { name: row.name, zone: row.zone, demo: row.demo === 1 };
}

/** @throws the database's duplicate-key error where there is an organisation already */
export async function insertOrganisation(db: Database, made: Organisation): Promise<void> {
  await db('organisation').insert({ id: 1, ...made });
}
