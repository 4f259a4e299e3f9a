import { Readable } from 'node:stream';
import type { Content } from '../../core/content/announcement.ts';
import type { Doc } from '../../core/content/document.ts';
import { markdownOf } from '../../core/content/markdown.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { hasNoPage, organisation, personById } from '../people/store.ts';
import { fileName, zipStream } from '../http/zip.ts';
import { notFound } from '../problem.ts';
import { bytesIn } from '../uploads/reading.ts';
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
  const body = zipStream(async (put) => {
    await put('READ ME.txt', READ_ME(person.name, home?.name ?? 'the organisation', at));
    for (const [file, sql] of Object.entries(OWN))
      await put(`${file}.json`, Readable.from(linesOf(db, sql, personId)));
    for (let after = 0; ;) {
      const page = await ownRows(db, OWN.uploads ?? '', personId, after, PAGE);
      for (const { key, name } of page as (OwnRow & { key: string; name: string })[])
        await put(`files/${key}/${name.replace(/[/\\]/g, '_')}`, Readable.from(bytesIn(db, key)));
      const last = page.at(-1);
      if (!last || page.length < PAGE) break;
      after = last.place;
    }
  });
  return {
    name: `${fileName(person.name, 'person')} ${at.slice(0, 10)}.zip`,
    body,
  };
}
