import { randomBytes } from 'node:crypto';
import { fileTypeFromBuffer } from 'file-type';
import sharp from 'sharp';
import { VIDEO_KINDS, type FileLink, type Video } from '../../core/content/section.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { bytesWords } from '../../core/words.ts';
import type { Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { insertInParts, insertUpload, keptInAnHour, uploaderOf } from './store.ts';

/** Most bytes of an upload. */
export const MOST_UPLOAD = 10_000_000;
/** Most pixels of an image: a small file can unpack to far more than any screen shows. */
const MOST_PIXELS = 50_000_000;
const IMAGES = new Set(['image/jpeg', 'image/png', 'image/webp', 'image/gif', 'image/avif']);
/** What may be attached, by what its bytes say it is; plain text has no signature and is told by being text. */
const FILES = new Set([
  ...IMAGES,
  'application/pdf',
  'application/zip',
  'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
  'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  'application/vnd.openxmlformats-officedocument.presentationml.presentation',
  'application/vnd.oasis.opendocument.text',
  'application/vnd.oasis.opendocument.spreadsheet',
  'application/vnd.oasis.opendocument.presentation',
]);
const TEXT_ENDINGS: Record<string, string> = { txt: 'text/plain', csv: 'text/csv', md: 'text/markdown' };

const refuse = (detail: string): Problem => new Problem(422, detail, { errors: [{ field: 'file', detail }] });

/** A name without folders, controls and what file systems dislike; never empty. */
function tidyName(name: string): string {
  const bare = name.split(/[/\\]/).at(-1) ?? '';
  // eslint-disable-next-line no-control-regex -- control characters are what is taken out
  return bare.replace(/[\u0000-\u001f\u007f"<>|:*?]/g, '').slice(-200) || 'file';
}

function isText(bytes: Buffer): boolean {
  try {
    const text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    return !text.includes('\u0000');
  } catch {
    return false;
  }
}

/** An image as it was kept: upright, without what the camera wrote into it, and no larger than a page needs. */
export interface KeptImage {
  key: string;
  width: number;
  height: number;
}

const newKey = (): string => randomBytes(16).toString('base64url');

/** Most files that somebody who does not work at the desk keeps in an hour. */
const MOST_AN_HOUR = 40;

async function requireRoom(db: Database, actor: Actor): Promise<void> {
  if (decide(actor, { kind: 'see the desk' }).outcome === 'allowed') return;
  if ((await keptInAnHour(db, actor.id)) >= MOST_AN_HOUR)
    throw new Problem(429, `At most ${MOST_AN_HOUR} files can be added in an hour. Try again later.`, {
      more: { retryAfter: 900 },
    });
}

function requireSize(bytes: Buffer): void {
  if (bytes.byteLength === 0) throw refuse('The file is empty.');
  if (bytes.byteLength > MOST_UPLOAD)
    throw refuse(
      `The file has more than ${bytesWords(MOST_UPLOAD)}. Make it smaller, or put it behind a link.`,
    );
}

/**
 * Keeps an image. What it is is read from its bytes, not from its name; SVG, which can carry script, is no image here.
 *
 * @throws 422 where it is none, is damaged, or is larger than bytes or pixels allow
 */
export async function keepImage(db: Database, actor: Actor, bytes: Buffer, name: string): Promise<KeptImage> {
  requireSize(bytes);
  await requireRoom(db, actor);
  const type = await fileTypeFromBuffer(bytes);
  if (!type || !IMAGES.has(type.mime))
    throw refuse('That is not an image we can show. Choose a JPEG, PNG, WebP, AVIF or GIF.');
  try {
    const image = sharp(bytes, { limitInputPixels: MOST_PIXELS, failOn: 'error' });
    const { width, height } = await image.metadata();
    if (width * height > MOST_PIXELS)
      throw refuse('The image has more than 50 million pixels. Make it smaller, then choose it again.');
    const { data, info } = await image
      .rotate()
      .resize({ width: 2400, height: 2400, fit: 'inside', withoutEnlargement: true })
      .webp({ quality: 86 })
      .toBuffer({ resolveWithObject: true });
    const key = newKey();
    await insertUpload(
      db,
      { key, name: tidyName(name), mime: 'image/webp', width: info.width, height: info.height, bytes: data },
      actor.id,
    );
    return { key, width: info.width, height: info.height };
  } catch (error) {
    if (error instanceof Problem) throw error;
    throw refuse('The image is damaged or too large to be read. Save it anew, then choose it again.');
  }
}

/**
 * Keeps a file to be attached.
 *
 * @throws 422 where its bytes are of a kind that is not attached, or are too many
 */
export async function keepFile(db: Database, actor: Actor, bytes: Buffer, name: string): Promise<FileLink> {
  requireSize(bytes);
  await requireRoom(db, actor);
  const tidy = tidyName(name);
  const ending = tidy.split('.').at(-1)?.toLowerCase() ?? '';
  const found = await fileTypeFromBuffer(bytes);
  const mime = found?.mime ?? (isText(bytes) ? TEXT_ENDINGS[ending] : undefined);
  if (mime === undefined || (found && !FILES.has(found.mime)))
    throw refuse(
      'A file of this kind cannot be attached. Choose a PDF, an office document, an image, a text, a CSV or a ZIP.',
    );
  const key = newKey();
  await insertUpload(db, { key, name: tidy, mime, width: null, height: null, bytes }, actor.id);
  return { key, name: tidy, mime, bytes: bytes.byteLength };
}

/** Most bytes of a video, and of its captions. */
export const MOST_VIDEO = 40_000_000;
const MOST_CAPTIONS = 500_000;

function requireDeskFor(actor: Actor, what: string): void {
  if (decide(actor, { kind: 'see the desk' }).outcome !== 'allowed')
    throw new Problem(403, `${what} are for those who work at the desk.`);
}

/**
 * Keeps a short video that browsers play in its place: MP4 or WebM, told by its bytes.
 *
 * @throws 403 for who does not work at the desk; 422 where it is none, or has more bytes than one plays on a phone
 */
export async function keepVideo(
  db: Database,
  actor: Actor,
  bytes: Buffer,
  name: string,
): Promise<Pick<Video, 'key' | 'name' | 'mime' | 'bytes'>> {
  requireDeskFor(actor, 'Videos');
  if (bytes.byteLength === 0) throw refuse('The file is empty.');
  if (bytes.byteLength > MOST_VIDEO)
    throw refuse(
      `The video has more than ${bytesWords(MOST_VIDEO)}. Make it shorter, or put it behind a link.`,
    );
  const found = (await fileTypeFromBuffer(bytes))?.mime;
  const mime = found === 'video/x-m4v' ? 'video/mp4' : VIDEO_KINDS.find((kind) => kind === found);
  if (mime === undefined)
    throw refuse('That is not a video that browsers play. Choose an MP4 (H.264) or a WebM.');
  const key = newKey();
  const tidy = tidyName(name);
  await insertInParts(db, { key, name: tidy, mime }, bytes, actor.id);
  return { key, name: tidy, mime, bytes: bytes.byteLength };
}

/**
 * Keeps the captions of a video (WebVTT, W3C).
 *
 * @throws 403 for who does not work at the desk; 422 where they are not WebVTT
 */
export async function keepCaptions(
  db: Database,
  actor: Actor,
  bytes: Buffer,
  name: string,
): Promise<{ key: string }> {
  requireDeskFor(actor, 'Captions');
  const text = isText(bytes) ? bytes.toString('utf8').replace(/^\uFEFF/, '') : '';
  if (bytes.byteLength > MOST_CAPTIONS || !/^WEBVTT(?:[ \t\r\n]|$)/.test(text) || !text.includes('-->'))
    throw refuse(
      'These are no captions in WebVTT. Such a file begins with the word WEBVTT and has a time before each line.',
    );
  const key = newKey();
  await insertUpload(
    db,
    { key, name: tidyName(name), mime: 'text/vtt', width: null, height: null, bytes: Buffer.from(text) },
    actor.id,
  );
  return { key };
}

/** How bytes are kept, by what they are to be. */
export const KEEP = { image: keepImage, file: keepFile, video: keepVideo, captions: keepCaptions };

/** The keys of the uploads that a text, a post or a reply names. */
export const keysIn = (value: unknown): string[] => [
  ...new Set(
    Array.from(
      JSON.stringify(value).matchAll(/"(?:key|captions)":"([A-Za-z0-9_-]{22})"/g),
      (match) => match[1] ?? '',
    ),
  ),
];

/**
 * Refuses uploads that are not this person's to put somewhere: what they kept themselves may stand in what they write, and what
 * stood there before may stay. Otherwise somebody who knows the key of a file that was taken back could show it again.
 *
 * @param given what is written, in which uploads are named by their keys
 * @param before what stood there before, as text; '' where nothing did
 * @throws 422 with the field at fault
 */
export async function requireOwnUploads(
  db: Database,
  actor: Actor,
  given: unknown,
  before = '',
): Promise<void> {
  if (actor.role === 'coordinator') return;
  for (const key of keysIn(given)) {
    if (before.includes(key) || (await uploaderOf(db, key)) === actor.id) continue;
    throw refuse(
      'An image or file in it is not there, or is not yours to use. Take it out, and add it again.',
    );
  }
}
