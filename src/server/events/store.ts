import { CONSUMER_NAMES } from '../../core/events/consumer.ts';
import { EVENTS, type Detail, type EventKind, type StoredEvent } from '../../core/events/event.ts';
import { change, rows, transact, type Database } from '../database/connection.ts';

/** Writes that something happened. Call it in the transaction that made it happen. */
export async function emit<K extends EventKind>(db: Database, kind: K, detail: Detail<K>): Promise<void> {
  const { version, subject } = EVENTS[kind] as unknown as {
    version: number;
    subject: (detail: Detail<K>) => string;
  };
  await change(db, 'INSERT INTO events (kind, version, subject, detail) VALUES (?, ?, ?, ?)', [
    kind,
    version,
    subject(detail),
    JSON.stringify(detail),
  ]);
}

/** As `emit`, for many events of one kind at once. */
export async function emitAll<K extends EventKind>(
  db: Database,
  kind: K,
  details: readonly Detail<K>[],
): Promise<void> {
  const { version, subject } = EVENTS[kind] as unknown as {
    version: number;
    subject: (detail: Detail<K>) => string;
  };
  for (let at = 0; at < details.length; at += 1000)
    await db('events').insert(
      details
        .slice(at, at + 1000)
        .map((detail) => ({ kind, version, subject: subject(detail), detail: JSON.stringify(detail) })),
    );
}

/** An event in its place in the order in which events are followed up. */
export interface PlacedEvent extends StoredEvent {
  position: number;
  subject: string;
}

type Row<T> = Omit<T, 'detail'> & { detail: string };

const EVENT = 'e.id, e.kind, e.version, e.detail';
const read = <T extends StoredEvent>(row: Row<T>): T =>
  ({ ...row, detail: JSON.parse(row.detail) as unknown }) as T;

/**
 * The ids of what happened in the last seconds, in order of time, which the index has them in: ordered by id, the database may
 * read the whole log for a few. They may appear out of order: a transaction commits when it commits.
 *
 * @param most no more than this many, where it matters only whether there are more
 */
export async function recentIds(db: Database, seconds: number, most = 1_000_000): Promise<number[]> {
  const found = await rows<{ id: number }>(
    db,
    'SELECT id FROM events WHERE at > NOW(3) - INTERVAL ? SECOND ORDER BY at LIMIT ?',
    [seconds, most],
  );
  return found.map((row) => row.id);
}

/** Some events by their ids. */
export async function eventsById(db: Database, ids: readonly number[]): Promise<StoredEvent[]> {
  if (ids.length === 0) return [];
  const found = await rows<Row<StoredEvent>>(
    db,
    `SELECT ${EVENT} FROM events e WHERE e.id IN (${ids.map(() => '?').join(', ')}) ORDER BY e.id`,
    ids,
  );
  return found.map((row) => read(row));
}

const MOST_PLACED = 500;

/**
 * Gives events that have been committed their place, each once, after all that have one. An event that commits late gets
 * a late place, so that who follows by places misses none.
 *
 * @returns how many got a place
 */
export function placeEvents(db: Database): Promise<number> {
  return transact(db, async (trx) => {
    const waiting = await rows(trx, 'SELECT 1 FROM events WHERE position IS NULL LIMIT 1');
    if (waiting.length === 0) return 0;
    const [last] = await rows<{ position: number }>(
      trx,
      "SELECT position FROM event_positions WHERE name = 'last' FOR UPDATE",
    );
    if (!last) throw new Error('The order of events has no beginning');
    const ids = (
      await rows<{ id: number }>(
        trx,
        `SELECT id FROM events WHERE position IS NULL ORDER BY id LIMIT ${MOST_PLACED}`,
      )
    ).map((row) => row.id);
    if (ids.length === 0) return 0;
    const marks = ids.map(() => '?').join(', ');
    await change(trx, `UPDATE events SET position = ? + FIELD(id, ${marks}) WHERE id IN (${marks})`, [
      last.position,
      ...ids,
      ...ids,
    ]);
    await change(trx, "UPDATE event_positions SET position = ? WHERE name = 'last'", [
      last.position + ids.length,
    ]);
    return ids.length;
  });
}

