import { createHash } from 'node:crypto';
import { Readable } from 'node:stream';
import { z } from 'zod';
import { repliesText } from '../texts/service.ts';
import { announcementFile } from '../../core/content/file.ts';
import { manifestSchema, type Manifest } from '../../core/organisation/manifest.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { versionsByIds } from '../announcements/versionStore.ts';
import { record } from '../audit/store.ts';
import { databaseNow, type Database, type Transaction } from '../database/connection.ts';
import { csvStream } from '../http/csvStream.ts';
import { fileName, zipStream, type Put } from '../http/zip.ts';
import { peopleCards, peopleCsv } from '../people/exporting.ts';
import { organisation } from '../people/store.ts';
import { Problem } from '../problem.ts';
import { bytesIn } from '../uploads/reading.ts';
import {
  keptTables,
  laidOut,
  linesOf,
  rowsOf,
  SPREADSHEETS,
  textsAfter,
  uploadsAfter,
  waitLong,
  type KeptTable,
} from './store.ts';
import { LEFT_OUT, LEFT_OUT_COLUMNS } from './tables.ts';
import { estimated } from './takeoutStore.ts';

const PAGE = 200;

/** Says that so much more is read: rows, texts and files. */
type Went = (more: number) => void;

/** Databases that are being taken out, one at a time in a process: each holds a connection for as long as it is taken. */
const underWay = new WeakSet<Database>();

const json = (value: unknown): unknown => {
  if (typeof value !== 'string') return value;
  try {
    return JSON.parse(value);
  } catch {
    return { $text: value };
  }
};

/** The lines of a table, and what they come to. */
async function* tableLines(
  trx: Transaction,
  table: KeptTable,
  told: (rows: number, sha256: string) => void,
  went: Went,
): AsyncGenerator<Buffer> {
  const sum = createHash('sha256');
  const structured = new Set(table.columns.flatMap(({ name, kind }) => (kind === 'json' ? [name] : [])));
  let n = 0;
  let lines: string[] = [];
  const taken = (): Buffer => {
    const bytes = Buffer.from(lines.join(''));
    went(lines.length);
    lines = [];
    sum.update(bytes);
    return bytes;
  };
  for await (const row of rowsOf(trx, table)) {
    const said = Object.entries(row).flatMap(([name, value]) =>
      value === null ? [] : [[name, structured.has(name) ? json(value) : value] as const],
    );
    lines.push(`${JSON.stringify(Object.fromEntries(said))}\n`);
    n += 1;
    if (lines.length === 500) yield taken();
  }
  yield taken();
  told(n, sum.digest('hex'));
}

async function* summed(
  bytes: AsyncIterable<Buffer>,
  told: (bytes: number, sha256: string) => void,
): AsyncGenerator<Buffer> {
  const sum = createHash('sha256');
  let size = 0;
  for await (const part of bytes) {
    sum.update(part);
    size += part.byteLength;
    yield part;
  }
  told(size, sum.digest('hex'));
}

async function putTables(trx: Transaction, put: Put, went: Went): Promise<Manifest['tables']> {
  const tables: Manifest['tables'] = [];
  for (const table of await keptTables(trx)) {
    const file = `tables/${table.name}.jsonl`;
    const entry = { name: table.name, file, rows: 0, sha256: '' };
    const told = (rows: number, sha256: string): void => void Object.assign(entry, { rows, sha256 });
    await put(file, Readable.from(tableLines(trx, table, told, went), { objectMode: false }));
    tables.push({ ...entry, columns: table.columns.map(({ name, kind }) => ({ name, kind })) });
  }
  return tables;
}

async function putUploads(trx: Transaction, put: Put, went: Went): Promise<Manifest['uploads']> {
  const uploads: Manifest['uploads'] = [];
  for (let after = ''; ;) {
    const page = await uploadsAfter(trx, after, PAGE);
    for (const { key, name } of page) {
      const entry = { key, file: `uploads/${key}/${fileName(name, 'file')}`, bytes: 0, sha256: '' };
      const told = (bytes: number, sha256: string): void => void Object.assign(entry, { bytes, sha256 });
      await put(entry.file, Readable.from(summed(bytesIn(trx, key), told), { objectMode: false }));
      uploads.push(entry);
      went(1);
    }
    const last = page.at(-1);
    if (!last || page.length < PAGE) return uploads;
    after = last.key;
  }
}

