import { change, rows, type Database } from '../database/connection.ts';
import { ms } from '../database/instant.ts';

export const setNewsKey = (db: Database, personId: number, hash: Buffer): Promise<number> =>
  change(db, 'UPDATE people SET news_key = ? WHERE id = ?', [hash, personId]);

/** Whose key it is; nobody where they have left. */
export async function personByNewsKey(db: Database, hash: Buffer): Promise<{ id: number } | undefined> {
  const [row] = await rows<{ id: number }>(
    db,
    "SELECT id FROM people WHERE news_key = ? AND standing <> 'left'",
    [hash],
  );
  return row;
}

/** What went out, as a feed tells of it. Instants in milliseconds since 1970. */
export interface Sent {
  occurrenceId: number;
  title: string;
  author: string;
  atMs: number;
  correctedMs: number | null;
  withdrawnMs: number | null;
  withdrawn: string | null;
  versionId: number;
  /** As it is stored; `readBody` reads it. */
  body: string;
}

const SENT = `o.id AS occurrenceId, o.version_id AS versionId, v.title, COALESCE(NULLIF(v.byline, ''), p.name) AS author, ${ms('o.corrected_at')} AS correctedMs,
  ${ms('o.withdrawn_at')} AS withdrawnMs, o.withdrawn_note AS withdrawn, v.body`;
const JOINED = `JOIN sends s ON s.id = o.send_id JOIN people p ON p.id = s.created_by
  JOIN announcement_versions v ON v.id = o.version_id`;

/** A page of what came to somebody, the latest first, from before the last one of the page before. */
export async function cameTo(
  db: Database,
  personId: number,
  before: { atMs: number; id: number } | null,
  most: number,
): Promise<Sent[]> {
  const at = before && new Date(before.atMs);
  const order = 'ORDER BY d.went_at DESC, d.occurrence_id DESC';
  // The page is picked from the index first and only then joined.
  const page = `(SELECT d.occurrence_id, d.went_at FROM deliveries d
    WHERE d.person_id = ? AND d.method = 'inbox' AND d.state = 'delivered'
      ${before ? 'AND d.went_at <= ? AND (d.went_at < ? OR d.occurrence_id < ?)' : ''} ${order} LIMIT ?)`;
  return rows(
    db,
    `SELECT ${SENT}, ${ms('d.went_at')} AS atMs FROM ${page} d JOIN occurrences o ON o.id = d.occurrence_id ${JOINED} ${order}`,
    [personId, ...(before ? [at, at, before.id] : []), most],
  );
}

/** Some of what went out, by id. */
export async function sentByIds(db: Database, ids: readonly number[]): Promise<Map<number, Sent>> {
  if (ids.length === 0) return new Map();
  const found = await rows<Sent>(
    db,
    `SELECT ${SENT}, ${ms('o.due_at')} AS atMs FROM occurrences o ${JOINED} WHERE o.id IN (${ids.map(() => '?').join(', ')})`,
    ids,
  );
  return new Map(found.map((row) => [row.occurrenceId, row]));
}
