import { change, rows, transact, type Database } from '../database/connection.ts';
import type { Place } from './address.ts';

export interface Upload {
  key: string;
  name: string;
  /** As found in the bytes, never as claimed. */
  mime: string;
  width: number | null;
  height: number | null;
  bytes: Buffer;
  /** How many bytes it has where it is kept in parts; null where `bytes` is all of it. */
  size: number | null;
}

/** A part of an upload that is kept in parts, in bytes. */
export const PART_BYTES = 1_000_000;

/** Keeps a large upload in parts. */
export async function insertInParts(
  db: Database,
  upload: Pick<Upload, 'key' | 'name' | 'mime'>,
  bytes: Buffer,
  by: number,
): Promise<void> {
  await transact(db, async (trx) => {
    await trx('uploads').insert({
      upload_key: upload.key,
      uploaded_by: by,
      name: upload.name,
      mime: upload.mime,
      bytes: Buffer.alloc(0),
      size: bytes.byteLength,
    });
    for (let n = 0; n * PART_BYTES < bytes.byteLength; n++)
      await trx('upload_parts').insert({
        upload_key: upload.key,
        n,
        bytes: bytes.subarray(n * PART_BYTES, (n + 1) * PART_BYTES),
      });
  });
}

/** Bytes of an upload that is kept in parts, from one to another, both included. */
export async function bytesOf(db: Database, key: string, from: number, to: number): Promise<Buffer> {
  const first = Math.floor(from / PART_BYTES);
  const found = await rows<{ bytes: Buffer }>(
    db,
    'SELECT bytes FROM upload_parts WHERE upload_key = ? AND n BETWEEN ? AND ? ORDER BY n',
    [key, first, Math.floor(to / PART_BYTES)],
  );
  const start = from - first * PART_BYTES;
  return Buffer.concat(found.map((part) => part.bytes)).subarray(start, start + to - from + 1);
}

export async function insertUpload(db: Database, upload: Omit<Upload, 'size'>, by: number): Promise<void> {
  await db('uploads').insert({
    upload_key: upload.key,
    uploaded_by: by,
    name: upload.name,
    mime: upload.mime,
    width: upload.width,
    height: upload.height,
    bytes: upload.bytes,
  });
}

export async function uploadByKey(db: Database, key: string): Promise<Upload | undefined> {
  const [row] = await rows<Upload>(
    db,
    'SELECT upload_key AS `key`, name, mime, width, height, bytes, size FROM uploads WHERE upload_key = ?',
    [key],
  );
  return row;
}

/** What of a place an upload may stand in, as it is now; null where the place is gone or is not to be read any more. */
const TEXTS: Record<Place, string> = {
  post: "SELECT v.body AS text FROM posts o JOIN announcement_versions v ON v.id = o.version_id WHERE o.id = ? AND o.state = 'up'",
  'own post':
    "SELECT v.body AS text FROM posts o JOIN announcement_versions v ON v.id = o.version_id WHERE o.id = ? AND o.state <> 'deleted'",
  reply:
    "SELECT r.files AS text FROM replies r JOIN posts o ON o.id = r.post_id WHERE r.id = ? AND r.state = 'up' AND o.state = 'up'",
  'own reply': "SELECT files AS text FROM replies WHERE id = ? AND state <> 'deleted'",
  sent: "SELECT v.body AS text FROM occurrences o JOIN announcement_versions v ON v.id = o.version_id WHERE o.id = ? AND o.state <> 'recalled'",
  version: 'SELECT body AS text FROM announcement_versions WHERE id = ?',
  draft: 'SELECT content AS text FROM announcements WHERE id = ?',
  series: 'SELECT banner AS text FROM series WHERE id = ?',
  sender: 'SELECT picture AS text FROM senders WHERE id = ?',
  board: "SELECT GROUP_CONCAT(url SEPARATOR ' ') AS text FROM board_links WHERE board_id = ?",
};

/** Whether an upload stands in a place at this moment. */
export async function standsIn(db: Database, key: string, place: Place, id: number): Promise<boolean> {
  const [row] = await rows<{ text: string | null }>(db, TEXTS[place], [id]);
  return row?.text?.includes(key) === true;
}

/** Whether an upload stands in an automation, as it is written or as it is at work. */
export async function standsInAutomation(db: Database, key: string, id: number): Promise<boolean> {
  const found = await rows(
    db,
    `SELECT 1 FROM automations WHERE id = ? AND INSTR(draft, ?) > 0
     UNION ALL SELECT 1 FROM automation_versions WHERE automation_id = ? AND INSTR(automation, ?) > 0 LIMIT 1`,
    [id, key, id, key],
  );
  return found.length > 0;
}

/** Whether an upload is the banner of a series or the picture of a sender, which every reader sees. */
export async function isForAll(db: Database, key: string): Promise<boolean> {
  const found = await rows(
    db,
    `SELECT 1 FROM series WHERE INSTR(banner, ?) > 0 UNION ALL SELECT 1 FROM senders WHERE INSTR(picture, ?) > 0 LIMIT 1`,
    [key, key],
  );
  return found.length > 0;
}

/** Who kept an upload; nothing where there is none. */
export async function uploaderOf(db: Database, key: string): Promise<number | undefined> {
  const [row] = await rows<{ by: number }>(
    db,
    'SELECT uploaded_by AS `by` FROM uploads WHERE upload_key = ?',
    [key],
  );
  return row?.by;
}

/** An image as it was cut before; nothing where it was not. */
export async function cutOf(
  db: Database,
  key: string,
  cut: string,
): Promise<{ mime: string; bytes: Buffer } | undefined> {
  const [row] = await rows<{ mime: string; bytes: Buffer }>(
    db,
    'SELECT mime, bytes FROM upload_cuts WHERE upload_key = ? AND cut = ?',
    [key, cut],
  );
  return row;
}

/** Keeps a cut of an image, of at most so many an image. */
export async function keepCut(
  db: Database,
  key: string,
  cut: string,
  made: { mime: string; bytes: Buffer },
  most: number,
): Promise<void> {
  await change(
    db,
    `INSERT IGNORE INTO upload_cuts (upload_key, cut, mime, bytes)
     SELECT ?, ?, ?, ? FROM DUAL WHERE (SELECT COUNT(*) FROM upload_cuts c WHERE c.upload_key = ?) < ?`,
    [key, cut, made.mime, made.bytes, key, most],
  );
}

/** How many files somebody kept in the last hour. */
export async function keptInAnHour(db: Database, personId: number): Promise<number> {
  const [row] = await rows<{ n: number }>(
    db,
    'SELECT COUNT(*) AS n FROM uploads WHERE uploaded_by = ? AND uploaded_at > NOW(3) - INTERVAL 1 HOUR',
    [personId],
  );
  return row?.n ?? 0;
}
