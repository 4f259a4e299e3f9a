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
  'mail comes back': "p.standing <> 'left' AND p.mail_failing = p.mail",
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
      {
        // Byte by byte first, and only what has the letters is compared as text.
        sql: '(INSTR(p.letters, WEIGHT_STRING(CONVERT(? USING utf8mb4) COLLATE utf8mb4_unicode_520_ci)) > 0 AND (p.name LIKE ? OR p.mail LIKE ?))',
        bindings: [search, like, like],
      },
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

const INDEX_OF: Record<PeopleOrder, string> = {
  name: 'people_sought',
  station: 'people_in_place',
  occupation: 'people_in_trade',
  joined: 'people_as_joined',
};

/** Told from one short index, whose rows stand in the order wanted, where it holds all that is asked. */
const fromIndex = ({ search, who, shown }: PeopleWanted, index: string): string =>
  who === null && shown !== 'guests' && (search === '' || index === 'people_sought')
    ? `FORCE INDEX (${index})`
    : '';

/** The ids of some of those who are wanted, in order. */
async function idsIn(
  db: Database,
  wanted: PeopleInOrder,
  part: Sql,
  from: number,
  most: number,
): Promise<number[]> {
  const { order, turned } = wanted;
  const who = await wantedOf(db, wanted);
  // Whoever joined last comes first.
  const way = turned === (order === 'joined') ? '' : 'DESC';
  const by = { name: [], station: [], occupation: ['p.occupation'], joined: ['p.joined_on'] }[order];
  const further = order === 'joined' ? ['p.id'] : ['p.sorted', 'p.id'];
  const found = await rows<{ id: number }>(
    db,
    `SELECT p.id FROM people p ${fromIndex(wanted, INDEX_OF[order])} WHERE ${who.sql} AND ${part.sql}
     ORDER BY ${[...by, ...further].map((column) => `${column} ${way}`).join(', ')} LIMIT ? OFFSET ?`,
    [...who.bindings, ...part.bindings, most, from],
  );
  return found.map(({ id }) => id);
}

/** The parts in which the people stand one after the other in an order: each station, those of an occupation, and those without. */
async function partsOf(db: Database, order: PeopleOrder, turned: boolean): Promise<Sql[]> {
  if (order === 'occupation')
    return ["p.occupation <> ''", "p.occupation = ''"].map((sql) => ({ sql, bindings: [] }));
  if (order !== 'station') return [{ sql: 'TRUE', bindings: [] }];
  const places = await rows<{ id: number }>(
    db,
    `SELECT id FROM stations ORDER BY name ${turned ? 'DESC' : ''}, id`,
  );
  return [
    ...places.map(({ id }): Sql => ({ sql: 'p.station_id = ?', bindings: [id] })),
    // Those of no station come last, whichever way.
    { sql: 'p.station_id IS NULL', bindings: [] },
  ];
}

/** The ids of those who are wanted, in order. */
export async function idsListed(db: Database, wanted: PeopleInOrder): Promise<number[]> {
  const ids: number[] = [];
  let skip = wanted.from;
  for (const part of await partsOf(db, wanted.order, wanted.turned)) {
    const found = await idsIn(db, wanted, part, skip, wanted.most - ids.length);
    ids.push(...found);
    if (ids.length === wanted.most) break;
    // A part that ends before what is skipped is skipped as a whole.
    if (skip > 0) skip = found.length > 0 ? 0 : Math.max(0, skip - (await countIn(db, wanted, part)));
  }
  return ids;
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

/** People in the order they were added, from after an id; also those who have left. */
export async function peopleAfter(
  db: Database,
  after: number,
  search: string,
  most: number,
): Promise<Person[]> {
  const who = await wantedOf(db, { search, shown: 'all', who: null });
  return rows<Person>(
    db,
    `SELECT ${PERSON} ${FROM_PEOPLE} WHERE p.id > ? AND ${who.sql} ORDER BY p.id LIMIT ?`,
    [after, ...who.bindings, most],
  );
}

async function countIn(db: Database, wanted: PeopleWanted, part: Sql): Promise<number> {
  const who = await wantedOf(db, wanted);
  const index = wanted.search === '' ? 'people_as_joined' : 'people_sought';
  const [counted] = await rows<{ n: number }>(
    db,
    `SELECT COUNT(*) AS n FROM people p ${part.sql === 'TRUE' ? fromIndex(wanted, index) : ''} WHERE ${who.sql} AND ${part.sql}`,
    [...who.bindings, ...part.bindings],
  );
  return counted?.n ?? 0;
}

/** How many are wanted. */
export const countListed = (db: Database, wanted: PeopleWanted): Promise<number> =>
  countIn(db, wanted, { sql: 'TRUE', bindings: [] });

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
