import { sourceSchema, type Source } from '../../core/automation/source.ts';
import { change, rows, type Database } from '../database/connection.ts';

export interface SourceRow extends Source {
  id: number;
  sealed: Buffer | null;
}

interface Stored {
  id: number;
  source: string;
  sealed: Buffer | null;
}

const read = ({ source, ...row }: Stored): SourceRow => ({
  ...row,
  ...sourceSchema.parse(JSON.parse(source)),
});

/** All sources, by name. */
export async function allSources(db: Database): Promise<SourceRow[]> {
  return (await rows<Stored>(db, 'SELECT id, source, secret AS sealed FROM sources ORDER BY name')).map(read);
}

export async function sourceById(db: Database, id: number): Promise<SourceRow | undefined> {
  const [row] = await rows<Stored>(db, 'SELECT id, source, secret AS sealed FROM sources WHERE id = ?', [id]);
  return row && read(row);
}

/** @throws the database's duplicate-key error where there is a source of this name */
export async function insertSource(
  db: Database,
  source: Source,
  sealed: Buffer | null,
  by: number,
): Promise<number> {
  const [id] = await db('sources').insert({
    name: source.name,
    source: JSON.stringify(source),
    secret: sealed,
    made_by: by,
  });
  return id ?? 0;
}

/** Changes a source, and with it the secret that is kept for it. */
export async function changeSource(
  db: Database,
  id: number,
  source: Source,
  sealed: Buffer | null,
): Promise<void> {
  await change(db, 'UPDATE sources SET name = ?, source = ?, secret = ? WHERE id = ?', [
    source.name,
    JSON.stringify(source),
    sealed,
    id,
  ]);
}

/** An answer that is kept and not older than so many minutes; nothing where there is none. */
export async function keptAnswer(
  db: Database,
  sourceId: number,
  asked: Buffer,
  minutes: number,
): Promise<unknown> {
  const [row] = await rows<{ answer: string }>(
    db,
    'SELECT answer FROM source_answers WHERE source_id = ? AND asked = ? AND answered_at > NOW(3) - INTERVAL ? MINUTE',
    [sourceId, asked, minutes],
  );
  return row && (JSON.parse(row.answer) as unknown);
}

export async function keepAnswer(
  db: Database,
  sourceId: number,
  asked: Buffer,
  answer: unknown,
): Promise<void> {
  await change(
    db,
    `INSERT INTO source_answers (source_id, asked, answer) VALUES (?, ?, ?)
     ON DUPLICATE KEY UPDATE answer = VALUES(answer), answered_at = NOW(3)`,
    [sourceId, asked, JSON.stringify(answer)],
  );
}

/** Forgets answers older than a day. */
export const forgetAnswers = (db: Database): Promise<number> =>
  change(db, 'DELETE FROM source_answers WHERE answered_at < NOW(3) - INTERVAL 1 DAY LIMIT 10000');
