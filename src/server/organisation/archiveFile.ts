import { open, type Entry, type ZipFile } from 'yauzl';
import { Problem } from '../problem.ts';

const NO_ARCHIVE =
  'This is no archive of an organisation, or not all of it. Choose the ZIP as it was taken out of Clear Bell.';

/** The file that was sent is not what it should be. */
export const wrongArchive = (why = NO_ARCHIVE): Problem => new Problem(422, why);

/** More names than an archive of a hundred thousand people and posts has. */
const MOST_ENTRIES = 2_000_000;

/** An archive on disk. What unpacks to more than it says, or has a path upward in it, is refused by the package that reads it. */
export class ArchiveFile {
  readonly #zip: ZipFile;
  readonly #entries = new Map<string, Entry>();

  private constructor(zip: ZipFile) {
    this.#zip = zip;
  }

  /** @throws 422 where it is none */
  static open(path: string): Promise<ArchiveFile> {
    return new Promise((resolve, reject) => {
      const refused = (error: unknown): void =>
        reject(
          wrongArchive(
            error instanceof Error && /relative path|absolute path/.test(error.message)
              ? `${NO_ARCHIVE} It has a path in it that leads elsewhere.`
              : NO_ARCHIVE,
          ),
        );
      open(path, { lazyEntries: true, autoClose: false, validateEntrySizes: true }, (error, zip) => {
        if (error) {
          refused(error);
          return;
        }
        const file = new ArchiveFile(zip);
        zip.on('error', (wrong: unknown) => {
          zip.close();
          refused(wrong);
        });
        zip.on('end', () => resolve(file));
        zip.on('entry', (entry: Entry) => {
          if (file.#entries.size >= MOST_ENTRIES) {
            zip.close();
            refused(undefined);
            return;
          }
          file.#entries.set(entry.fileName, entry);
          zip.readEntry();
        });
        zip.readEntry();
      });
    });
  }

  /** The bytes of one of its files, as they are unpacked. */
  async *bytes(name: string, most = Number.POSITIVE_INFINITY): AsyncGenerator<Buffer> {
    const entry = this.#entries.get(name);
    if (!entry || entry.uncompressedSize > most)
      throw wrongArchive(entry ? `${NO_ARCHIVE} ${name} is too large.` : `${NO_ARCHIVE} It lacks ${name}.`);
    const stream = await new Promise<AsyncIterable<Buffer>>((resolve, reject) => {
      this.#zip.openReadStream(entry, (error, opened) => (error ? reject(wrongArchive()) : resolve(opened)));
    });
    try {
      yield* stream;
    } catch {
      throw wrongArchive(`${NO_ARCHIVE} ${name} cannot be unpacked.`);
    }
  }

  /** One of its files as text, of at most so many bytes. */
  async text(name: string, most: number): Promise<string> {
    const parts: Buffer[] = [];
    for await (const part of this.bytes(name, most)) parts.push(part);
    return Buffer.concat(parts).toString('utf8');
  }

  close(): void {
    this.#zip.close();
  }
}
