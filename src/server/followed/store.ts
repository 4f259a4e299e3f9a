import { audienceSchema, type Audience } from '../../core/audience/expression.ts';
import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

/** A calendar that is followed, as it is stored. Instants in milliseconds since 1970. */
export interface FollowedRow {
  id: number;
  name: string;
  url: string | null;
  everyMinutes: number;
  audience: Audience;
  remindMinutes: number | null;
  etag: string | null;
  modified: string | null;
  warnings: string[];
  trouble: string | null;
  failures: number;
  readMs: number | null;
  laidMs: number | null;
  tryMs: number;
  revision: number;
  madeBy: number | null;
}

type Stored = Omit<FollowedRow, 'audience' | 'warnings'> & { audience: string; warnings: string };
const COLUMNS = `f.id, f.name, f.url, f.every_minutes AS everyMinutes, f.audience, f.remind_minutes AS remindMinutes, f.etag, f.modified,
  f.warnings, f.trouble, f.failures, ${ms('f.read_at')} AS readMs, ${ms('f.laid_at')} AS laidMs, ${ms('f.try_at')} AS tryMs, f.revision,
  f.made_by AS madeBy`;
const read = (row: Stored): FollowedRow => ({
  ...row,
  audience: audienceSchema.parse(JSON.parse(row.audience)),
  warnings: JSON.parse(row.warnings) as string[],
});

/** All calendars that are followed, by name. */
export const allFollowed = async (db: Database): Promise<FollowedRow[]> =>
  (await rows<Stored>(db, `SELECT ${COLUMNS} FROM followed_calendars f ORDER BY f.name, f.id LIMIT 200`)).map(
    read,
  );

/** One; held until the transaction ends where that is wanted. */
export async function followedById(db: Database, id: number, held = false): Promise<FollowedRow | undefined> {
  const [row] = await rows<Stored>(
    db,
    `SELECT ${COLUMNS} FROM followed_calendars f WHERE f.id = ?${held ? ' FOR UPDATE' : ''}`,
    [id],
  );
  return row && read(row);
}

/** What one said last; null where it has not been read. */
export async function bodyOf(db: Database, id: number): Promise<string | null> {
  const [row] = await rows<{ body: string | null }>(db, 'SELECT body FROM followed_calendars WHERE id = ?', [
    id,
  ]);
  return row?.body ?? null;
}

interface Kept {
  name: string;
  url: string | null;
  everyMinutes: number;
  audience: Audience;
  remindMinutes: number | null;
}

export async function insertFollowed(db: Database, made: Kept & { madeBy: number }): Promise<number> {
  const [id] = (await db('followed_calendars').insert({
    name: made.name,
    url: made.url,
    every_minutes: made.everyMinutes,
    audience: JSON.stringify(made.audience),
    remind_minutes: made.remindMinutes,
    warnings: '[]',
    try_at: db.raw('NOW(3) + INTERVAL 2 MINUTE'),
    made_by: made.madeBy,
  })) as [number];
  return id;
}

/** Changes one over the revision its author saw, and reads it anew; false where it is not that any more. */
export async function saveFollowed(db: Database, id: number, revision: number, kept: Kept): Promise<boolean> {
  return (
    (await change(
      db,
      `UPDATE followed_calendars SET etag = IF(url <=> ?, etag, NULL), modified = IF(url <=> ?, modified, NULL), name = ?, url = ?,
         every_minutes = ?, audience = ?, remind_minutes = ?, revision = revision + 1 WHERE id = ? AND revision = ?`,
      [
        kept.url,
        kept.url,
        kept.name,
        kept.url,
        kept.everyMinutes,
        JSON.stringify(kept.audience),
        kept.remindMinutes,
        id,
        revision,
      ],
    )) === 1
  );
}

export const deleteFollowed = (db: Database, id: number): Promise<number> =>
  change(db, 'DELETE FROM followed_calendars WHERE id = ?', [id]);

