import type { Person } from '../../core/people/person.ts';
import type { PeopleOrder, ShownPeople } from '../../core/people/together.ts';
import type { Sql } from '../audience/sql.ts';
import { rows, type Database } from '../database/connection.ts';
import { FROM_PEOPLE, PERSON } from './store.ts';

export interface PeopleWanted {
  /** Letters of a name, a mail address or a station; empty for everybody. */
  search: string;
  shown: ShownPeople;
  /** A condition over `people p`, or null. */
  who: Sql | null;
}

export interface PeopleInOrder extends PeopleWanted {
  order: PeopleOrder;
  /** Whether the order is turned round. */
  turned: boolean;
  /** How many come before the first that is read. */
  from: number;
  most: number;
}

const SHOWN_SQL: Record<ShownPeople, string> = {
  all: 'TRUE',
  here: "p.standing <> 'left'",
  left: "p.standing = 'left'",
  'not in yet': "p.standing <> 'left' AND p.first_in_at IS NULL",
  guests: "p.standing <> 'left' AND p.guest_until IS NOT NULL",
};

const likeOf = (search: string): string => `%${search.replace(/[\\%_]/g, (mark) => `\\${mark}`)}%`;

const among = (column: string, ids: readonly { id: number }[]): Sql[] =>
  ids.length === 0
    ? []
    : [{ sql: `${column} IN (${ids.map(() => '?').join(', ')})`, bindings: ids.map(({ id }) => id) }];

/** Who is wanted, as a condition over `people p` alone, without further tables. */
async function wantedOf(db: Database, { search, shown, who }: PeopleWanted): Promise<Sql> {
  const parts: Sql[] = [
    { sql: `p.linked_to IS NULL AND p.erased_at IS NULL AND ${SHOWN_SQL[shown]}`, bindings: [] },
    ...(who ? [who] : []),
  ];
  if (search !== '') {
    const like = likeOf(search);
    const [places, further] = await Promise.all([
      rows<{ id: number }>(db, 'SELECT id FROM stations WHERE name LIKE ?', [like]),
      rows<{ id: number }>(db, 'SELECT DISTINCT person_id AS id FROM person_addresses WHERE mail LIKE ?', [
        like,
      ]),
    ]);
    const ways: Sql[] = [
      { sql: 'p.name LIKE ? OR p.mail LIKE ?', bindings: [like, like] },
      ...among('p.station_id', places),
      ...among('p.id', further),
    ];
    parts.push({
      sql: ways.map(({ sql }) => sql).join(' OR '),
      bindings: ways.flatMap(({ bindings }) => bindings),
    });
  }
  return {
    sql: parts.map(({ sql }) => `(${sql})`).join(' AND '),
    bindings: parts.flatMap(({ bindings }) => bindings),
  };
}

/** By one index, whose rows are a fifth of those of the table, where it holds all that is asked. */
const byOneIndex = ({ who, shown }: PeopleWanted, order: PeopleOrder = 'name'): string =>
  who === null && shown !== 'guests' && (order === 'name' || order === 'station')
    ? 'FORCE INDEX (people_sought)'
    : '';

const orderOf = (order: PeopleOrder, turned: boolean): string => {
  const way = turned ? 'DESC' : '';
  const byName = `p.sorted ${way}, p.id ${way}`;
  switch (order) {
    case 'name':
      return byName;
    case 'station':
      // Those of no station come last, whichever way.
      return `p.station_id IS NULL, (SELECT s.name FROM stations s WHERE s.id = p.station_id) ${way}, p.sorted, p.id`;
    case 'occupation':
      return `p.occupation = '', p.occupation ${way}, p.sorted, p.id`;
    case 'joined':
      return `p.joined_on ${turned ? '' : 'DESC'}, p.sorted, p.id`;
  }
};

/** The ids of those who are wanted, in order. */
export async function idsListed(db: Database, wanted: PeopleInOrder): Promise<number[]> {
  const { order, turned, from, most } = wanted;
  const who = await wantedOf(db, wanted);
  const found = await rows<{ id: number }>(
    db,
    `SELECT p.id FROM people p ${byOneIndex(wanted, order)} WHERE ${who.sql}
     ORDER BY ${orderOf(order, turned)} LIMIT ? OFFSET ?`,
    [...who.bindings, most, from],
  );
  return found.map(({ id }) => id);
}

/** Some of those who are wanted, in order: told by an index first, and then read. */
export async function peopleListed(db: Database, wanted: PeopleInOrder): Promise<Person[]> {
  const ids = await idsListed(db, wanted);
  if (ids.length === 0) return [];
  const found = await rows<Person>(
    db,
    `SELECT ${PERSON} ${FROM_PEOPLE} WHERE p.id IN (${ids.map(() => '?').join(', ')})`,
    ids,
  );
  const byId = new Map(found.map((person) => [person.id, person]));
  return ids.flatMap((id) => byId.get(id) ?? []);
}

/** How many are wanted. */
export async function countListed(db: Database, wanted: PeopleWanted): Promise<number> {
  const who = await wantedOf(db, wanted);
  const [counted] = await rows<{ n: number }>(
    db,
    `SELECT COUNT(*) AS n FROM people p ${byOneIndex(wanted)} WHERE ${who.sql}`,
    who.bindings,
  );
  return counted?.n ?? 0;
}

/** What else is known of some people, by id. */
export async function attributesListed(
  db: Database,
  ids: readonly number[],
): Promise<Record<number, Record<string, string>>> {
  if (ids.length === 0) return {};
  const found: Record<number, Record<string, string>> = {};
  for (const { personId, name, value } of await rows<{ personId: number; name: string; value: string }>(
    db,
    `SELECT person_id AS personId, name, value FROM person_attributes WHERE person_id IN (${ids.map(() => '?').join(', ')})`,
    ids,
  ))
    found[personId] = { ...found[personId], [name]: value };
  return found;
}
