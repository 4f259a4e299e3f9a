import { createHash } from 'node:crypto';
import { audienceSchema, type Audience } from '../../../core/audience/expression.ts';
import { senderSchema } from '../../../core/senders/senderSchema.ts';
import type { Image } from '../../../core/content/section.ts';
import type { Part, PartKind } from '../../../core/organisation/parts.ts';
import type { Actor } from '../../../core/rights/decide.ts';
import type { Database } from '../../database/connection.ts';
import { keepCaptions, keepFile, keepImage, keepVideo, keysIn, MOST_VIDEO } from '../../uploads/service.ts';
import { wrongArchive } from '../archiveFile.ts';
import type { ArchiveParts } from './archiveParts.ts';
import { uploadsHere } from './partsStore.ts';
import type { Resolving } from './resolving.ts';

/** What a part is compared and brought in with. */
export interface Bringing {
  db: Database;
  actor: Actor;
  contents: ArchiveParts;
  resolving: Resolving;
  /** The uploads of the archive that were kept here so far, by their keys there. */
  uploads: Map<string, string>;
}

/** A part of an archive beside what is here, and how it comes in. */
export interface FoundPart extends Part {
  /**
   * Brings it in.
   *
   * @param beside whether under `beside`, next to the one of its name that is here
   * @returns what it is here now
   */
  bring(by: Bringing, beside: boolean): Promise<{ id: number; name: string; path: string }>;
}

/** What is compared of a part, to be made into one. */
export type Compared = Omit<FoundPart, 'key' | 'kind'>;

export const partOf = (kind: PartKind, id: number, compared: Compared): FoundPart => ({
  key: `${kind}:${id}`,
  kind,
  ...compared,
});

/** Reads what a column of the archive holds by the schema that this Clear Bell writes it by. @throws 422 where it is something else */
export function readAs<T>(
  schema: { safeParse(value: unknown): { success: boolean; data?: T } },
  value: unknown,
): T {
  const read = schema.safeParse(value);
  if (!read.success || read.data === undefined)
    throw wrongArchive('Something in this archive is not as Clear Bell writes it. Take it out again.');
  return read.data;
}

export const readAudienceOf = (value: unknown): Audience => readAs<Audience>(audienceSchema, value);
export const readPictureOf = (value: unknown): Image | null =>
  readAs<Image | null>(senderSchema.shape.picture, value ?? null);

/** A text without what tells one copy of an upload from another. */
export const withoutKeys = (value: unknown): string =>
  JSON.stringify(value).replace(/"(key|captions)":"[A-Za-z0-9_-]{22}"/g, '"$1":""');

/** Cells as one line of a comparison. */
export const cellsSum = (cells: Readonly<Record<string, string>>): string =>
  createHash('sha256')
    .update(JSON.stringify(Object.entries(cells).sort(([a], [b]) => (a < b ? -1 : 1))))
    .digest('base64');

/**
 * A document with the uploads it names as they are kept here: those of the archive that are not here are kept anew, looked at as any
 * other that is uploaded.
 *
 * @throws 422 where one is not what it says
 */
export async function withUploads<T>(by: Bringing, document: T): Promise<T> {
  const keys = keysIn(document);
  if (keys.length === 0) return document;
  const here = await uploadsHere(by.db, keys);
  const json = JSON.stringify(document);
  for (const key of keys) {
    if (here.has(key) || by.uploads.has(key)) continue;
    by.uploads.set(key, await kept(by, key, json));
  }
  return JSON.parse(
    json.replace(
      /"(key|captions)":"([A-Za-z0-9_-]{22})"/g,
      (_all, field: string, key: string) => `"${field}":"${by.uploads.get(key) ?? key}"`,
    ),
  ) as T;
}

async function kept({ db, actor, contents }: Bringing, key: string, json: string): Promise<string> {
  const { name, bytes } = await contents.upload(key, MOST_VIDEO);
  if (json.includes(`"captions":"${key}"`)) return (await keepCaptions(db, actor, bytes, name)).key;
  const around = new RegExp(`\\{[^{}]*"key":"${key}"[^{}]*`).exec(json)?.[0] ?? '';
  if (around.includes('"mime":"video/')) return (await keepVideo(db, actor, bytes, name)).key;
  if (around.includes('"width":')) return (await keepImage(db, actor, bytes, name)).key;
  return (await keepFile(db, actor, bytes, name)).key;
}

/** The upload that a key link of a board leads to, or nothing where it leads elsewhere. */
export const keyOfLink = (url: string): string | undefined =>
  /^\/files\/([A-Za-z0-9_-]{22})\//.exec(url)?.[1];

/** A key link as it leads here. */
export async function linkHere(by: Bringing, url: string): Promise<string> {
  const key = keyOfLink(url);
  if (key === undefined) return url;
  const { key: now } = await withUploads(by, { key });
  return url.replace(key, now);
}
