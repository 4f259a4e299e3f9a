import { stemOf, weights, type FoundKind } from '../../core/search/query.ts';
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

/** The ids of words, with those made that are not known yet; in order, so that two who make some do not wait in a ring. */
async function wordIds(db: Database, words: readonly string[]): Promise<Map<string, number>> {
  if (words.length === 0) return new Map();
  const known = async (): Promise<Map<string, number>> =>
    new Map(
      (
        await rows<{ id: number; word: string }>(
          db,
          `SELECT id, word FROM search_words WHERE word IN (${words.map(() => '?').join(', ')})`,
          words,
        )
      ).map(({ id, word }) => [word, id]),
    );
  const found = await known();
  const missing = words.filter((word) => !found.has(word)).sort();
  if (missing.length === 0) return found;
  await change(
    db,
    `INSERT IGNORE INTO search_words (word, stem) VALUES ${missing.map(() => '(?, ?)').join(', ')}`,
    missing.flatMap((word) => [word, stemOf(word)]),
  );
  return known();
}

/** Makes something findable, or puts its new words in the place of the old. Call it in the transaction of the change. */
export async function makeFindable(db: Database, found: Findable): Promise<void> {
  const title = found.title.slice(0, 200);
  const body = found.body.slice(0, 20_000);
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
      title,
      body,
    ],
  );
  const [made] = await rows<{ id: number; at: Date }>(
    db,
    'SELECT id, at FROM findables WHERE kind = ? AND subject_id = ?',
    [found.kind, found.subjectId],
  );
  if (!made) return;
  await change(db, 'DELETE FROM postings WHERE findable_id = ?', [made.id]);
  const weighed = weights(title, body);
  const ids = await wordIds(db, [...weighed.keys()]);
  const postings = [...weighed].flatMap(([word, weight]) => {
    const id = ids.get(word);
    return id === undefined ? [] : [[id, weight]];
  });
  if (postings.length > 0)
    await change(
      db,
      `INSERT INTO postings (word_id, weight, kind, at, findable_id, place_id, author_id)
       VALUES ${postings.map(() => '(?, ?, ?, ?, ?, ?, ?)').join(', ')}`,
      postings.flatMap((posting) => [
        ...posting,
        found.kind,
        made.at,
        made.id,
        found.kind === 'announcement'
          ? found.subjectId
          : found.kind === 'check-in'
            ? (found.occurrenceId ?? 0)
            : (found.boardId ?? 0),
        found.authorId,
      ]),
    );
}

/** Takes something out of the search. */
export async function makeUnfindable(db: Database, kind: FoundKind, subjectId: number): Promise<void> {
  await change(
    db,
    `DELETE p FROM postings p JOIN findables f ON f.id = p.findable_id WHERE f.kind = ? AND f.subject_id = ?`,
    [kind, subjectId],
  );
  await change(db, 'DELETE FROM findables WHERE kind = ? AND subject_id = ?', [kind, subjectId]);
}

/** Takes out of the search what is of a kind and of a board. */
export async function forgetOfBoard(db: Database, kind: FoundKind, boardId: number): Promise<void> {
  await change(
    db,
    'DELETE p FROM postings p JOIN findables f ON f.id = p.findable_id WHERE f.kind = ? AND f.board_id = ?',
    [kind, boardId],
  );
  await change(db, 'DELETE FROM findables WHERE kind = ? AND board_id = ?', [kind, boardId]);
}

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
export async function notFindable(
  db: Database,
  most: number,
  occurrenceId: number | null = null,
): Promise<Unindexed[]> {
  const [announcements, posts] = await Promise.all([
    rows<Unindexed>(
      db,
      `SELECT 'announcement' AS kind, o.id, o.version_id AS versionId, NULL AS boardId, o.id AS occurrenceId,
         s.created_by AS authorId, ${ms('o.due_at')} AS atMs, JSON_VALUE(s.plan, '$.ask.kind') <> 'nothing' AS asks
       FROM occurrences o JOIN sends s ON s.id = o.send_id
       WHERE o.state IN ('going out', 'sent') AND s.kind = 'send' AND o.withdrawn_at IS NULL AND (? IS NULL OR o.id = ?)
         AND NOT EXISTS (SELECT 1 FROM findables f WHERE f.kind = 'announcement' AND f.subject_id = o.id) LIMIT ?`,
      [occurrenceId, occurrenceId, most],
    ),
    rows<Unindexed>(
      db,
      `SELECT 'post' AS kind, p.id, p.version_id AS versionId, p.board_id AS boardId, p.occurrence_id AS occurrenceId,
         p.author_id AS authorId, ${ms('p.posted_at')} AS atMs, FALSE AS asks
       FROM posts p WHERE p.state = 'up' AND p.part = 1 AND (? IS NULL OR p.occurrence_id = ?)
         AND NOT EXISTS (SELECT 1 FROM findables f WHERE f.kind = 'post' AND f.subject_id = p.id) LIMIT ?`,
      [occurrenceId, occurrenceId, most],
    ),
  ]);
  return [...announcements, ...posts];
}

/** Forgets the words of an occurrence and of what it put on boards. */
export async function forgetOccurrence(db: Database, occurrenceId: number): Promise<void> {
  await change(
    db,
    "DELETE g FROM postings g JOIN findables f ON f.id = g.findable_id WHERE f.occurrence_id = ? AND f.kind <> 'check-in'",
    [occurrenceId],
  );
  await change(db, "DELETE FROM findables WHERE occurrence_id = ? AND kind <> 'check-in'", [occurrenceId]);
}

/** Boards with key links that cannot be found yet, and check-ins in which somebody said what cannot be, some at a time. */
export async function alsoNotFindable(
  db: Database,
  most: number,
): Promise<{ boards: number[]; checkIns: { occurrenceId: number; personId: number }[] }> {
  const [boards, checkIns] = await Promise.all([
    rows<{ id: number }>(
      db,
      `SELECT DISTINCT l.board_id AS id FROM board_links l
       WHERE NOT EXISTS (SELECT 1 FROM findables f WHERE f.kind = 'link' AND f.subject_id = l.id) LIMIT ?`,
      [most],
    ),
    rows<{ occurrenceId: number; personId: number }>(
      db,
      `SELECT c.occurrence_id AS occurrenceId, c.person_id AS personId FROM check_ins c
       WHERE NOT EXISTS (SELECT 1 FROM findables f WHERE f.kind = 'check-in' AND f.subject_id = c.id)
       ORDER BY c.id DESC LIMIT ?`,
      [most],
    ),
  ]);
  return { boards: boards.map((row) => row.id), checkIns };
}
