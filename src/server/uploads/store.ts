import { rows, type Database } from '../database/connection.ts';

export interface Upload {
  key: string;
  name: string;
  /** As found in the bytes, never as claimed. */
  mime: string;
  width: number | null;
  height: number | null;
  bytes: Buffer;
}

export async function insertUpload(db: Database, upload: Upload, by: number): Promise<void> {
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
    'SELECT upload_key AS `key`, name, mime, width, height, bytes FROM uploads WHERE upload_key = ?',
    [key],
  );
  return row;
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
