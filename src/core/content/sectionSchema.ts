import { z } from 'zod';
import { documentSchema } from './documentSchema.ts';
import {
  ACCENTS,
  MAX_ALT,
  MAX_FILES,
  MAX_GALLERY,
  MAX_HEADING,
  MAX_TRANSCRIPT,
  PLACEMENTS,
  VIDEO_KINDS,
} from './section.ts';

/** The name of an upload: unguessable. Reading it takes a signed address, or the right to what it stands in. */
export const uploadKeySchema = z.string().regex(/^[A-Za-z0-9_-]{22}$/, 'There is no such upload');

/** The point of an image that must stay in sight when it is cut, in hundredths of its width and height. */
const focusSchema = z.object({ x: z.int().min(0).max(100), y: z.int().min(0).max(100) });

export const imageSchema = z.object({
  key: uploadKeySchema,
  /** What it shows, for those who cannot see it. Needed before it goes out. */
  alt: z.string().max(MAX_ALT, `A description has at most ${MAX_ALT} characters`),
  placement: z.enum(PLACEMENTS),
  focus: focusSchema,
  /** Of the original, in pixels. */
  width: z.int().min(1).max(50_000),
  height: z.int().min(1).max(50_000),
});

export const fileSchema = z.object({
  key: uploadKeySchema,
  name: z.string().min(1).max(200),
  mime: z.string().max(120),
  bytes: z.int().min(0),
});

export const videoSchema = z.object({
  key: uploadKeySchema,
  name: z.string().min(1).max(200),
  mime: z.enum(VIDEO_KINDS),
  bytes: z.int().min(0),
  /** Needed before it goes out. */
  title: z.string().max(MAX_ALT, `The title of a video has at most ${MAX_ALT} characters`),
  poster: imageSchema.pick({ key: true, width: true, height: true }).nullable(),
  captions: uploadKeySchema.nullable(),
  transcript: z
    .string()
    .max(
      MAX_TRANSCRIPT,
      `The text beside a video has at most ${MAX_TRANSCRIPT.toLocaleString('en-GB')} characters`,
    ),
});

export const sectionSchema = z.object({
  /** Stays with the section when it is moved. */
  id: z.string().regex(/^[a-z0-9]{1,24}$/),
  heading: z.string().max(MAX_HEADING, `A heading has at most ${MAX_HEADING} characters`),
  accent: z.enum(ACCENTS),
  document: documentSchema,
  image: imageSchema.nullable(),
  gallery: z
    .array(imageSchema)
    .max(MAX_GALLERY, `A section has at most ${MAX_GALLERY + 1} images`)
    .default([]),
  video: videoSchema.nullable().default(null),
  files: z.array(fileSchema).max(MAX_FILES, `A section has at most ${MAX_FILES} attachments`),
});
