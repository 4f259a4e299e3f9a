import type { ScimClientLine } from '../../core/people/scim.ts';
import type { Role, Standing } from '../../core/audience/expression.ts';
import type { Sql } from '../audience/sql.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import type { Filterable } from './filter.ts';

/** What a person is called at a client that has not named them yet. */
const USER_NAME = `COALESCE(u.user_name, p.mail, CONCAT('person-', p.id))`;
const CHANGED = `COALESCE(u.changed_at, TIMESTAMP(p.joined_on))`;
const MADE = `COALESCE(u.made_at, TIMESTAMP(p.joined_on))`;

export const USER_ATTRIBUTES: Readonly<Record<string, Filterable>> = {
  id: { sql: 'p.id', kind: 'id' },
  username: {
    sql: USER_NAME,
    kind: 'text',
    among: {
      sql: `p.id IN (SELECT id FROM (SELECT person_id AS id FROM scim_users WHERE user_name = ?
        UNION ALL SELECT id FROM people WHERE mail = ?
        UNION ALL SELECT CAST(REPLACE(?, 'person-', '') AS UNSIGNED)) AS called)`,
      times: 3,
    },
  },
  externalid: { sql: 'u.external_id', kind: 'exact text' },
  displayname: { sql: 'p.name', kind: 'text' },
  'name.formatted': { sql: 'p.name', kind: 'text' },
  'name.givenname': { sql: "JSON_VALUE(u.more, '$.name.givenName')", kind: 'text' },
  'name.familyname': { sql: "JSON_VALUE(u.more, '$.name.familyName')", kind: 'text' },
  'emails.value': { sql: 'p.mail', kind: 'text' },
  title: { sql: 'p.occupation', kind: 'text' },
  timezone: { sql: 'p.zone', kind: 'text' },
  active: { sql: "(p.standing <> 'left')", kind: 'truth' },
  'meta.created': { sql: MADE, kind: 'instant' },
  'meta.lastmodified': { sql: CHANGED, kind: 'instant' },
};

export const GROUP_ATTRIBUTES: Readonly<Record<string, Filterable>> = {
  id: { sql: 'g.id', kind: 'id' },
  displayname: { sql: 'g.name', kind: 'text' },
  externalid: { sql: 's.external_id', kind: 'exact text' },
  'meta.lastmodified': { sql: 's.changed_at', kind: 'instant' },
};

export interface UserRow {
  id: number;
  name: string;
  mail: string | null;
  role: Role;
  standing: Standing;
  sortName: string;
  greeting: string;
  occupation: string;
  zone: string;
  stationId: number | null;
  stationName: string | null;
  userName: string;
  externalId: string | null;
  more: Record<string, unknown>;
  madeMs: number;
  changedMs: number;
}

const USERS = `FROM people p LEFT JOIN scim_users u ON u.person_id = p.id LEFT JOIN stations s ON s.id = p.station_id
  WHERE p.linked_to IS NULL AND p.erased_at IS NULL AND u.deleted_at IS NULL`;

const USER = `p.id, p.name, p.sort_name AS sortName, p.greeting, p.mail, p.role, p.standing, p.occupation, p.zone, p.station_id AS stationId, s.name AS stationName,
  ${USER_NAME} AS userName, u.external_id AS externalId, u.more, ${ms(MADE)} AS madeMs, ${ms(CHANGED)} AS changedMs`;

const readUser = ({ more, ...row }: Omit<UserRow, 'more'> & { more: string | null }): UserRow => ({
  ...row,
  more: JSON.parse(more ?? '{}') as Record<string, unknown>,
});

export interface Span {
  /** The first, counted from nought. */
  from: number;
  most: number;
}

/** Users for whom a condition holds, by id, and how many there are in all. */
export async function usersWhere(
  db: Database,
  who: Sql | null,
  { from, most }: Span,
): Promise<{ users: UserRow[]; total: number }> {
  const where = `${USERS}${who ? ` AND (${who.sql})` : ''}`;
  const bindings = who?.bindings ?? [];
  const [[counted], found] = await Promise.all([
    rows<{ n: number }>(db, `SELECT COUNT(*) AS n ${where}`, bindings),
    most === 0
      ? []
      : rows<Omit<UserRow, 'more'> & { more: string | null }>(
          db,
          `SELECT ${USER} ${where} ORDER BY p.id LIMIT ? OFFSET ?`,
          [...bindings, most, from],
        ),
  ]);
  return { users: found.map(readUser), total: counted?.n ?? 0 };
}

