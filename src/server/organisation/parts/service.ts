import { inOrder, type BroughtPart, type Part, type PartsLook } from '../../../core/organisation/parts.ts';
import type { PartsChoice } from '../../../core/organisation/partsSchema.ts';
import { referencesIn } from '../../../core/organisation/references.ts';
import type { Manifest } from '../../../core/organisation/manifest.ts';
import { ROWS_AT_ONCE } from '../../../core/imports/import.ts';
import type { RawRecord } from '../../../core/imports/record.ts';
import type { Actor } from '../../../core/rights/decide.ts';
import { requireLookingAfterPeople } from '../../accounts/require.ts';
import { record } from '../../audit/store.ts';
import { transact, type Database } from '../../database/connection.ts';
import { addRows, beginImport, compareImport } from '../../imports/service.ts';
import { Problem } from '../../problem.ts';
import { ArchiveFile, wrongArchive } from '../archiveFile.ts';
import { manifestOf } from '../archiveReading.ts';
import { ArchiveParts } from './archiveParts.ts';
import { audienceParts } from './audiences.ts';
import { automationParts } from './automations.ts';
import { boardParts, isPlain } from './boards.ts';
import type { Bringing, FoundPart } from './bringing.ts';
import { groupParts } from './groups.ts';
import { Resolving } from './resolving.ts';
import { sheetParts } from './sheets.ts';
import { senderParts } from './senders.ts';
import { templateParts } from './templates.ts';

/** Whom the parts of an archive name. */
async function wantedPeople(contents: ArchiveParts): Promise<Set<number>> {
  const wanted = new Set<number>();
  for (const table of ['group_members', 'group_owners', 'board_moderators'] as const)
    for await (const { person_id } of contents.each(table)) wanted.add(person_id);
  for (const { owner_id } of await contents.all('boards')) if (owner_id) wanted.add(owner_id);
  const documents: unknown[] = [
    ...(await contents.all('groups')).map(({ rule }) => rule),
    ...(await contents.all('saved_audiences')).map(({ expression }) => expression),
    ...(await contents.all('automations')).map(({ draft }) => draft),
  ];
  for await (const { state, content, plan } of contents.each('announcements'))
    if (state === 'template') documents.push({ content, plan });
  for (const { kind, id } of documents.flatMap(referencesIn)) if (kind === 'person') wanted.add(id);
  return wanted;
}

/** The keys of all that can come in. */
async function partKeys(contents: ArchiveParts): Promise<Set<string>> {
  const keys = new Set<string>();
  for (const { id, archived_at } of await contents.all('groups')) if (!archived_at) keys.add(`group:${id}`);
  for (const row of await contents.all('boards')) if (isPlain(row)) keys.add(`board:${row.id}`);
  for (const { id } of await contents.all('senders')) keys.add(`sender:${id}`);
  for (const { id } of await contents.all('sheets')) keys.add(`sheet:${id}`);
  return keys;
}

async function bringingOf(db: Database, actor: Actor, contents: ArchiveParts): Promise<Bringing> {
  const resolving = await Resolving.of(db, contents, await wantedPeople(contents), await partKeys(contents));
  return { db, actor, contents, resolving, uploads: new Map() };
}

/** Parts that need what clashes clash themselves. */
function withClashesBelow(parts: readonly FoundPart[]): FoundPart[] {
  const states = new Map(parts.map((part) => [part.key, part]));
  return inOrder(parts).map((part) => {
    const stuck = part.needs
      .map((key) => states.get(key))
      .filter((needed) => needed?.state === 'clash' && needed.beside === null);
    if (stuck.length === 0 || part.state === 'clash') return part;
    const clashing: FoundPart = {
      ...part,
      state: 'clash',
      beside: null,
      why: stuck.map((needed) => `It names “${needed?.name ?? ''}”, which cannot come in.`),
    };
    states.set(part.key, clashing);
    return clashing;
  });
}

async function partsIn(by: Bringing): Promise<FoundPart[]> {
  const found = [
    ...(await senderParts(by)),
    ...(await groupParts(by)),
    ...(await sheetParts(by)),
    ...(await boardParts(by)),
    ...(await audienceParts(by)),
    ...(await templateParts(by)),
    ...(await automationParts(by)),
  ];
  return withClashesBelow(found);
}

const plain = ({ key, kind, name, state, says, why, needs, beside }: FoundPart): Part => ({
  key,
  kind,
  name,
  state,
  says,
  why,
  needs,
  beside,
});

async function withArchive<T>(
  db: Database,
  path: string,
  work: (contents: ArchiveParts, manifest: Manifest) => Promise<T>,
): Promise<T> {
  const archive = await ArchiveFile.open(path);
  try {
    const manifest = await manifestOf(db, archive);
    return await work(new ArchiveParts(archive, manifest), manifest);
  } catch (error) {
    if (error instanceof SyntaxError) throw wrongArchive();
    throw error;
  } finally {
    archive.close();
  }
}

