import { FOUND_KINDS, meant, stemOf, type FoundKind } from '../../core/search/query.ts';
import { rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** What may be found by whom: the boards they see, and their own inbox or, for a coordinator, whatever went out. */
export interface Sight {
  personId: number;
  boardIds: readonly number[];
  everything: boolean;
  /** The signs of an editor: what they sent themselves. */
  ownSends: boolean;
  /** Whether the answers on the shelf are theirs to see. */
  shelf: boolean;
}

export interface Filters {
  kind?: FoundKind | undefined;
  boardIds?: readonly number[] | undefined;
  authorId?: number | undefined;
  category?: string | undefined;
  fromMs?: number | undefined;
  beforeMs?: number | undefined;
  asks?: boolean | undefined;
}

export interface FoundRow {
  kind: FoundKind;
  subjectId: number;
  boardId: number | null;
  occurrenceId: number | null;
  authorId: number;
  authorName: string;
  category: string;
  atMs: number;
  asks: number;
  title: string;
  body: string;
}

/** Most that is looked at for one search; more than anybody pages through. */
const CANDIDATES = 300;
/** Places of a word read at once: of a common word the latest, which is what somebody who writes only it looks for. */
const MOST_PLACES = 8_000;
/** A word with more places than this is common, and is not counted further. */
const COMMON = 2_000;
/** Sorts after every letter. */
const LAST = '\u{10FFFF}';
/** Words that begin with what is looked for. */
const BEGINNINGS = 12;

/** A candidate of a search: enough to tell what is the same thing twice. */
export interface Candidate {
  id: number;
  kind: FoundKind;
  occurrenceId: number | null;
}

/** A word looked for: the words of the index it stands for, and how many places they have, counted to a few thousand. */
interface Term {
  ids: number[];
  /** Those of them that are other forms of it, or like it: they say half as much. */
  lesser: ReadonlySet<number>;
  places: number;
}

const marks = (values: readonly unknown[]): string => values.map(() => '?').join(', ');

/** The words of the index that somebody may have meant by one: with a letter or two otherwise. */
export async function wordsLike(db: Database, word: string, most: number): Promise<string[]> {
  const [first = '', second = ''] = word;
  const found = await rows<{ word: string }>(
    db,
    `SELECT word FROM search_words
     WHERE ((word >= ? AND word < ?) OR (word >= ? AND word < ?)) AND CHAR_LENGTH(word) BETWEEN ? AND ? LIMIT ?`,
    [first, first + LAST, second, second + LAST, word.length - 2, word.length + 2, MOST_LIKE],
  );
  return meant(
    word,
    found.map((row) => row.word),
    most,
  );
}
/** Most words of the index that one is compared with. */
const MOST_LIKE = 20_000;

/**
 * The words of the index that begin with each of some words, the word itself first; other forms of it; and those given as
 * like it.
 */
async function termsOf(
  db: Database,
  words: readonly string[],
  alike: readonly (readonly string[])[] = [],
): Promise<Term[]> {
  const others = alike.flatMap((each, term) => each.map((word) => ({ term, word })));
  const named =
    others.length === 0
      ? []
      : await rows<{ id: number; word: string }>(
          db,
          `SELECT id, word FROM search_words WHERE word IN (${marks(others)})`,
          others.map(({ word }) => word),
        );
  const ids = new Map(named.map(({ id, word }) => [word, id]));
  const begun = await rows<{ term: number; id: number; other: number }>(
    db,
    words
      .map(
        (_, i) =>
          `(SELECT ${i} AS term, id, 0 AS other FROM search_words WHERE word >= ? AND word < ?
            ORDER BY word LIMIT ${BEGINNINGS})
           UNION ALL (SELECT ${i}, id, 1 FROM search_words WHERE stem = ? AND NOT (word >= ? AND word < ?)
            ORDER BY word LIMIT ${BEGINNINGS})`,
      )
      .join(' UNION ALL '),
    words.flatMap((word) => [word, `${word}${LAST}`, stemOf(word), word, `${word}${LAST}`]),
  );
  const found = [
    ...begun,
    ...others.flatMap(({ term, word }) => {
      const id = ids.get(word);
      return id === undefined || begun.some((each) => each.term === term && each.id === id)
        ? []
        : [{ term, id, other: 1 }];
    }),
  ];
  if (found.length === 0) return words.map(() => ({ ids: [], lesser: new Set<number>(), places: 0 }));
  const counted = await rows<{ id: number; n: number }>(
    db,
    found
      .map(
        () =>
          `SELECT ? AS id, COUNT(*) AS n FROM (SELECT 1 FROM postings WHERE word_id = ? LIMIT ${COMMON}) c`,
      )
      .join(' UNION '),
    found.flatMap(({ id }) => [id, id]),
  );
  const places = new Map(counted.map(({ id, n }) => [id, n]));
  return words.map((_, i) => {
    const ofTerm = found.filter((each) => each.term === i);
    const ids = ofTerm.map((each) => each.id);
    const lesser = new Set(ofTerm.filter((each) => each.other === 1).map((each) => each.id));
    return { ids, lesser, places: ids.reduce((sum, id) => sum + (places.get(id) ?? 0), 0) };
  });
}

/** Half of what a word says at a place of a table, and never nothing. */
const halfOf = (table: string): string => `CEIL(${table}.weight / 2)`;

/** Conditions over what is searched, as they are put to the places of words (`p`) or to what is found itself. */
function conditionsOf(
  kind: FoundKind,
  sight: Sight,
  filters: Filters,
  over: 'postings' | 'findables',
): { sql: string; bindings: unknown[] } | null {
  if (filters.kind && filters.kind !== kind) return null;
  if (kind === 'answer' && !sight.shelf) return null;
  const conditions = ['p.kind = ?'];
  const bindings: unknown[] = [kind];
  const add = (sql: string, ...values: unknown[]): void => {
    conditions.push(sql);
    bindings.push(...values);
  };
  const place =
    over === 'postings'
      ? 'p.place_id'
      : kind === 'announcement'
        ? 'p.subject_id'
        : kind === 'check-in'
          ? 'p.occurrence_id'
          : 'p.board_id';
  if (kind === 'post' || kind === 'reply' || kind === 'link') {
    const boards = filters.boardIds
      ? sight.boardIds.filter((id) => filters.boardIds?.includes(id))
      : sight.boardIds;
    if (boards.length === 0) return null;
    add(`${place} IN (${marks(boards)})`, ...boards);
  } else if (filters.boardIds) return null;
  else if (kind === 'announcement' && !sight.everything)
    add(
      `(EXISTS (SELECT 1 FROM deliveries d WHERE d.occurrence_id = ${place} AND d.person_id = ? AND d.method = 'inbox'
         AND d.state = 'delivered')${sight.ownSends ? ' OR p.author_id = ?' : ''})`,
      sight.personId,
      ...(sight.ownSends ? [sight.personId] : []),
    );
  else if (kind === 'check-in' && !sight.everything)
    // As a check-in is opened: by those who are in it, and by whoever asked.
    add(
      `(EXISTS (SELECT 1 FROM roll r WHERE r.occurrence_id = ${place} AND r.person_id = ?)${
        sight.ownSends
          ? ' OR EXISTS (SELECT 1 FROM occurrences o JOIN sends s ON s.id = o.send_id WHERE o.id = ' +
            place +
            ' AND s.created_by = ?)'
          : ''
      })`,
      sight.personId,
      ...(sight.ownSends ? [sight.personId] : []),
    );
  if (filters.authorId !== undefined) add('p.author_id = ?', filters.authorId);
  if (filters.fromMs !== undefined) add('p.at >= ?', new Date(filters.fromMs));
  if (filters.beforeMs !== undefined) add('p.at < ?', new Date(filters.beforeMs));
  // What the places of words do not say is asked of what they lead to.
  const of = (column: string): string =>
    over === 'postings' ? `(SELECT g.${column} FROM findables g WHERE g.id = p.findable_id)` : `p.${column}`;
  if (filters.category !== undefined && filters.category !== '')
    add(`${of('category')} = ?`, filters.category);
  if (filters.asks) add(of('asks'));
  return { sql: conditions.join(' AND '), bindings };
}

/**
 * The best candidates that hold all the words, or words that begin with them, by how much the words say and then by how
 * recent they are; without words, the latest. Only what tells them apart is read.
 *
 * The rarest word leads: its places are read, the latest first and no more than a few thousand of each word, and only
 * those are looked up among the places of the other words.
 *
 * @param alike of each word, others that do as well
 */
export async function candidates(
  db: Database,
  words: readonly string[],
  sight: Sight,
  filters: Filters,
  alike: readonly (readonly string[])[] = [],
): Promise<Candidate[]> {
  if (words.length === 0) return latest(db, sight, filters);
  const terms = await termsOf(db, words, alike);
  const [lead, ...others] = [...terms].sort((a, b) => a.places - b.places);
  if (!lead || lead.places === 0) return [];
  const bindings: unknown[] = [];
  const most = Math.ceil(MOST_PLACES / lead.ids.length);
  const ranges = lead.ids.flatMap((id) =>
    FOUND_KINDS.flatMap((kind) => {
      const where = conditionsOf(kind, sight, filters, 'postings');
      if (!where) return [];
      // Whether an announcement came to the reader is looked up one by one, so fewer of them are.
      bindings.push(id, ...where.bindings, kind === 'announcement' ? Math.ceil(most / 8) : most);
      return [
        `(SELECT p.kind, p.at, p.findable_id, ${lead.lesser.has(id) ? halfOf('p') : 'p.weight'} AS weight FROM postings p WHERE p.word_id = ? AND ${where.sql}
           ORDER BY p.at DESC LIMIT ?)`,
      ];
    }),
  );
  if (ranges.length === 0) return [];
  const joined = others
    .map(
      (term, i) =>
        `JOIN postings o${i} ON o${i}.word_id IN (${marks(term.ids)}) AND o${i}.kind = l.kind AND o${i}.at = l.at
           AND o${i}.findable_id = l.findable_id`,
    )
    .join(' ');
  const weighed = others.map(({ lesser }, i) =>
    lesser.size === 0
      ? { sql: `o${i}.weight`, bindings: [] }
      : {
          sql: `IF(o${i}.word_id IN (${marks([...lesser])}), ${halfOf(`o${i}`)}, o${i}.weight)`,
          bindings: [...lesser],
        },
  );
  const weight = ['l.weight', ...weighed.map(({ sql }) => sql)].map((each) => `MAX(${each})`).join(' + ');
  if (others.some((term) => term.ids.length === 0)) return [];
  return rows(
    db,
    `SELECT f.id, f.kind, f.occurrence_id AS occurrenceId FROM (
       SELECT l.findable_id, l.at, ${weight} AS weight FROM (${ranges.join(' UNION ALL ')}) l ${joined}
       GROUP BY l.findable_id, l.at ORDER BY weight DESC, l.at DESC LIMIT ${CANDIDATES}) b
       JOIN findables f ON f.id = b.findable_id ORDER BY b.weight DESC, b.at DESC`,
    [...weighed.flatMap((each) => each.bindings), ...bindings, ...others.flatMap((term) => term.ids)],
  );
}

/** The latest that can be found, each kind and each board read by its index. */
async function latest(db: Database, sight: Sight, filters: Filters): Promise<Candidate[]> {
  const bindings: unknown[] = [];
  const ranges = FOUND_KINDS.flatMap((kind) => {
    const where = conditionsOf(kind, sight, filters, 'findables');
    if (!where) return [];
    bindings.push(...where.bindings, CANDIDATES);
    return [
      `(SELECT p.id, p.kind, p.occurrence_id AS occurrenceId, p.at FROM findables p WHERE ${where.sql} ORDER BY p.at DESC LIMIT ?)`,
    ];
  });
  if (ranges.length === 0) return [];
  return rows(
    db,
    `SELECT l.id, l.kind, l.occurrenceId FROM (${ranges.join(' UNION ALL ')}) l ORDER BY l.at DESC LIMIT ${CANDIDATES}`,
    bindings,
  );
}

/** The answers on the shelf that hold any of the words, those that hold more of what says more first. */
export async function answersHolding(
  db: Database,
  words: readonly string[],
  most: number,
): Promise<number[]> {
  if (words.length === 0) return [];
  const terms = await termsOf(db, words);
  const ids = terms.flatMap((term, i) => term.ids.map((id) => ({ id, term: i })));
  if (ids.length === 0) return [];
  // How much a word says: the rarer, the more. Of each word looked for its best place in an answer counts once.
  const cases = ids.map(() => 'WHEN ? THEN ?').join(' ');
  const rarity = (term: number): number => Math.log(1 + COMMON / Math.max(1, terms[term]?.places ?? 1));
  const says = ({ id, term }: { id: number; term: number }): number =>
    rarity(term) * (terms[term]?.lesser.has(id) ? 0.75 : 1);
  const found = await rows<{ id: number }>(
    db,
    `SELECT f.subject_id AS id FROM (
       SELECT h.findable_id, SUM(h.score) AS score FROM (
         SELECT p.findable_id, CASE p.word_id ${cases} END AS term, MAX(p.weight * CASE p.word_id ${cases} END) AS score
         FROM postings p WHERE p.word_id IN (${marks(ids)}) AND p.kind = 'answer' GROUP BY p.findable_id, term) h
       GROUP BY h.findable_id ORDER BY score DESC LIMIT ?) b JOIN findables f ON f.id = b.findable_id
     ORDER BY b.score DESC, f.id`,
    [
      ...ids.flatMap(({ id, term }) => [id, term]),
      ...ids.flatMap((each) => [each.id, says(each)]),
      ...ids.map(({ id }) => id),
      most,
    ],
  );
  return found.map((row) => row.id);
}

/** What some candidates say, in the order of their ids as given. */
export async function foundRows(db: Database, ids: readonly number[]): Promise<FoundRow[]> {
  if (ids.length === 0) return [];
  const found = await rows<FoundRow & { id: number }>(
    db,
    `SELECT g.id, g.kind, g.subject_id AS subjectId, g.board_id AS boardId, g.occurrence_id AS occurrenceId,
       g.author_id AS authorId, COALESCE(a.shown_name, '') AS authorName, g.category, ${ms('g.at')} AS atMs, g.asks, g.title, g.body
     FROM findables g LEFT JOIN people a ON a.id = g.author_id WHERE g.id IN (${ids.map(() => '?').join(', ')})`,
    ids,
  );
  const byId = new Map(found.map((row) => [row.id, row]));
  return ids.flatMap((id) => byId.get(id) ?? []);
}

/** Every category something that can be found is in, by name. */
export async function categories(db: Database): Promise<string[]> {
  const found = await rows<{ category: string }>(
    db,
    "SELECT DISTINCT category FROM findables WHERE category <> '' ORDER BY category LIMIT 200",
  );
  return found.map((row) => row.category);
}
