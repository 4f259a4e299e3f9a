import { Readable } from 'node:stream';
import { ZipArchive } from 'archiver';
import type { Content } from '../../core/content/announcement.ts';
import type { Doc } from '../../core/content/document.ts';
import { markdownOf } from '../../core/content/markdown.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { hasNoPage, organisation, personById } from '../people/store.ts';
import { notFound } from '../problem.ts';
import { bytesOf, uploadByKey } from '../uploads/store.ts';
import { OWN, ownRows, type OwnRow } from './store.ts';

const PAGE = 500;

const markdownOfContent = (content: Content): string =>
  content.sections
    .map(({ heading, document }) =>
      [heading === '' ? '' : `## ${heading}`, markdownOf(document)].filter(Boolean).join('\n\n'),
    )
    .join('\n\n');

/** A row as it stands in its file: texts as CommonMark, lists as lists, and without what only orders the rows. */
function shown(row: OwnRow): Record<string, unknown> {
  const { body, content, document, files, said, ...others } = row;
  const rest = Object.fromEntries(Object.entries(others).filter(([name]) => name !== 'place'));
  const parsed = (value: unknown): unknown => (typeof value === 'string' ? JSON.parse(value) : value);
  const whole = (parsed(content) ?? parsed(body)) as Content | undefined;
  return {
    ...rest,
    ...(whole
      ? {
          title: whole.title,
          text: markdownOfContent(whole),
          files: whole.sections.flatMap((section) => section.files),
        }
      : {}),
    ...(document === undefined ? {} : { text: markdownOf(parsed(document) as Doc) }),
    ...(files === undefined ? {} : { files: parsed(files) }),
    ...(said === undefined ? {} : { said: parsed(said) }),
  };
}

async function* linesOf(db: Database, sql: string, personId: number): AsyncGenerator<string> {
  let after = 0;
  let begun = false;
  for (;;) {
    const page = await ownRows(db, sql, personId, after, PAGE);
    for (const row of page) {
      yield `${begun ? ',' : '['}\n  ${JSON.stringify(shown(row))}`;
      begun = true;
    }
    const last = page.at(-1);
    if (!last || page.length < PAGE) break;
    after = last.place;
  }
  yield begun ? '\n]\n' : '[]\n';
}

/** The bytes of an upload, part by part where it is kept so. */
async function* bytesIn(db: Database, key: string): AsyncGenerator<Buffer> {
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

const READ_ME = (
  name: string,
  home: string,
  at: string,
): string => `What ${home} keeps of ${name} in Clear Bell, as of ${at}.

Each file is JSON (RFC 8259): a list of what is kept of one kind. Instants are in UTC (ISO 8601), texts are CommonMark. What was uploaded is
in the folder "files", by the key that "uploads.json" names it by.

Not in here: what proves who ${name} is (passwords, keys of devices and passkeys are kept as sums, or are of no use outside); votes without
names, which nobody can say whose they are; and what others wrote in which ${name} is named.
`;

/**
 * All that is kept of somebody, as a ZIP of JSON files and what they uploaded: for themselves, or by who looks after people on their
 * request (GDPR article 15 and 20). It is read as it is sent, so that a long life of it fills no memory.
 *
 * @throws 403 for others, 404 where there is nobody
 */
export async function ownArchive(
  db: Database,
  actor: Actor,
  personId: number,
): Promise<{ name: string; body: ReadableStream<Uint8Array> }> {
  if (actor.id !== personId) requireLookingAfterPeople(actor);
  const person = await personById(db, personId);
  if (!person || (await hasNoPage(db, personId))) throw notFound('person');
  const [home, nowMs] = await Promise.all([organisation(db), databaseNow(db)]);
  await record(db, { actorId: actor.id, action: 'take out data', subject: 'person', subjectId: personId });
  const at = new Date(nowMs).toISOString();
  const archive = new ZipArchive({ zlib: { level: 6 } });
  const fill = async (): Promise<void> => {
    // One after the other: a file is asked for once the one before is through.
    const put = (stream: Readable | string, name: string): Promise<void> =>
      new Promise((resolve, reject) => {
        const through = (): void => {
          archive.off('close', ended);
          resolve();
        };
        // Whoever takes it away in the middle ends it, as an error does: nothing is read any further.
        const ended = (): void => {
          archive.off('entry', through);
          reject(new Error('It was taken away in the middle.'));
        };
        archive.once('entry', through);
        archive.once('close', ended);
        if (typeof stream !== 'string') stream.once('error', (error) => archive.destroy(error));
        archive.append(stream, { name });
      });
    await put(READ_ME(person.name, home?.name ?? 'the organisation', at), 'READ ME.txt');
    for (const [file, sql] of Object.entries(OWN))
      await put(Readable.from(linesOf(db, sql, personId)), `${file}.json`);
    for (let after = 0; ;) {
      const page = await ownRows(db, OWN.uploads ?? '', personId, after, PAGE);
      for (const { key, name } of page as (OwnRow & { key: string; name: string })[])
        await put(Readable.from(bytesIn(db, key)), `files/${key}/${name.replace(/[/\\]/g, '_')}`);
      const last = page.at(-1);
      if (!last || page.length < PAGE) break;
      after = last.place;
    }
    await archive.finalize();
  };
  fill().catch((error: unknown) =>
    archive.destroy(error instanceof Error ? error : new Error(String(error))),
  );
  return {
    name: `${person.name.replace(/[^\p{L}\p{N} -]/gu, '').trim() || 'person'} ${at.slice(0, 10)}.zip`,
    body: Readable.toWeb(archive) as ReadableStream<Uint8Array>,
  };
}
