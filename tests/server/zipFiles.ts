import { fromBuffer, type Entry } from 'yauzl';

/** The files of a ZIP, as a package reads them that did not write it. */
export function filesIn(bytes: Buffer): Promise<Map<string, Buffer>> {
  return new Promise((resolve, reject) => {
    fromBuffer(bytes, { lazyEntries: true }, (error, zip) => {
      if (error) {
        reject(error);
        return;
      }
      const files = new Map<string, Buffer>();
      zip.on('entry', (entry: Entry) => {
        zip.openReadStream(entry, (failed, stream) => {
          if (failed) {
            reject(failed);
            return;
          }
          const chunks: Buffer[] = [];
          stream.on('data', (chunk: Buffer) => chunks.push(chunk));
          stream.on('end', () => {
            files.set(entry.fileName, Buffer.concat(chunks));
            zip.readEntry();
          });
        });
      });
      zip.on('end', () => resolve(files));
      zip.on('error', reject);
      zip.readEntry();
    });
  });
}
