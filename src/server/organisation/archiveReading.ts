import { createHash } from 'node:crypto';
import { z } from 'zod';
import { manifestSchema, type Manifest } from '../../core/organisation/manifest.ts';
import type { Database } from '../database/connection.ts';
import { wrongArchive, type ArchiveFile } from './archiveFile.ts';
import { laidOut } from './store.ts';

const MANIFEST_BYTES = 200_000_000;
/** A line of a table: longer than any row of ours may be. */
const LINE_BYTES = 32_000_000;

/** @throws 422 in words where it is no archive, or one that this Clear Bell cannot read */
export async function manifestOf(db: Database, archive: ArchiveFile): Promise<Manifest> {
  const text = await archive.text('manifest.json', MANIFEST_BYTES);
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw wrongArchive();
  }
  const kind = z.object({ format: z.literal('organisation archive'), version: z.int() }).safeParse(value);
  if (!kind.success) throw wrongArchive();
  if (kind.data.version !== 1)
    throw wrongArchive(
      'This archive is in a form that this Clear Bell does not know yet. Bring Clear Bell up to date first.',
    );
  const manifest = manifestSchema.safeParse(value);
  if (!manifest.success) throw wrongArchive();
  const here = await laidOut(db);
  if (manifest.data.laidOut !== here)
    throw wrongArchive(
      manifest.data.laidOut > here
        ? 'This archive is from a newer Clear Bell than this one. Bring this one up to date first.'
        : 'This archive is from an older Clear Bell. Bring that one up to date, and take it out again.',
    );
  return manifest.data;
}

async function* linesIn(bytes: AsyncIterable<Buffer>, sum: (part: Buffer) => void): AsyncGenerator<string> {
  const decoder = new TextDecoder('utf-8', { fatal: true });
  let rest = '';
  for await (const part of bytes) {
    sum(part);
    const lines = (rest + decoder.decode(part, { stream: true })).split('\n');
    rest = lines.pop() ?? '';
    if (rest.length > LINE_BYTES) throw wrongArchive('A row of this archive is longer than any row can be.');
    yield* lines;
  }
  if (rest !== '') yield rest;
}

/**
 * The rows of a table of an archive, each with how long it is written.
 *
 * @throws 422 at the end where the table is not as the manifest says
 */
export async function* tableRows(
  archive: ArchiveFile,
  entry: Manifest['tables'][number],
): AsyncGenerator<{ row: Record<string, unknown>; length: number }> {
  const sum = createHash('sha256');
  let n = 0;
  for await (const line of linesIn(archive.bytes(entry.file), (part) => sum.update(part))) {
    const value: unknown = JSON.parse(line);
    if (typeof value !== 'object' || value === null || Array.isArray(value)) throw wrongArchive();
    n += 1;
    yield { row: value as Record<string, unknown>, length: line.length };
  }
  if (n !== entry.rows || sum.digest('hex') !== entry.sha256)
    throw wrongArchive(`${entry.file} was changed since the archive was taken. Take it out again.`);
}
