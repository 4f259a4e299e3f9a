import { createHash } from 'node:crypto';
import { z } from 'zod';
import { archiveKeySchema } from '../../core/organisation/partsSchema.ts';
import type { ArchiveLook } from '../../core/organisation/look.ts';
import type { Manifest } from '../../core/organisation/manifest.ts';
import { normalMail } from '../../core/people/mailAddress.ts';
import { comeIn, type CameIn, type Coming } from '../accounts/opening.ts';
import { hashPassword } from '../accounts/password.ts';
import { setPassword } from '../accounts/store.ts';
import { needsSetup, newPasswordSchema } from '../accounts/service.ts';
import { requireStrongPassword } from '../accounts/strength.ts';
import { record } from '../audit/store.ts';
import { isDuplicate, isRefusal, transact, type Database, type Transaction } from '../database/connection.ts';
import { newSecret } from '../gateways/sealing.ts';
import { Problem } from '../problem.ts';
import { seal } from '../sealing.ts';
import { ArchiveFile, wrongArchive } from './archiveFile.ts';
import { manifestOf, tableRows } from './archiveReading.ts';
import {
  coordinatorByMail,
  emptied,
  insertRows,
  layAtRest,
  orphan,
  putBytes,
  referToAnything,
  uploadsIn,
} from './bringingStore.ts';
import { PART_BYTES } from '../uploads/store.ts';
import { recountRecords } from '../sheets/store.ts';
import { keptTables, type KeptTable } from './store.ts';
import { SEALED } from './tables.ts';

const ROWS_AT_ONCE = 200;
const BYTES_AT_ONCE = 4_000_000;

export const bringInSchema = z.object({
  key: archiveKeySchema,
  mail: z.email('Write the mail address of a coordinator in the archive'),
  password: newPasswordSchema,
  /** Whether what would speak by itself is laid at rest: the organisation it was taken from may still be running. */
  atRest: z.boolean(),
});

/** What an archive on disk holds; 422 in words where it cannot be brought in. */
export async function lookInto(db: Database, path: string): Promise<ArchiveLook> {
  await requireNobody(db);
  const archive = await ArchiveFile.open(path);
  try {
    const { organisation, takenAt, tables, uploads } = await manifestOf(db, archive);
    const rows = (name: string): number => tables.find((table) => table.name === name)?.rows ?? 0;
    return {
      organisation,
      takenAt,
      people: rows('people'),
      posts: rows('posts'),
      sends: rows('sends'),
      uploads: uploads.length,
    };
  } finally {
    archive.close();
  }
}

/** @throws 409 where somebody is here */
export async function requireNobody(db: Database): Promise<void> {
  if (!(await needsSetup(db)))
    throw new Problem(409, 'There is somebody here already. An archive is brought in only where nobody is.');
}

async function bringTable(
  trx: Transaction,
  archive: ArchiveFile,
  entry: Manifest['tables'][number],
  table: KeptTable,
  secret: string,
): Promise<void> {
  const further = [
    ...SEALED.filter(([name]) => name === table.name).map(
      ([, column]) => [column, () => seal(secret, newSecret())] as const,
    ),
    ...(table.name === 'uploads' ? [['bytes', () => Buffer.alloc(0)] as const] : []),
  ];
  // Whoever sets this up meanwhile meets this row, or is met by it.
  if (table.name !== 'organisation') await emptied(trx, table.name);
  let bytes = 0;
  let found: Record<string, unknown>[] = [];
  for await (const { row, length } of tableRows(archive, entry)) {
    found.push(row);
    bytes += length;
    if (found.length === ROWS_AT_ONCE || bytes > BYTES_AT_ONCE) {
      await insertRows(trx, table, found, further);
      [found, bytes] = [[], 0];
    }
  }
  await insertRows(trx, table, found, further);
}

async function bringUpload(
  trx: Transaction,
  archive: ArchiveFile,
  entry: Manifest['uploads'][number],
  inParts: boolean,
): Promise<void> {
  const sum = createHash('sha256');
  let [n, size] = [0, 0];
  let held = Buffer.alloc(0);
  for await (const part of archive.bytes(entry.file)) {
    sum.update(part);
    size += part.byteLength;
    held = Buffer.concat([held, part]);
    while (held.byteLength >= PART_BYTES) {
      await putBytes(trx, entry.key, inParts, n++, held.subarray(0, PART_BYTES));
      held = held.subarray(PART_BYTES);
    }
  }
  if (held.byteLength > 0) await putBytes(trx, entry.key, inParts, n, held);
  if (size !== entry.bytes || sum.digest('hex') !== entry.sha256)
    throw wrongArchive(`${entry.file} was changed since the archive was taken. Take it out again.`);
}

