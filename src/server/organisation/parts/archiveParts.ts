import { z } from 'zod';
import type { Manifest } from '../../../core/organisation/manifest.ts';
import { wrongArchive, type ArchiveFile } from '../archiveFile.ts';
import { tableRows } from '../archiveReading.ts';

const id = z.int().positive();
const flag = z.union([z.boolean(), z.int()]).transform((value) => value === true || value === 1);
const named = z.object({ id, name: z.string() });

const SHAPES = {
  groups: z.object({
    ...named.shape,
    kind: z.enum(['live', 'fixed']),
    rule: z.unknown().optional(),
    needs_clearance: flag,
    bundling: z.string().nullish(),
    joining: z.enum(['closed', 'asked', 'open']),
    owner_brings: flag,
    about: z.string(),
    archived_at: z.string().nullish(),
    callable: flag,
  }),
  group_members: z.object({ group_id: id, person_id: id }),
  group_owners: z.object({ group_id: id, person_id: id }),
  senders: z.object({ ...named.shape, picture: z.unknown().optional() }),
  sheets: z.object({
    ...named.shape,
    purpose: z.string(),
    columns: z.unknown(),
    form: z.unknown().optional(),
  }),
  records: z.object({ sheet_id: id, cells: z.record(z.string(), z.string()) }),
  boards: z.looseObject({
    ...named.shape,
    about: z.string(),
    group_id: id.nullish(),
    owner_id: id.nullish(),
    archived_at: z.string().nullish(),
    session_of: id.nullish(),
    date_of: id.nullish(),
  }),
  board_links: z.object({ board_id: id, place: z.int(), label: z.string(), url: z.string() }),
  board_moderators: z.object({ board_id: id, person_id: id }),
  saved_audiences: z.object({ ...named.shape, expression: z.unknown() }),
  announcements: z.object({ id, state: z.string(), content: z.unknown(), plan: z.unknown() }),
  automations: z.object({ id, draft: z.looseObject({ name: z.string() }) }),
  stations: named,
  sources: named,
  series: named,
  hooks_in: named,
  hooks_out: named,
  calendar_sessions: z
    .object({ id, title: z.string() })
    .transform(({ title, ...row }) => ({ ...row, name: title })),
  people: z.object({
    id,
    name: z.string(),
    sort_name: z.string(),
    greeting: z.string(),
    mail: z.string().nullish(),
    standing: z.string(),
    station_id: id.nullish(),
    occupation: z.string(),
    zone: z.string(),
    joined_on: z.string(),
    linked_to: id.nullish(),
    guest_until: z.string().nullish(),
  }),
  person_attributes: z.object({ person_id: id, name: z.string(), value: z.string() }),
  person_addresses: z.object({ person_id: id, mail: z.string() }),
  identities: z.object({ person_id: id, in_system: z.string(), folded: z.string() }),
} as const;
type Table = keyof typeof SHAPES;
export type RowOf<T extends Table> = z.infer<(typeof SHAPES)[T]>;

/** The rows of an archive that parts are made of, read when they are wanted. */
export class ArchiveParts {
  readonly archive: ArchiveFile;
  readonly manifest: Manifest;
  readonly #read = new Map<Table, unknown[]>();

  constructor(archive: ArchiveFile, manifest: Manifest) {
    this.archive = archive;
    this.manifest = manifest;
  }

  /** The rows of a table, one after the other. @throws 422 where they are none of ours */
  async *each<T extends Table>(table: T): AsyncGenerator<RowOf<T>> {
    const entry = this.manifest.tables.find(({ name }) => name === table);
    if (!entry) throw wrongArchive(`This archive lacks the table ${table}.`);
    for await (const { row } of tableRows(this.archive, entry)) {
      const read = SHAPES[table].safeParse(row);
      if (!read.success) throw wrongArchive(`The table ${table} of this archive is not as it was taken out.`);
      yield read.data as RowOf<T>;
    }
  }

  /** All rows of a table that is small, kept once they are read. */
  async all<T extends Table>(table: T): Promise<RowOf<T>[]> {
    const kept = this.#read.get(table);
    if (kept) return kept as RowOf<T>[];
    const found: RowOf<T>[] = [];
    for await (const row of this.each(table)) found.push(row);
    this.#read.set(table, found);
    return found;
  }

  /** An upload of the archive: its name and its bytes. @throws 422 where it is not in it, or larger than can be kept */
  async upload(key: string, most: number): Promise<{ name: string; bytes: Buffer }> {
    const entry = this.manifest.uploads.find((each) => each.key === key);
    if (!entry) throw wrongArchive(`The upload ${key} of this archive has no file in it.`);
    const parts: Buffer[] = [];
    for await (const part of this.archive.bytes(entry.file, most)) parts.push(part);
    return { name: entry.file.slice(entry.file.lastIndexOf('/') + 1), bytes: Buffer.concat(parts) };
  }
}
