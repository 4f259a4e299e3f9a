import type { Reader } from '../../core/content/field.ts';
import type { Role } from '../../core/audience/expression.ts';
import type { Person, PersonChange } from '../../core/people/person.ts';
import type { Quiet } from '../../core/timing/quiet.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';
import { rowsForAll } from '../database/onceForAll.ts';
import { likeText, nameHolds } from './matching.ts';

/** What is read of a person, of `people p` with `stations s`. */
export const PERSON = `p.id, p.name, p.sort_name AS sortName, p.greeting, p.mail, IF(p.mail_failing = p.mail, COALESCE(p.mail_failing_reason, ''), NULL) AS mailFails, p.role, p.standing, p.station_id AS stationId, s.name AS stationName,
  p.occupation, p.zone, DATE_FORMAT(p.joined_on, '%Y-%m-%d') AS joinedOn, DATE_FORMAT(p.guest_until, '%Y-%m-%d') AS guestUntil`;
export const FROM_PEOPLE = 'FROM people p LEFT JOIN stations s ON s.id = p.station_id';

export async function personById(db: Database, id: number): Promise<Person | undefined> {
  const [person] = await rows<Person>(db, `SELECT ${PERSON} ${FROM_PEOPLE} WHERE p.id = ?`, [id]);
  return person;
}

/** Some people, in no order; at most a few thousand at a time. */
export function peopleByIds(db: Database, ids: readonly number[]): Promise<Person[]> {
  if (ids.length === 0) return Promise.resolve([]);
  return rows(db, `SELECT ${PERSON} ${FROM_PEOPLE} WHERE p.id IN (${ids.map(() => '?').join(', ')})`, ids);
}

/** The stations by name, also those that are retired. */
export function stations(db: Database): Promise<readonly { id: number; name: string; zone: string }[]> {
  return rowsForAll(db, 'SELECT id, name, zone FROM stations ORDER BY name');
}

/** The stations that are in use, by name. */
export function stationsInUse(db: Database): Promise<{ id: number; name: string; zone: string }[]> {
  return rows(db, 'SELECT id, name, zone FROM stations WHERE retired_at IS NULL ORDER BY name');
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
  guestUntil?: string | null;
}

export async function insertPerson(db: Database, person: NewPerson): Promise<number> {
  const [id] = await db('people').insert({
    name: person.name,
    mail: person.mail,
    role: person.role,
    station_id: person.stationId,
    zone: person.zone,
    guest_until: person.guestUntil ?? null,
    joined_on: db.raw('CURRENT_DATE'),
  });
  return id ?? 0;
}

/** The coordinators who are here, held until the transaction ends, so that the last one cannot be lost between two changes. */
export async function lockCoordinators(db: Database): Promise<number[]> {
  const found = await rows<{ id: number }>(
    db,
    "SELECT id FROM people WHERE role = 'coordinator' AND standing <> 'left' ORDER BY id FOR UPDATE",
  );
  return found.map((row) => row.id);
}

/** Whether somebody has no page and is not thanked in public: a linked contact of another, or one who was erased. */
export async function hasNoPage(db: Database, id: number): Promise<boolean> {
  return (
    (
      await rows(
        db,
        'SELECT 1 FROM people WHERE id = ? AND (linked_to IS NOT NULL OR erased_at IS NOT NULL)',
        [id],
      )
    ).length > 0
  );
}