/** Notes that one was read and its dates laid out, and what it said. A body of null leaves what it said before. */
export const markRead = (
  db: Database,
  id: number,
  said: { body: string | null; etag: string | null; modified: string | null; warnings: readonly string[] },
): Promise<number> =>
  change(
    db,
    `UPDATE followed_calendars SET body = COALESCE(?, body), etag = ?, modified = ?, warnings = ?, trouble = NULL, failures = 0,
       read_at = NOW(3), laid_at = NOW(3), try_at = NOW(3) + INTERVAL every_minutes MINUTE WHERE id = ?`,
    [
      said.body,
      said.etag?.slice(0, 300) ?? null,
      said.modified?.slice(0, 100) ?? null,
      JSON.stringify(said.warnings),
      id,
    ],
  );

/** Notes that one says what it said before. */
export const markSame = (db: Database, id: number): Promise<number> =>
  change(
    db,
    `UPDATE followed_calendars SET trouble = NULL, failures = 0, read_at = NOW(3), try_at = NOW(3) + INTERVAL every_minutes MINUTE
     WHERE id = ?`,
    [id],
  );

/** Notes why one could not be read; it is tried again after growing waits of at most six hours. */
export const markTrouble = (db: Database, id: number, trouble: string): Promise<number> =>
  change(
    db,
    `UPDATE followed_calendars SET trouble = ?, failures = LEAST(failures + 1, 1000),
       try_at = NOW(3) + INTERVAL LEAST(GREATEST(every_minutes, 360), every_minutes * POW(2, LEAST(failures, 8))) MINUTE WHERE id = ?`,
    [trouble.slice(0, 300), id],
  );

/** Claims one that is due to be read, so that no other engine reads it meanwhile; nothing where none is. */
export async function claimDue(db: Database): Promise<FollowedRow | undefined> {
  const [row] = await rows<Stored>(
    db,
    `SELECT ${COLUMNS} FROM followed_calendars f WHERE f.try_at <= NOW(3) ORDER BY f.try_at LIMIT 1 FOR UPDATE SKIP LOCKED`,
  );
  if (!row) return undefined;
  await change(db, 'UPDATE followed_calendars SET try_at = NOW(3) + INTERVAL 2 MINUTE WHERE id = ?', [
    row.id,
  ]);
  return read(row);
}

/** The sessions that come from one, by their UID there. */
export async function sessionsFrom(db: Database, followedId: number): Promise<Map<string, number>> {
  const found = await rows<{ id: number; uid: string }>(
    db,
    'SELECT id, followed_uid AS uid FROM calendar_sessions WHERE followed_id = ? AND followed_uid IS NOT NULL ORDER BY id',
    [followedId],
  );
  return new Map(found.map(({ id, uid }) => [uid, id]));
}

export const setFollowed = (
  db: Database,
  sessionId: number,
  followedId: number,
  uid: string,
): Promise<number> =>
  change(db, 'UPDATE calendar_sessions SET followed_id = ?, followed_uid = ? WHERE id = ?', [
    followedId,
    uid,
    sessionId,
  ]);

/** Lets the sessions of one be our own: they stay as they are. */
export const releaseSessions = (db: Database, followedId: number): Promise<number> =>
  change(
    db,
    'UPDATE calendar_sessions SET followed_id = NULL, followed_uid = NULL, revision = revision + 1 WHERE followed_id = ?',
    [followedId],
  );

/** Deletes a session none of whose dates is left; false where it has one. */
export const deleteEmptySession = async (db: Database, id: number): Promise<boolean> =>
  (await change(
    db,
    'DELETE FROM calendar_sessions WHERE id = ? AND NOT EXISTS (SELECT 1 FROM session_dates d WHERE d.session_id = ?)',
    [id, id],
  )) === 1;

/** Lets a session that was called off as a whole take place again. */
export const markTakesPlace = (db: Database, id: number): Promise<number> =>
  change(db, 'UPDATE calendar_sessions SET called_off_at = NULL, revision = revision + 1 WHERE id = ?', [id]);

/** How many sessions of each have a date ahead that takes place. */
export async function sessionsAhead(db: Database): Promise<Map<number, number>> {
  const found = await rows<{ id: number; n: number }>(
    db,
    `SELECT s.followed_id AS id, COUNT(DISTINCT s.id) AS n FROM calendar_sessions s JOIN session_dates d ON d.session_id = s.id
     WHERE s.followed_id IS NOT NULL AND d.starts_at > NOW(3) AND NOT d.called_off GROUP BY s.followed_id`,
  );
  return new Map(found.map(({ id, n }) => [id, n]));
}