/** @param held whether the person's row is held until the transaction ends */
export async function userById(db: Database, id: number, held = false): Promise<UserRow | undefined> {
  if (held) await rows(db, 'SELECT id FROM people WHERE id = ? FOR UPDATE', [id]);
  const [row] = await rows<Omit<UserRow, 'more'> & { more: string | null }>(
    db,
    `SELECT ${USER} ${USERS} AND p.id = ?`,
    [id],
  );
  return row && readUser(row);
}

/** Somebody else who is called so, or who would be if they were not deleted at the client. */
export async function calledSo(
  db: Database,
  userName: string,
  mail: string | null,
  except: number,
): Promise<{ id: number; deleted: boolean } | undefined> {
  const [row] = await rows<{ id: number; deleted: number }>(
    db,
    `SELECT p.id, u.deleted_at IS NOT NULL AS deleted FROM people p LEFT JOIN scim_users u ON u.person_id = p.id
     WHERE p.id <> ? AND p.id IN (SELECT id FROM (SELECT person_id AS id FROM scim_users WHERE user_name = ?
         UNION ALL SELECT id FROM people WHERE mail IN (?, ?)) AS called)
       AND (u.user_name = ? OR p.mail = ? OR (u.user_name IS NULL AND p.mail = ?)) ORDER BY deleted LIMIT 1`,
    [except, userName, mail, userName, userName, mail, userName],
  );
  return row && { id: row.id, deleted: row.deleted === 1 };
}

/**
 * Keeps what a client knows of somebody.
 *
 * @throws the database's duplicate-key error where somebody else is called so
 */
export async function keepUser(
  db: Database,
  personId: number,
  kept: { clientId: number; userName: string; externalId: string | null; more: Record<string, unknown> },
): Promise<void> {
  await change(
    db,
    `INSERT INTO scim_users (person_id, client_id, user_name, external_id, more) VALUES (?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE client_id = VALUES(client_id), user_name = VALUES(user_name), external_id = VALUES(external_id),
       more = VALUES(more), changed_at = NOW(3), deleted_at = NULL`,
    [personId, kept.clientId, kept.userName, kept.externalId, JSON.stringify(kept.more)],
  );
}

export async function noteDeleted(db: Database, personId: number): Promise<void> {
  await change(db, 'UPDATE scim_users SET deleted_at = NOW(3) WHERE person_id = ?', [personId]);
}

/** The fixed groups some people are in, by person. */
export async function groupsOfUsers(
  db: Database,
  ids: readonly number[],
): Promise<Map<number, { id: number; name: string }[]>> {
  const found = new Map<number, { id: number; name: string }[]>();
  if (ids.length === 0) return found;
  for (const { personId, ...group } of await rows<{ personId: number; id: number; name: string }>(
    db,
    `SELECT m.person_id AS personId, g.id, g.name FROM group_members m JOIN \`groups\` g ON g.id = m.group_id
     WHERE g.kind = 'fixed' AND m.person_id IN (${ids.map(() => '?').join(', ')}) ORDER BY g.name`,
    ids,
  ))
    found.set(personId, [...(found.get(personId) ?? []), group]);
  return found;
}

export interface GroupRow {
  id: number;
  name: string;
  externalId: string | null;
  madeMs: number | null;
  changedMs: number | null;
  /** Changes whenever who is in it does. */
  members: string;
}

const GROUPS = "FROM `groups` g LEFT JOIN scim_groups s ON s.group_id = g.id WHERE g.kind = 'fixed'";
const GROUP = `g.id, g.name, s.external_id AS externalId, ${ms('s.made_at')} AS madeMs, ${ms('s.changed_at')} AS changedMs,
  (SELECT CONCAT(COUNT(*), '.', COALESCE(BIT_XOR(CRC32(m.person_id)), 0)) FROM group_members m WHERE m.group_id = g.id) AS members`;

export async function groupsWhere(
  db: Database,
  which: Sql | null,
  { from, most }: Span,
): Promise<{ groups: GroupRow[]; total: number }> {
  const where = `${GROUPS}${which ? ` AND (${which.sql})` : ''}`;
  const bindings = which?.bindings ?? [];
  const [[counted], groups] = await Promise.all([
    rows<{ n: number }>(db, `SELECT COUNT(*) AS n ${where}`, bindings),
    most === 0
      ? []
      : rows<GroupRow>(db, `SELECT ${GROUP} ${where} ORDER BY g.id LIMIT ? OFFSET ?`, [
          ...bindings,
          most,
          from,
        ]),
  ]);
  return { groups, total: counted?.n ?? 0 };
}