/** How far each consumer has followed, and whether events it set aside are to be tried again by now. */
export async function positions(db: Database): Promise<Map<string, { position: number; again: boolean }>> {
  const found = await rows<{ name: string; position: number; again: number }>(
    db,
    `SELECT p.name, p.position, EXISTS (SELECT 1 FROM set_aside x
       WHERE x.kind = p.name AND x.given_up_at IS NULL AND x.try_at <= NOW(3)) AS again FROM event_positions p`,
  );
  return new Map(found.map(({ name, position, again }) => [name, { position, again: again === 1 }]));
}

/** Moves a consumer on; false where another process has done so meanwhile. In the transaction of what it did. */
export const movePosition = async (
  db: Database,
  consumer: string,
  from: number,
  to: number,
): Promise<boolean> =>
  (await change(db, 'UPDATE event_positions SET position = ? WHERE name = ? AND position = ?', [
    to,
    consumer,
    from,
  ])) === 1;

/** The events after a place, in order. */
export async function eventsAfter(db: Database, position: number, most: number): Promise<PlacedEvent[]> {
  const found = await rows<Row<PlacedEvent>>(
    db,
    `SELECT ${EVENT}, e.position, e.subject FROM events e WHERE e.position > ? ORDER BY e.position LIMIT ?`,
    [position, most],
  );
  return found.map((row) => read(row));
}

/**
 * Of which of some subjects an event is set aside and not given up, so that later ones wait for it: the place of the earliest, by
 * the subject.
 */
export async function subjectsAside(
  db: Database,
  consumer: string,
  subjects: readonly string[],
): Promise<Map<string, number>> {
  const found = await rows<{ subject: string; position: number }>(
    db,
    `SELECT e.subject, MIN(e.position) AS position
     FROM set_aside x STRAIGHT_JOIN events e ON e.id = x.subject_id
     WHERE x.kind = ? AND x.given_up_at IS NULL AND e.subject IN (${subjects.map(() => '?').join(', ')})
     GROUP BY e.subject`,
    [consumer, ...subjects],
  );
  return new Map(found.map(({ subject, position }) => [subject, position]));
}

/** Events a consumer set aside whose time has come, in order; without those that wait for an earlier one. */
export async function eventsToTryAgain(db: Database, consumer: string, most: number): Promise<PlacedEvent[]> {
  const found = await rows<Row<PlacedEvent>>(
    db,
    `SELECT ${EVENT}, e.position, e.subject FROM set_aside x JOIN events e ON e.id = x.subject_id
     WHERE x.kind = ? AND x.given_up_at IS NULL AND x.try_at <= NOW(3)
       AND NOT EXISTS (SELECT 1 FROM events f JOIN set_aside y ON y.kind = x.kind AND y.subject_id = f.id AND y.given_up_at IS NULL
         WHERE f.subject = e.subject AND f.position < e.position)
     ORDER BY e.position LIMIT ?`,
    [consumer, most],
  );
  return found.map((row) => read(row));
}

/** Holds an event that is set aside; false where another process is at it or has done it. */
export async function holdAside(db: Database, consumer: string, id: number): Promise<boolean> {
  const found = await rows(
    db,
    'SELECT 1 FROM set_aside WHERE kind = ? AND subject_id = ? FOR UPDATE SKIP LOCKED',
    [consumer, id],
  );
  return found.length > 0;
}

/** Forgets what is older than a number of hours and what every consumer has followed up. */
export const forgetEvents = (db: Database, hours: number): Promise<number> =>
  change(
    db,
    `DELETE FROM events WHERE at < NOW(3) - INTERVAL ? HOUR AND position <= (SELECT MIN(p.position) FROM event_positions p)
       AND NOT EXISTS (SELECT 1 FROM set_aside x WHERE x.kind IN (${CONSUMER_NAMES.map(() => '?').join(', ')}) AND x.subject_id = events.id)
     LIMIT 10000`,
    [hours, ...CONSUMER_NAMES],
  );
