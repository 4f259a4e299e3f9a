import { MAX_FILES, type FileLink } from '../../core/content/section.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { keepFile } from '../uploads/service.ts';
import type { ReadMail } from './reading.ts';

/** Pictures in a text that are smaller than this are marks of a signature, not something sent. */
const LEAST_PICTURE = 20_000;

/** Keeps what is attached to a mail; what cannot be attached here is named instead. */
export async function keepFiles(
  db: Database,
  actor: Actor,
  mail: ReadMail,
): Promise<{ files: FileLink[]; leftOut: string[] }> {
  const files: FileLink[] = [];
  const leftOut: string[] = [];
  for (const { name, bytes, inline, mime } of mail.files) {
    if (inline && bytes.byteLength < LEAST_PICTURE) continue;
    // The signature of the mail itself is about how it came, not about what it says.
    if (/^application\/(x-)?(pkcs7|pgp)/.test(mime)) continue;
    if (files.length === MAX_FILES) {
      leftOut.push(name);
      continue;
    }
    try {
      files.push(await keepFile(db, actor, bytes, name));
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      leftOut.push(name);
    }
  }
  return { files, leftOut };
}
