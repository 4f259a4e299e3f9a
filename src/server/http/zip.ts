import { PassThrough, pipeline, type Readable } from 'node:stream';
import { ZipArchive } from 'archiver';

/** Longer than a connection stands still that comes back. */
const PATIENCE_MS = 10 * 60_000;

/** Puts a file into an archive; settles once it is through. */
export type Put = (name: string, content: Readable | string) => Promise<void>;

/**
 * A ZIP that is written while it is sent, one file after the other, so that it fills no memory. Whoever takes it away in the
 * middle ends it, as an error does: nothing is read any further.
 *
 * @param fill puts the files in
 * @param done is run at the end, however it came
 * @param patienceMs how long it waits for who takes it to take more of it: what nobody reads is ended
 */
export function zipStream(
  fill: (put: Put) => Promise<void>,
  done: () => Promise<void> = () => Promise.resolve(),
  patienceMs = PATIENCE_MS,
): ReadableStream<Uint8Array> {
  const archive = new ZipArchive({ zlib: { level: 6 } });
  // A file is asked for once the one before is through.
  let over = false;
  archive.once('close', () => {
    over = true;
  });
  const put: Put = (name, content) =>
    new Promise((resolve, reject) => {
      const through = (): void => {
        archive.off('close', ended);
        resolve();
      };
      const ended = (): void => {
        archive.off('entry', through);
        if (typeof content !== 'string') content.destroy();
        reject(new Error('It was taken away in the middle.'));
      };
      if (over) {
        ended();
        return;
      }
      archive.once('entry', through);
      archive.once('close', ended);
      if (typeof content !== 'string') content.once('error', (error) => archive.destroy(error));
      archive.append(content, { name });
    });
  const filled = async (): Promise<void> => {
    try {
      await fill(put);
    } finally {
      await done();
    }
    await archive.finalize();
  };
  filled().catch((error: unknown) =>
    archive.destroy(error instanceof Error ? error : new Error(String(error))),
  );
  // Taken away, this ends both at once: an archive by itself would still hand on what it has.
  const out = new PassThrough();
  pipeline(archive, out, () => undefined);
  const nobody = (): NodeJS.Timeout => setTimeout(() => out.destroy(), patienceMs).unref();
  let waiting = nobody();
  out.once('close', () => clearTimeout(waiting));
  const bytes = out[Symbol.asyncIterator]() as AsyncIterator<Uint8Array>;
  return new ReadableStream({
    async pull(controller) {
      clearTimeout(waiting);
      const part = await bytes.next();
      if (part.done) controller.close();
      else {
        controller.enqueue(part.value);
        waiting = nobody();
      }
    },
    cancel() {
      out.destroy();
    },
  });
}

/** A name of a file or folder as every system takes it: no path in it, and not too long. */
export const fileName = (name: string, otherwise: string): string =>
  name
    .replace(/[^\p{L}\p{N} ._-]/gu, '')
    .replace(/\.{2,}/g, '.')
    .replace(/ {2,}/g, ' ')
    .replace(/^[. ]+|[. ]+$/g, '')
    .slice(0, 80)
    .trim() || otherwise;
