import { randomBytes } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { bytesWords } from '../../core/words.ts';
import { Problem } from '../problem.ts';

/** Where archives lie between being sent and being brought in, on the machine of this web process. */
const folder = join(tmpdir(), 'clear-bell-archives');
const MOST_BYTES = 20_000_000_000;
const DAY_MS = 86_400_000;

export const pathOf = (key: string): string => join(folder, `${key}.zip`);

export const dropArchive = (key: string): Promise<void> => rm(pathOf(key), { force: true });

async function dropOld(): Promise<void> {
  for (const name of await readdir(folder)) {
    const path = join(folder, name);
    const found = await stat(path).catch(() => undefined);
    if (found && Date.now() - found.mtimeMs > DAY_MS) await rm(path, { force: true });
  }
}

/** Keeps an archive that is sent, for a day at the most, readable by this process alone; gives the key it lies under. */
export async function keepArchive(body: ReadableStream<Uint8Array> | null): Promise<string> {
  if (!body) throw new Problem(422, 'Choose the archive that was taken out of Clear Bell.');
  await mkdir(folder, { recursive: true, mode: 0o700 });
  await dropOld();
  const key = randomBytes(16).toString('base64url');
  let size = 0;
  const measured = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      size += chunk.byteLength;
      if (size > MOST_BYTES) done(new Problem(413, `An archive is at most ${bytesWords(MOST_BYTES)} large.`));
      else done(null, chunk);
    },
  });
  try {
    await pipeline(
      Readable.fromWeb(body as never),
      measured,
      createWriteStream(pathOf(key), { mode: 0o600 }),
    );
  } catch (error) {
    await dropArchive(key);
    throw error;
  }
  return key;
}