/** What people and spreadsheets read: CSV (RFC 4180), vCard 4.0, CommonMark with front matter. */
async function putReadable(
  trx: Transaction,
  actor: Actor,
  origin: string,
  put: Put,
  went: Went,
): Promise<string[]> {
  const all: string[] = [];
  const stream = (body: ReadableStream<Uint8Array>): Readable => Readable.fromWeb(body as never);
  const add = async (name: string, content: Readable): Promise<void> => {
    await put(name, content);
    all.push(name);
  };
  await add('readable/people.csv', stream(await peopleCsv(trx, actor)));
  await add('readable/people.vcf', stream(await peopleCards(trx, actor, origin)));
  for (const [name, { columns, sql }] of Object.entries(SPREADSHEETS))
    await add(`readable/${name}.csv`, stream(csvStream(columns, linesOf(trx, sql))));
  for (const what of ['announcements', 'posts'] as const) {
    for (let after = 0; ;) {
      const page = await textsAfter(trx, what, after, PAGE);
      const versions = await versionsByIds(
        trx,
        page.map(({ versionId }) => versionId),
      );
      for (const { id, versionId, title, board, replies: n } of page) {
        went(1);
        const version = versions.get(versionId);
        if (!version) continue;
        const folder = board === null ? what : `boards/${fileName(board, 'board')}`;
        await put(`readable/${folder}/${id} ${fileName(title, 'untitled')}.md`, announcementFile(version));
        const replies = n === 0 ? null : await repliesText(trx, id);
        if (replies !== null)
          await put(`readable/${folder}/${id} ${fileName(title, 'untitled')} replies.md`, replies);
      }
      const last = page.at(-1);
      if (!last || page.length < PAGE) break;
      after = last.id;
    }
    all.push(`readable/${what === 'posts' ? 'boards' : what}/`);
  }
  return all;
}

const leftOut = (): Manifest['leftOut'] => [
  ...Object.entries(LEFT_OUT).map(([what, why]) => ({ what, why })),
  ...Object.entries(LEFT_OUT_COLUMNS).flatMap(([table, columns]) =>
    Object.entries(columns).map(([column, why]) => ({ what: `${table}.${column}`, why })),
  ),
];

const READ_ME = (home: string, at: string): string => `All of ${home} in Clear Bell, as of ${at}.

readable/       for people and spreadsheets: the directory (CSV, vCard 4.0), groups, identities, deliveries and answers (CSV),
                what was announced and what stands on boards (CommonMark with front matter)
tables/         everything, for programs: JSON Lines, an object a row, instants in UTC (ISO 8601), bytes in hexadecimal digits
uploads/        what was uploaded, each as the file it is
manifest.json   what is in here, with the rows and the SHA-256 sum of each; its JSON Schema is in manifest.schema.json

A Clear Bell in which nobody is yet takes this in as it is, on the page on which it is set up. Passwords, tokens and secrets are not in
here: manifest.json names everything that is left out, and why. Keep this as safe as the database.
`;

/**
 * Everything of the organisation as one archive (ZIP), read as it is sent: all of one instant, whatever happens meanwhile, in a
 * transaction that holds up nobody. What proves who somebody is stays here.
 *
 * @param told how much of what there is, by an estimate, is read
 * @returns what it is called, its bytes, and when nothing is read for it any more, also where it is given up in the middle
 * @throws 403 for all but coordinators; 409 while another is being taken from this process
 */
export async function organisationArchive(
  db: Database,
  actor: Actor,
  origin: string,
  told: (done: number, total: number) => void = () => undefined,
): Promise<{ name: string; body: ReadableStream<Uint8Array>; over: Promise<void> }> {
  requireLookingAfterPeople(actor);
  if (underWay.has(db))
    throw new Problem(
      409,
      'The organisation is being taken out already. Wait until that is through, and try again.',
    );
  underWay.add(db);
  let trx: Transaction | undefined;
  try {
    const name = (await organisation(db))?.name ?? 'organisation';
    await record(db, { actorId: actor.id, action: 'take out', subject: 'organisation', subjectId: 1 });
    const snapshot = await db.transaction(undefined, { isolationLevel: 'repeatable read' });
    trx = snapshot;
    await waitLong(snapshot);
    // The first reading fixes the instant.
    const changed = await laidOut(snapshot);
    const takenAt = new Date(await databaseNow(snapshot)).toISOString();
    const tables = (await keptTables(snapshot)).map((table) => table.name);
    const total = await estimated(snapshot, [...tables, 'posts', 'sends', 'uploads']);
    let done = 0;
    const went: Went = (more) => {
      done += more;
      told(done, total);
    };
    let ended = (): void => undefined;
    const over = new Promise<void>((resolve) => {
      ended = resolve;
    });
    const body = zipStream(
      async (put) => {
        await put('READ ME.txt', READ_ME(name, takenAt));
        const readable = await putReadable(snapshot, actor, origin, put, went);
        const kept = await putTables(snapshot, put, went);
        const uploads = await putUploads(snapshot, put, went);
        const manifest: Manifest = {
          format: 'organisation archive',
          version: 1,
          laidOut: changed,
          organisation: name,
          takenAt,
          tables: kept,
          uploads,
          leftOut: leftOut(),
          readable,
        };
        await put('manifest.schema.json', `${JSON.stringify(z.toJSONSchema(manifestSchema), null, 2)}\n`);
        await put('manifest.json', `${JSON.stringify(manifestSchema.parse(manifest), null, 1)}\n`);
      },
      async () => {
        try {
          await snapshot.rollback();
        } finally {
          underWay.delete(db);
          ended();
        }
      },
    );
    return { name: `${fileName(name, 'organisation')} ${takenAt.slice(0, 10)}.zip`, body, over };
  } catch (error) {
    underWay.delete(db);
    await trx?.rollback();
    throw error;
  }
}
