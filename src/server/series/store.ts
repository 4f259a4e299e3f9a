import type { Image } from '../../core/content/section.ts';
import { seriesSchema, type Issue, type Series, type SeriesFrame } from '../../core/series/series.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

interface Row {
  id: number;
  name: string;
  banner: string | null;
  heading: string;
  byline: string;
  categories: string;
  nextNumber: number;
}

const SERIES = 'SELECT id, name, banner, heading, byline, categories, next_number AS nextNumber FROM series';

const read = (row: Row): Series => ({
  id: row.id,
  nextNumber: row.nextNumber,
  ...seriesSchema.parse({
    name: row.name,
    heading: row.heading,
    byline: row.byline,
    banner: JSON.parse(row.banner ?? 'null') as unknown,
    categories: JSON.parse(row.categories) as unknown,
  }),
});

export async function allSeries(db: Database): Promise<Series[]> {
  return (await rows<Row>(db, `${SERIES} ORDER BY name`)).map(read);
}

export async function seriesById(db: Database, id: number): Promise<Series | undefined> {
  const [row] = await rows<Row>(db, `${SERIES} WHERE id = ?`, [id]);
  return row && read(row);
}

export async function bannerOf(db: Database, id: number): Promise<Image | null> {
  return (await seriesById(db, id))?.banner ?? null;
}

const columns = (frame: SeriesFrame): Record<string, unknown> => ({
  name: frame.name,
  banner: frame.banner && JSON.stringify(frame.banner),
  heading: frame.heading,
  byline: frame.byline,
  categories: JSON.stringify(frame.categories),
});

/** @throws the database's duplicate-key error where a series has this name */
export async function insertSeries(db: Database, frame: SeriesFrame, nextNumber = 1): Promise<number> {
  const [id] = await db('series').insert({ ...columns(frame), next_number: nextNumber });
  return id ?? 0;
}

export async function updateSeries(db: Database, id: number, frame: SeriesFrame): Promise<void> {
  await db('series').where({ id }).update(columns(frame));
}

/** Takes the next number of a series; every caller gets another one. */
export async function takeNumber(db: Database, id: number): Promise<number | null> {
  const changed = await change(
    db,
    'UPDATE series SET next_number = LAST_INSERT_ID(next_number) + 1 WHERE id = ?',
    [id],
  );
  if (changed === 0) return null;
  const [row] = await rows<{ number: number }>(db, 'SELECT LAST_INSERT_ID() AS number');
  return row?.number ?? null;
}

/** The issues of a series, the latest first; of one category, or all. */
export function issuesOf(
  db: Database,
  seriesId: number,
  category: string | null,
  most: number,
): Promise<Issue[]> {
  return rows(
    db,
    `SELECT o.id AS occurrenceId, s.announcement_id AS announcementId, v.title, v.category, v.number, o.state,
       ${ms('o.due_at')} AS dueMs
     FROM announcement_versions v JOIN occurrences o ON o.version_id = v.id JOIN sends s ON s.id = o.send_id
     WHERE v.series_id = ? AND (? IS NULL OR v.category = ?) AND s.kind = 'send' AND o.state <> 'recalled'
     ORDER BY o.due_at DESC, o.id DESC LIMIT ?`,
    [seriesId, category, category, most],
  );
}

/** The announcement last written for a series, for the frame of the next one. */
export async function latestIn(db: Database, seriesId: number): Promise<number | undefined> {
  const [row] = await rows<{ announcementId: number }>(
    db,
    `SELECT announcement_id AS announcementId FROM announcement_versions
     WHERE series_id = ? AND kind = 'sent' ORDER BY number DESC, id DESC LIMIT 1`,
    [seriesId],
  );
  return row?.announcementId;
}

/** The issue before this one in its series, of those that have gone. */
export async function issueBefore(
  db: Database,
  seriesId: number,
  dueMs: number,
): Promise<number | undefined> {
  const [row] = await rows<{ id: number }>(
    db,
    `SELECT o.id FROM announcement_versions v JOIN occurrences o ON o.version_id = v.id JOIN sends s ON s.id = o.send_id
     WHERE v.series_id = ? AND o.due_at < ? AND o.state IN ('going out', 'sent') AND s.kind = 'send'
     ORDER BY o.due_at DESC LIMIT 1`,
    [seriesId, new Date(dueMs)],
  );
  return row?.id;
}

/**
 * The issues of a series that came to a person's inbox or stand on one of some boards, the latest first; with the post
 * where it did not come to the inbox.
 */
export function issuesFor(
  db: Database,
  seriesId: number,
  personId: number,
  boardIds: readonly number[],
): Promise<
  {
    occurrenceId: number;
    title: string;
    category: string;
    number: number | null;
    dueMs: number;
    postId: number | null;
  }[]
> {
  const boards = boardIds.length > 0 ? boardIds.map(() => '?').join(', ') : 'NULL';
  return rows(
    db,
    `SELECT i.* FROM (
       SELECT o.id AS occurrenceId, v.title, v.category, v.number, ${ms('o.due_at')} AS dueMs, d.person_id IS NOT NULL AS came,
         IF(d.person_id IS NULL, (SELECT MIN(q.id) FROM posts q WHERE q.occurrence_id = o.id AND q.state = 'up'
           AND q.board_id IN (${boards})), NULL) AS postId
       FROM announcement_versions v JOIN occurrences o ON o.version_id = v.id JOIN sends s ON s.id = o.send_id
         LEFT JOIN deliveries d ON d.occurrence_id = o.id AND d.person_id = ? AND d.method = 'inbox' AND d.state = 'delivered'
       WHERE v.series_id = ? AND s.kind = 'send' AND o.state IN ('going out', 'sent')) i
     WHERE i.came OR i.postId IS NOT NULL ORDER BY i.dueMs DESC, i.occurrenceId DESC LIMIT 500`,
    [...boardIds, personId, seriesId],
  );
}