/** The tables of an archive beside those of this database; 422 where it has others, or other columns. */
async function matched(
  trx: Transaction,
  manifest: Manifest,
): Promise<{ entry: Manifest['tables'][number]; table: KeptTable }[]> {
  const here = new Map((await keptTables(trx)).map((table) => [table.name, table]));
  const missing = [...here.keys()].find((name) => !manifest.tables.some((entry) => entry.name === name));
  if (missing !== undefined) throw wrongArchive(`This archive lacks the table ${missing}.`);
  const first = (name: string): number => (name === 'organisation' ? 0 : 1);
  return manifest.tables
    .toSorted((a, b) => first(a.name) - first(b.name))
    .map((entry) => {
      const table = here.get(entry.name);
      const names = (columns: readonly { name: string }[]): string =>
        columns
          .map(({ name }) => name)
          .sort()
          .join(' ');
      if (!table || names(table.columns) !== names(entry.columns))
        throw wrongArchive(`The table ${entry.name} of this archive is not as this Clear Bell keeps it.`);
      return { entry, table };
    });
}

/**
 * Brings an archive into a Clear Bell in which nobody is: all of it, or nothing. One coordinator of it gets the password that is
 * given, and is signed in; everybody else comes in by a letter to their mail address.
 *
 * @param secret the sealing secret of this installation, for the secrets that are made anew
 * @throws 409 where somebody is here; 422 in words where the archive is not whole, not of this version, or has nobody of that address
 */
export async function bringIn(
  db: Database,
  secret: string,
  path: string,
  input: Omit<z.infer<typeof bringInSchema>, 'key'>,
  coming: Coming = {},
): Promise<CameIn> {
  await requireNobody(db);
  const archive = await ArchiveFile.open(path);
  try {
    const manifest = await manifestOf(db, archive);
    requireStrongPassword(input.password, [input.mail, manifest.organisation]);
    const hash = await hashPassword(input.password);
    return await transact(db, async (trx) => {
      await requireNobody(trx);
      await referToAnything(trx, true);
      try {
        for (const { entry, table } of await matched(trx, manifest))
          await bringTable(trx, archive, entry, table, secret);
        const here = await uploadsIn(trx);
        for (const entry of manifest.uploads) {
          const inParts = here.get(entry.key);
          if (inParts === undefined) throw wrongArchive(`${entry.file} is of no upload in this archive.`);
          await bringUpload(trx, archive, entry, inParts);
          here.delete(entry.key);
        }
        const [without] = here.keys();
        if (without !== undefined)
          throw wrongArchive(`The upload ${without} of this archive has no file in it.`);
      } finally {
        await referToAnything(trx, false);
      }
      const broken = await orphan(trx);
      if (broken !== undefined) throw wrongArchive(`This archive is not whole: ${broken}.`);
      // An older version did not count them.
      await recountRecords(trx);
      if (input.atRest) await layAtRest(trx);
      const coordinator = await coordinatorByMail(trx, normalMail(input.mail));
      if (coordinator === undefined)
        throw new Problem(422, 'No coordinator in this archive has that mail address.', {
          errors: [{ field: 'mail', detail: 'No coordinator in this archive has that mail address' }],
        });
      await setPassword(trx, coordinator, hash);
      await record(trx, {
        actorId: coordinator,
        action: 'bring in',
        subject: 'organisation',
        subjectId: 1,
        detail: { takenAt: manifest.takenAt },
      });
      return comeIn(trx, coordinator, coming);
    });
  } catch (error) {
    if (error instanceof Problem) throw error;
    // Anything else the database or a parser finds wrong is wrong with the archive, unless somebody was quicker.
    if (isDuplicate(error))
      throw new Problem(409, 'Somebody has just set this up, or the archive has a row twice.');
    if (error instanceof SyntaxError || error instanceof TypeError || isRefusal(error)) throw wrongArchive();
    throw error;
  } finally {
    archive.close();
  }
}