/** Holds a person's row until the transaction ends, so that of several changes to what is theirs one follows the other. */
export async function lockPerson(db: Database, id: number): Promise<void> {
  await rows(db, 'SELECT id FROM people WHERE id = ? FOR UPDATE', [id]);
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

/** Changes what is known of a person. @throws the database's duplicate-key error where the mail address is somebody's */
export async function changePerson(db: Database, id: number, change: PersonChange): Promise<void> {
  const { stationId, joinedOn, sortName, guestUntil, attributes, ...rest } = change;
  const columns = {
    ...Object.fromEntries(Object.entries(rest).filter(([, value]) => value !== undefined)),
    ...(stationId === undefined ? {} : { station_id: stationId }),
    ...(joinedOn === undefined ? {} : { joined_on: joinedOn }),
    ...(sortName === undefined ? {} : { sort_name: sortName }),
    ...(guestUntil === undefined ? {} : { guest_until: guestUntil }),
  };
  if (Object.keys(columns).length > 0) await db('people').where({ id }).update(columns);
  if (attributes !== undefined) await replaceAttributes(db, id, attributes);
}

/** What the organisation knows of somebody beyond the usual, by name. */
export function attributesOf(db: Database, personId: number): Promise<{ name: string; value: string }[]> {
  return rows(db, 'SELECT name, value FROM person_attributes WHERE person_id = ? ORDER BY name', [personId]);
}

/** Sets all of somebody's attributes. */
export async function replaceAttributes(
  db: Database,
  personId: number,
  attributes: readonly { name: string; value: string }[],
): Promise<void> {
  await change(db, 'DELETE FROM person_attributes WHERE person_id = ?', [personId]);
  if (attributes.length > 0)
    await db('person_attributes').insert(attributes.map((each) => ({ person_id: personId, ...each })));
}

/** Sets the IANA zone by whose clock somebody reads. */
export async function setZone(db: Database, id: number, zone: string): Promise<void> {
  await change(db, 'UPDATE people SET zone = ? WHERE id = ?', [zone, id]);
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
  /** When routine matter waits, on each reader's clock, where they have not chosen otherwise. */
  quiet: Quiet | null;
}

export async function organisation(db: Database): Promise<Organisation | undefined> {
  const [row] = await rowsForAll<{ name: string; zone: string; demo: number } & QuietColumns>(
    db,
    'SELECT name, zone, demo, quiet_from AS quietFrom, quiet_to AS quietTo FROM organisation WHERE id = 1',
  );
  return row && { name: row.name, zone: row.zone, demo: row.demo === 1, quiet: readQuiet(row) };
}

/** @throws the database's duplicate-key error where there is an organisation already */
export async function insertOrganisation(db: Database, made: Organisation): Promise<void> {
  const { quiet, ...rest } = made;
  await db('organisation').insert({
    id: 1,
    ...rest,
    quiet_from: quiet?.from ?? null,
    quiet_to: quiet?.to ?? null,
  });
}

export interface QuietColumns {
  quietFrom: string | null;
  quietTo: string | null;
}

export const readQuiet = ({ quietFrom, quietTo }: QuietColumns): Quiet | null =>
  quietFrom !== null && quietTo !== null ? { from: quietFrom, to: quietTo } : null;

/** Sets when routine matter waits for everybody who has not chosen otherwise; null is never. */
export async function setQuietOfAll(db: Database, quiet: Quiet | null): Promise<void> {
  await change(db, 'UPDATE organisation SET quiet_from = ?, quiet_to = ? WHERE id = 1', [
    quiet?.from ?? null,
    quiet?.to ?? null,
  ]);
}

/** Sets a person's own quiet hours; null is as the organisation has them. */
export async function setQuietOf(db: Database, id: number, quiet: Quiet | null): Promise<void> {
  await change(db, 'UPDATE people SET quiet_from = ?, quiet_to = ? WHERE id = ?', [
    quiet?.from ?? null,
    quiet?.to ?? null,
    id,
  ]);
}

export async function quietOf(db: Database, id: number): Promise<Quiet | null> {
  const [row] = await rows<QuietColumns>(
    db,
    'SELECT quiet_from AS quietFrom, quiet_to AS quietTo FROM people WHERE id = ?',
    [id],
  );
  return row ? readQuiet(row) : null;
}

/** The clocks people read by: every zone with every choice of quiet hours that occurs in it. */
export async function clocks(db: Database): Promise<{ zone: string; quiet: Quiet | null }[]> {
  const found = await rowsForAll<{ zone: string } & QuietColumns>(
    db,
    `SELECT DISTINCT zone, quiet_from AS quietFrom, quiet_to AS quietTo FROM people FORCE INDEX (people_by_clock)
     WHERE linked_to IS NULL`,
  );
  return found.map((row) => ({ zone: row.zone, quiet: readQuiet(row) }));
}

/** The linked contacts of some people. */
export function contactsOf(
  db: Database,
  personId: number,
): Promise<{ id: number; name: string; mail: string | null; relation: string }[]> {
  return rows(db, 'SELECT id, name, mail, relation FROM people WHERE linked_to = ? ORDER BY name, id', [
    personId,
  ]);
}

export async function insertContact(
  db: Database,
  contact: { linkedTo: number; name: string; mail: string; relation: string; zone: string },
): Promise<number> {
  const [id] = await db('people').insert({
    name: contact.name,
    mail: contact.mail,
    relation: contact.relation,
    linked_to: contact.linkedTo,
    zone: contact.zone,
    joined_on: db.raw('CURRENT_DATE'),
  });
  return id ?? 0;
}

/** A person as a reader of texts; the instants are for the caller to set. */
export const readerById = async (db: Database, id: number): Promise<Reader | null> =>
  (await readerNow(db, id))?.reader ?? null;

/** As `readerById`, with whether they have left, and what the database's clock says, in milliseconds since 1970. */
export async function readerNow(
  db: Database,
  id: number,
): Promise<{ reader: Reader; left: boolean; nowMs: number } | undefined> {
  const [row] = await rows<Omit<Reader, 'atMs' | 'eventMs'> & { left: number; nowMs: number }>(
    db,
    `SELECT p.name, p.greeting, s.name AS station, p.occupation, p.zone, p.standing = 'left' AS \`left\`, ${ms('NOW(3)')} AS nowMs
     FROM people p LEFT JOIN stations s ON s.id = p.station_id WHERE p.id = ?`,
    [id],
  );
  if (!row) return undefined;
  const { left, nowMs, ...reader } = row;
  return { reader: { ...reader, atMs: 0, eventMs: null }, left: left === 1, nowMs };
}

/** What people are and have, for choosing an audience by: occupations, and attributes with their values. */
export async function kindsOfPeople(
  db: Database,
): Promise<{ occupations: string[]; attributes: { name: string; values: string[] }[] }> {
  const [occupations, found] = await Promise.all([
    rows<{ occupation: string }>(
      db,
      "SELECT DISTINCT occupation FROM people WHERE occupation <> '' AND linked_to IS NULL ORDER BY occupation LIMIT 200",
    ),
    rows<{ name: string; value: string }>(
      db,
      'SELECT DISTINCT name, value FROM person_attributes ORDER BY name, value LIMIT 500',
    ),
  ]);
  const attributes = new Map<string, string[]>();
  for (const { name, value } of found) attributes.set(name, [...(attributes.get(name) ?? []), value]);
  return {
    occupations: occupations.map((row) => row.occupation),
    attributes: [...attributes].map(([name, values]) => ({ name, values })),
  };
}

export interface NamedPerson {
  id: number;
  name: string;
  station: string | null;
  occupation: string;
}

/**
 * What tells a person from others found with them: the station, and among namesakes of one station the occupation and the
 * number they have in the directory.
 */
export function toldApart(person: NamedPerson, among: readonly NamedPerson[]): string {
  const alike = (other: NamedPerson): boolean =>
    other.id !== person.id && other.name.toLowerCase() === person.name.toLowerCase();
  const namesakes = among.filter(alike);
  const station = person.station ?? '';
  if (!namesakes.some((other) => (other.station ?? '') === station)) return station;
  const both = [station, person.occupation].filter(Boolean).join(', ');
  return namesakes.some(
    (other) => (other.station ?? '') === station && other.occupation === person.occupation,
  )
    ? [both, `no. ${person.id}`].filter(Boolean).join(', ')
    : both;
}

/** People whose name begins with, or holds, some letters; those who have not left, by name. */
export const peopleNamed = (db: Database, letters: string, most: number): Promise<NamedPerson[]> =>
  peopleNamedAmong(db, { sql: "p.standing <> 'left' AND p.linked_to IS NULL", bindings: [] }, letters, most);

/** As `peopleNamed`, among those for whom a condition over `people p` holds. */
export function peopleNamedAmong(
  db: Database,
  who: { sql: string; bindings: readonly (string | number)[] },
  letters: string,
  most: number,
): Promise<NamedPerson[]> {
  const named = nameHolds(letters);
  return rows(
    db,
    `SELECT p.id, p.shown_name AS name, s.name AS station, p.occupation FROM people p LEFT JOIN stations s ON s.id = p.station_id
     WHERE (${who.sql}) AND ${named.sql}
     ORDER BY p.name LIKE ? DESC, p.name, p.id LIMIT ?`,
    [...who.bindings, ...named.bindings, `${likeText(letters.trim())}%`, most],
  );
}