export async function groupRow(db: Database, id: number): Promise<GroupRow | undefined> {
  const [row] = await rows<GroupRow>(db, `SELECT ${GROUP} ${GROUPS} AND g.id = ?`, [id]);
  return row;
}

/** Who is in some fixed groups, of those who are here, by group. */
export async function membersOfGroups(
  db: Database,
  ids: readonly number[],
): Promise<Map<number, { id: number; name: string }[]>> {
  const found = new Map<number, { id: number; name: string }[]>(ids.map((id) => [id, []]));
  if (ids.length === 0) return found;
  for (const { groupId, ...person } of await rows<{ groupId: number; id: number; name: string }>(
    db,
    `SELECT m.group_id AS groupId, p.id, p.name FROM group_members m JOIN people p ON p.id = m.person_id
     WHERE p.standing <> 'left' AND m.group_id IN (${ids.map(() => '?').join(', ')}) ORDER BY p.id`,
    ids,
  ))
    found.get(groupId)?.push(person);
  return found;
}

/** Which of some ids are people a client may name. */
export async function knownUsers(db: Database, ids: readonly number[]): Promise<Set<number>> {
  if (ids.length === 0) return new Set();
  const found = await rows<{ id: number }>(
    db,
    `SELECT p.id ${USERS} AND p.id IN (${ids.map(() => '?').join(', ')})`,
    ids,
  );
  return new Set(found.map((row) => row.id));
}

export async function keepGroup(
  db: Database,
  groupId: number,
  clientId: number,
  externalId: string | null | undefined,
): Promise<void> {
  await change(
    db,
    `INSERT INTO scim_groups (group_id, client_id, external_id) VALUES (?, ?, ?)
     ON DUPLICATE KEY UPDATE client_id = VALUES(client_id), changed_at = NOW(3)${externalId === undefined ? '' : ', external_id = VALUES(external_id)'}`,
    [groupId, clientId, externalId ?? null],
  );
}

/** The client a token is of, noted as in use; its row is written once a minute only. */
export async function clientByToken(
  db: Database,
  hash: Buffer,
): Promise<{ id: number; name: string } | undefined> {
  const [row] = await rows<{ id: number; name: string; unseen: number }>(
    db,
    'SELECT id, name, COALESCE(used_at < NOW(3) - INTERVAL 1 MINUTE, TRUE) AS unseen FROM scim_clients WHERE token_hash = ?',
    [hash],
  );
  if (row?.unseen === 1) await change(db, 'UPDATE scim_clients SET used_at = NOW(3) WHERE id = ?', [row.id]);
  return row && { id: row.id, name: row.name };
}

export function clientLines(db: Database): Promise<ScimClientLine[]> {
  return rows(
    db,
    `SELECT c.id, c.name, ${ms('c.made_at')} AS madeMs, p.name AS madeBy, ${ms('c.used_at')} AS usedMs,
       (SELECT COUNT(*) FROM scim_users u JOIN people q ON q.id = u.person_id
        WHERE u.client_id = c.id AND u.deleted_at IS NULL AND q.standing <> 'left') AS people
     FROM scim_clients c JOIN people p ON p.id = c.made_by ORDER BY c.name`,
  );
}

/** @throws the database's duplicate-key error where there is a client of this name */
export async function insertClient(
  db: Database,
  made: { name: string; hash: Buffer; madeBy: number },
): Promise<number> {
  const [id] = await db('scim_clients').insert({
    name: made.name,
    token_hash: made.hash,
    made_by: made.madeBy,
  });
  return id ?? 0;
}

/** Gives a client another token; nothing where there is none. */
export async function replaceToken(db: Database, id: number, hash: Buffer): Promise<boolean> {
  return (await change(db, 'UPDATE scim_clients SET token_hash = ? WHERE id = ?', [hash, id])) === 1;
}

export async function clientName(db: Database, id: number): Promise<string | undefined> {
  const [row] = await rows<{ name: string }>(db, 'SELECT name FROM scim_clients WHERE id = ?', [id]);
  return row?.name;
}

export const deleteClient = async (db: Database, id: number): Promise<boolean> =>
  (await change(db, 'DELETE FROM scim_clients WHERE id = ?', [id])) === 1;