/**
 * What an archive has in parts, each beside what is here: new, the same, changed, or in the way of what is here.
 *
 * @throws 403 for all but coordinators; 422 in words where it is no archive, or one that this Clear Bell cannot read
 */
export async function lookIntoParts(db: Database, actor: Actor, path: string): Promise<PartsLook> {
  requireLookingAfterPeople(actor);
  return withArchive(db, path, async (contents, { organisation, takenAt, tables }) => ({
    organisation,
    takenAt,
    people: tables.find(({ name }) => name === 'people')?.rows ?? 0,
    parts: (await partsIn(await bringingOf(db, actor, contents))).map(plain),
  }));
}

const REGAIN = 'Look through it again, and bring it in then. Nothing was brought in.';

/**
 * Brings chosen parts of an archive in: all of them or none.
 *
 * @throws 403 for all but coordinators; 409 where a part is something else than it was shown as; 422 where one names what is not
 *   chosen and not here, or cannot be brought in
 */
export async function bringInParts(
  db: Database,
  actor: Actor,
  path: string,
  { parts: chosen }: PartsChoice,
): Promise<BroughtPart[]> {
  requireLookingAfterPeople(actor);
  return withArchive(db, path, (contents, { organisation }) =>
    transact(db, async (trx) => {
      const by = await bringingOf(trx, actor, contents);
      const all = new Map((await partsIn(by)).map((part) => [part.key, part]));
      const wanted = new Map(chosen.map((each) => [each.key, each]));
      const parts: FoundPart[] = [];
      for (const { key, state, beside } of wanted.values()) {
        const part = all.get(key);
        if (!part || part.state !== state)
          throw new Problem(409, `“${part?.name ?? key}” is something else than a moment ago. ${REGAIN}`);
        if (part.state === 'clash' && !(beside && part.beside !== null))
          throw new Problem(422, `“${part.name}” cannot be brought in: ${part.why.join(' ')}`);
        const lacking = part.needs.map((need) => all.get(need)).find((need) => need && !wanted.has(need.key));
        if (lacking)
          throw new Problem(422, `“${part.name}” names “${lacking.name}”, which is not here. Choose it too.`);
        parts.push(part);
      }
      const brought: BroughtPart[] = [];
      for (const part of inOrder(parts)) {
        const made = await part.bring(by, wanted.get(part.key)?.beside === true && part.beside !== null);
        by.resolving.made(part.key, made.id);
        brought.push({ kind: part.kind, name: made.name, path: made.path });
      }
      await record(trx, {
        actorId: actor.id,
        action: 'bring in parts',
        subject: 'organisation',
        subjectId: 1,
        detail: {
          from: organisation,
          parts: brought.length,
          names: brought.slice(0, 100).map(({ kind, name }) => `${kind}: ${name}`),
        },
      });
      return brought;
    }),
  );
}

/** The people of an archive as the rows of a list. Who has left, and linked contacts, are not among them. */
async function* peopleRows(contents: ArchiveParts): AsyncGenerator<RawRecord> {
  const stations = new Map((await contents.all('stations')).map(({ id, name }) => [id, name]));
  const attributes = new Map<number, Record<string, string>>();
  for await (const { person_id, name, value } of contents.each('person_attributes'))
    attributes.set(person_id, { ...attributes.get(person_id), [name]: value });
  let line = 0;
  for await (const person of contents.each('people')) {
    if (person.standing === 'left' || person.linked_to) continue;
    yield {
      line: ++line,
      name: person.name,
      sortName: person.sort_name,
      greeting: person.greeting,
      ...(person.mail ? { mail: person.mail } : {}),
      ...(person.station_id ? { station: stations.get(person.station_id) ?? '' } : {}),
      occupation: person.occupation,
      zone: person.zone,
      joinedOn: person.joined_on,
      attributes: attributes.get(person.id) ?? {},
    };
  }
}

/** Makes a list of the people of an archive, compared with the directory; gives the id of the import by which it is looked through. */
export async function listOfPeople(db: Database, actor: Actor, path: string): Promise<number> {
  requireLookingAfterPeople(actor);
  return withArchive(db, path, async (contents, { organisation, takenAt }) => {
    const id = await beginImport(db, actor, {
      fileName: `${organisation}, ${takenAt.slice(0, 10)}`.slice(0, 200),
      columns: {},
      dateOrder: 'day first',
    });
    let some: RawRecord[] = [];
    for await (const row of peopleRows(contents)) {
      some.push(row);
      if (some.length < ROWS_AT_ONCE) continue;
      await addRows(db, actor, id, some);
      some = [];
    }
    if (some.length > 0) await addRows(db, actor, id, some);
    await compareImport(db, actor, id);
    return id;
  });
}
