import PQueue from 'p-queue';
import sharp from 'sharp';
import type { Actor } from '../../core/rights/decide.ts';
import { requireOwn } from '../automations/service.ts';
import { openAnnouncement } from '../announcements/service.ts';
import type { Database } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import { placeSigned } from './address.ts';
import {
  bytesOf,
  cutOf,
  isForAll,
  keepCut,
  standsIn,
  standsInAutomation,
  uploadByKey,
  uploaderOf,
} from './store.ts';

/** The room of each place in CSS pixels; an image is made for one, two or three pixels of a screen to each. */
const ROOMS = { wide: { width: 640, height: 360 }, beside: { width: 240, height: 240 } } as const;
const WHOLE = 640;

/** An upload as it is asked for by its path: an image cut for its place, or a file as it was kept. */
export interface Served {
  mime: string;
  bytes: Buffer;
  /** The name under which it is saved; nothing for what is shown in its place. */
  name: string | null;
  /** Of what is played and kept in parts: how many bytes it has; it is then read with `readPart`, and `bytes` is empty. */
  size: number | null;
}

/** A cut of `width` by `height` whose middle is as near to the focal point as the image allows. */
function cutAround(
  whole: { width: number; height: number },
  wanted: { width: number; height: number },
  focus: { x: number; y: number },
): { left: number; top: number; width: number; height: number } {
  const scale = Math.min(whole.width / wanted.width, whole.height / wanted.height);
  const width = Math.max(1, Math.floor(wanted.width * scale));
  const height = Math.max(1, Math.floor(wanted.height * scale));
  const place = (size: number, part: number, at: number): number =>
    Math.round(Math.min(size - part, Math.max(0, (size * at) / 100 - part / 2)));
  return {
    left: place(whole.width, width, focus.x),
    top: place(whole.height, height, focus.y),
    width,
    height,
  };
}

/** Two images are cut at once at most: more would hold up what else the machine does. */
const cutting = new PQueue({ concurrency: 2 });
const MOST_CUTS_WAITING = 60;
/** Most cuts of one image that are kept: one for each way and place it stands in. */
const MOST_CUTS = 48;
const CUT = /^(whole|wide|beside)(?:-(\d{1,3})-(\d{1,3}))?(?:@([123]))?\.(webp|jpg)$/;

/** Bytes of a video that may be read, from one to another, both included. */
export const readPart = bytesOf;

/**
 * Serves an upload to whoever may read it: by a signed address, as long as it still stands where it was signed for; or, signed
 * in, what they kept themselves, what stands in a draft or an automation they may open, the banners of series and the pictures of senders. A 404 problem alike for
 * anything else.
 */
export async function serveUpload(
  db: Database,
  by: { actor: Actor | null; signed: string | null; draft: number | null; automation?: number | null },
  key: string,
  as: string,
): Promise<Served & { untilMs: number }> {
  const signed = by.signed === null ? undefined : placeSigned(key, by.signed);
  const may =
    /^[A-Za-z0-9_-]{22}$/.test(key) &&
    (signed ? await standsIn(db, key, signed.place, signed.id) : await mayReadUnsigned(db, by, key));
  if (!may) throw notFound('file');
  const served = await uploadAs(db, key, as);
  return { ...served, untilMs: signed?.untilMs ?? Date.now() };
}

async function mayReadUnsigned(
  db: Database,
  {
    actor,
    draft,
    automation = null,
  }: { actor: Actor | null; draft: number | null; automation?: number | null },
  key: string,
): Promise<boolean> {
  if (!actor) return false;
  if ((await uploaderOf(db, key)) === actor.id || (await isForAll(db, key))) return true;
  if (automation !== null) {
    await requireOwn(db, actor, automation);
    return standsInAutomation(db, key, automation);
  }
  if (draft === null || actor.role === 'member') return false;
  await openAnnouncement(db, actor, draft);
  return standsIn(db, key, 'draft', draft);
}

/** An upload as a path of it asks for, for whoever may read it: that is not looked at here. @throws 404, 503 */
export async function uploadAs(db: Database, key: string, as: string): Promise<Served> {
  const match = CUT.exec(as);
  if (match) {
    const kept = await cutOf(db, key, as);
    if (kept) return { ...kept, name: null, size: null };
  }
  const upload = await uploadByKey(db, key);
  if (!upload) throw notFound('file');
  const { width, height } = upload;
  if (width === null || height === null || !match)
    return {
      mime: upload.mime,
      bytes: upload.bytes,
      name: upload.size !== null || upload.mime === 'text/vtt' ? null : upload.name,
      size: upload.size,
    };
  if (cutting.size >= MOST_CUTS_WAITING)
    throw new Problem(503, 'Too many images are being made ready just now. Try again in a moment.', {
      more: { retryAfter: 5 },
    });
  const made = await cutting.add(
    async () => (await cutOf(db, key, as)) ?? cutImage({ ...upload, width, height }, match),
  );
  if (!made) throw notFound('file');
  await keepCut(db, key, as, made, MOST_CUTS);
  return { ...made, name: null, size: null };
}

/** An image as a path of it asks for: sized for its place, cut around a point. */
async function cutImage(
  { bytes, width, height }: { bytes: Buffer; width: number; height: number },
  [, placement, x, y, density, format]: RegExpExecArray,
): Promise<{ mime: string; bytes: Buffer }> {
  let image = sharp(bytes);
  const scale = Number(density ?? 2);
  if (placement === 'wide' || placement === 'beside') {
    const room = ROOMS[placement];
    const focus = { x: Math.min(100, Number(x ?? 50)), y: Math.min(100, Number(y ?? 50)) };
    const cut = cutAround({ width, height }, room, focus);
    // Never larger than what was cut out.
    const size = Math.min(room.width * scale, cut.width);
    image = image
      .extract(cut)
      .resize({ width: size, height: Math.round((size * cut.height) / cut.width), fit: 'fill' });
  } else image = image.resize({ width: WHOLE * scale, withoutEnlargement: true });
  return format === 'jpg'
    ? {
        mime: 'image/jpeg',
        bytes: await image.flatten({ background: '#FFFEFA' }).jpeg({ quality: 80 }).toBuffer(),
      }
    : { mime: 'image/webp', bytes: await image.webp({ quality: 82 }).toBuffer() };
}
