import type { Database } from '../database/connection.ts';
import { bytesOf, uploadByKey } from './store.ts';

/** The bytes of an upload, part by part where it is kept so. */
export async function* bytesIn(db: Database, key: string): AsyncGenerator<Buffer> {
  const upload = await uploadByKey(db, key);
  if (!upload) return;
  if (upload.size === null) {
    yield upload.bytes;
    return;
  }
  const AT_ONCE = 1_000_000;
  for (let from = 0; from < upload.size; from += AT_ONCE)
    yield await bytesOf(db, key, from, Math.min(upload.size, from + AT_ONCE) - 1);
}
