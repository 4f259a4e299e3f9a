import type { FoundKind } from '../../core/search/query.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** Something that can be found: what it stands for, and its words. */
export interface Findable {
  kind: FoundKind;
  subjectId: number;
  boardId: number | null;
  occurrenceId: number | null;
  authorId: number;
  category: string;
  /** Milliseconds since 1970; null is now. */
  atMs: number | null;
  asks: boolean;
  title: string;
  body: string;
}

/** Makes something findable, or puts its new words in the place of the old. Call it in the transaction of the change. */
export async function makeFindable(db: Database, found: Findable): Promise<void> {
  await change(
    db,
    `INSERT INTO findables (kind, subject_id, board_id, occurrence_id, author_id, category, at, asks, title, body)
     VALUES (?, ?, ?, ?, ?, ?, COALESCE(?, NOW(3)), ?, ?, ?)
     ON DUPLICATE KEY UPDATE category = VALUES(category), title = VALUES(title), body = VALUES(body), asks = VALUES(asks)`,
    [
      found.kind,
      found.subjectId,
      found.boardId,
      found.occurrenceId,
      found.authorId,
      found.category,
      found.atMs === null ? null : new Date(found.atMs),
      found.asks,
      found.title.slice(0, 200),
      found.body.slice(0, 20_000),
    ],
  );
}

/** Takes something out of the search. */
export const makeUnfindable = (db: Database, kind: FoundKind, subjectId: number): Promise<number> =>
  change(db, 'DELETE FROM findables WHERE kind = ? AND subject_id = ?', [kind, subjectId]);

export interface Unindexed {
  kind: 'announcement' | 'post';
  id: number;
  versionId: number;
  boardId: number | null;
  occurrenceId: number | null;
  authorId: number;
  atMs: number;
  asks: number;
}

/** What has gone out or stands on a board and cannot be found yet, some at a time. */
export async function notFindable(db: Database, most: number): Promise<Unindexed[]> {
  const [announcements, posts] = await Promise.all([
    rows<Unindexed>(
      db,
      `SELECT 'announcement' AS kind, o.id, o.version_id AS versionId, NULL AS boardId, o.id AS occurrenceId,
         s.created_by AS authorId, ${ms('o.due_at')} AS atMs, JSON_VALUE(s.plan, '$.ask.kind') <> 'nothing' AS asks
       FROM occurrences o JOIN sends s ON s.id = o.send_id
       WHERE o.state IN ('going out', 'sent') AND s.kind = 'send'
         AND NOT EXISTS (SELECT 1 FROM findables f WHERE f.kind = 'announcement' AND f.subject_id = o.id) LIMIT ?`,
      [most],
    ),
    rows<Unindexed>(
      db,
      `SELECT 'post' AS kind, p.id, p.version_id AS versionId, p.board_id AS boardId, p.occurrence_id AS occurrenceId,
         p.author_id AS authorId, ${ms('p.posted_at')} AS atMs, FALSE AS asks
       FROM posts p WHERE p.state = 'up' AND p.part = 1
         AND NOT EXISTS (SELECT 1 FROM findables f WHERE f.kind = 'post' AND f.subject_id = p.id) LIMIT ?`,
      [most],
    ),
  ]);
  return [...announcements, ...posts];
}

/** What may be found by whom: the boards they see, and their own inbox or, for a coordinator, whatever went out. */
export interface Sight {
  personId: number;
  boardIds: readonly number[];
  everything: boolean;
  /** The signs of an editor: what they sent themselves. */
  ownSends: boolean;
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

/** Rows looked at before they are ranked by what else counts; more than anybody pages through. */
const CANDIDATES = 300;

/**
 * What holds the words, ranked by them and by how recent it is. Without words: the latest.
 *
 * The full-text index gives its best candidates first, within one kind of place at a time, and only those are joined
 * and looked at closer: a common word among 100,000 posts would otherwise be joined a hundred thousand times.
 *
 * @param words a boolean search expression, or ''
 */
export function findWords(
  db: Database,
  words: string,
  sight: Sight,
  filters: Filters,
  page: { from: number; most: number },
): Promise<FoundRow[]> {
  const bindings: unknown[] = [];
  const conditions: string[] = [];
  const add = (sql: string, ...values: unknown[]): void => {
    conditions.push(sql);
    bindings.push(...values);
  };
  if (words !== '') add('MATCH (f.title, f.body) AGAINST (? IN BOOLEAN MODE)', words);
  const boards = filters.boardIds
    ? sight.boardIds.filter((id) => filters.boardIds?.includes(id))
    : sight.boardIds;
  const places: string[] = [];
  const placeBindings: unknown[] = [];
  if (boards.length > 0) {
    places.push(`f.board_id IN (${boards.map(() => '?').join(', ')})`);
    placeBindings.push(...boards);
  }
  if (!filters.boardIds) {
    places.push("f.kind = 'answer'");
    if (sight.everything) places.push("f.kind = 'announcement'");
    else {
      places.push(
        `(f.kind = 'announcement' AND (EXISTS (SELECT 1 FROM deliveries d WHERE d.occurrence_id = f.subject_id
           AND d.person_id = ? AND d.method = 'inbox' AND d.state = 'delivered')${sight.ownSends ? ' OR f.author_id = ?' : ''}))`,
      );
      placeBindings.push(sight.personId, ...(sight.ownSends ? [sight.personId] : []));
    }
  }
  if (places.length === 0) return Promise.resolve([]);
  add(`(${places.join(' OR ')})`, ...placeBindings);
  if (filters.kind) add('f.kind = ?', filters.kind);
  if (filters.authorId !== undefined) add('f.author_id = ?', filters.authorId);
  if (filters.category !== undefined && filters.category !== '') add('f.category = ?', filters.category);
  if (filters.fromMs !== undefined) add('f.at >= ?', new Date(filters.fromMs));
  if (filters.beforeMs !== undefined) add('f.at < ?', new Date(filters.beforeMs));
  if (filters.asks) add('f.asks');
  const rank =
    words === '' ? 'f.at DESC' : `MATCH (f.title, f.body) AGAINST (? IN BOOLEAN MODE) DESC, f.at DESC`;
  return rows(
    db,
    `SELECT g.kind, g.subject_id AS subjectId, g.board_id AS boardId, g.occurrence_id AS occurrenceId, g.author_id AS authorId, a.name AS authorName,
       g.category, ${ms('g.at')} AS atMs, g.asks, g.title, g.body
     FROM (SELECT f.* FROM findables f WHERE ${conditions.join(' AND ')} ORDER BY ${rank} LIMIT ${CANDIDATES}) g
       JOIN people a ON a.id = g.author_id LIMIT ? OFFSET ?`,
    [...bindings, ...(words === '' ? [] : [words]), page.most, page.from],
  );
}

/** Every category something that can be found is in, by name. */
export async function categories(db: Database): Promise<string[]> {
  const found = await rows<{ category: string }>(
    db,
    "SELECT DISTINCT category FROM findables WHERE category <> '' ORDER BY category LIMIT 200",
  );
  return found.map((row) => row.category);
}
