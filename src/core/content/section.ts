import { EMPTY_DOCUMENT, isBlankDocument, type Doc, isBlank } from './document.ts';

/** The accents a section may have, from the palette. */
export const ACCENTS = ['none', 'bronze', 'verdigris', 'ochre', 'madder', 'slate'] as const;
export type Accent = (typeof ACCENTS)[number];

/** How an image stands: as it is; across the column, cut to 16:9; or beside the text, cut to a square. */
export const PLACEMENTS = ['whole', 'wide', 'beside'] as const;
export type Placement = (typeof PLACEMENTS)[number];

export const MAX_HEADING = 120;
export const MAX_ALT = 300;
/** Most sections of one announcement; a board shows them in parts of its own limit. */
export const MAX_SECTIONS = 60;
export const MAX_FILES = 10;
export interface Image {
  key: string;
  /** What it shows, for those who cannot see it. Needed before it goes out. */
  alt: string;
  placement: Placement;
  /** The point that must stay in sight when it is cut, in hundredths of its width and height. */
  focus: { x: number; y: number };
  /** Of the original, in pixels. */
  width: number;
  height: number;
}
/** Most further images of a section, shown together under its text. */
export const MAX_GALLERY = 11;
export const MAX_TRANSCRIPT = 10_000;

/** A short video that plays in its place. */
export interface Video {
  key: string;
  name: string;
  mime: (typeof VIDEO_KINDS)[number];
  bytes: number;
  /** What it shows, in a line: its title. */
  title: string;
  /** The picture that stands there until it plays, and in mail. */
  poster: Pick<Image, 'key' | 'width' | 'height'> | null;
  /** The key of its captions (WebVTT). */
  captions: string | null;
  /** What is said in it, as a text beside it. */
  transcript: string;
}
export const VIDEO_KINDS = ['video/mp4', 'video/webm'] as const;

export interface FileLink {
  key: string;
  name: string;
  mime: string;
  bytes: number;
}
export interface Section {
  /** Stays with the section when it is moved. */
  id: string;
  heading: string;
  accent: Accent;
  document: Doc;
  image: Image | null;
  /** Further images, shown together under the text. */
  gallery: Image[];
  video: Video | null;
  files: FileLink[];
}

export const emptySection = (id: string): Section => ({
  id,
  heading: '',
  accent: 'none',
  document: EMPTY_DOCUMENT,
  image: null,
  gallery: [],
  video: null,
  files: [],
});

/** A section that holds one text and nothing else. */
export const plainSection = (document: Doc, id = 's1'): Section => ({ ...emptySection(id), document });

/** Whether a section would show a reader nothing. */
export const isBlankSection = (section: Section): boolean =>
  isBlank(section.heading) &&
  isBlankDocument(section.document) &&
  !section.image &&
  section.gallery.length === 0 &&
  !section.video &&
  section.files.length === 0;

/** Sections in parts of at most `limit`, whole sections in their order; always at least one part. */
export function partsOf<T>(sections: readonly T[], limit: number): T[][] {
  const parts: T[][] = [];
  for (let i = 0; i < sections.length; i += Math.max(1, limit))
    parts.push(sections.slice(i, i + Math.max(1, limit)));
  return parts.length > 0 ? parts : [[]];
}

/** How much of an image is shown in its place, in its own pixels: what is cut keeps as much as its shape allows. */
function shownOf({ placement, width, height }: Pick<Image, 'placement' | 'width' | 'height'>): {
  width: number;
  height: number;
} {
  const shape = SHAPES[placement];
  if (shape === null) return { width, height };
  const scale = Math.min(width / shape.width, height / shape.height);
  return { width: Math.floor(shape.width * scale), height: Math.floor(shape.height * scale) };
}

/** The room of each place in CSS pixels, which also is the shape an image is cut to there; null is any shape. */
const SHAPES: Record<Placement, { width: number; height: number } | null> = {
  whole: null,
  wide: { width: 640, height: 360 },
  beside: { width: 240, height: 240 },
};
const WIDEST = 640;

/** The densities an image is made in: for one, two or three of a screen's pixels to one of the page's. */
export const DENSITIES = [1, 2, 3] as const;
export type Density = (typeof DENSITIES)[number];

/** An upload's address, sized for its place; the focal point is cut in on the server. */
export function imagePath(image: Image, kind: 'page' | 'mail', density: Density = 2): string {
  const { key, placement, focus } = image;
  const cut = placement === 'whole' ? placement : `${placement}-${focus.x}-${focus.y}`;
  return `/files/${key}/${cut}${density === 2 ? '' : `@${density}`}.${kind === 'mail' ? 'jpg' : 'webp'}`;
}

/** How large an image is shown, in CSS pixels: never larger than it is. */
export function imageSize(image: Pick<Image, 'placement' | 'width' | 'height'>): {
  width: number;
  height: number;
} {
  const shown = shownOf(image);
  const width = Math.max(1, Math.min(SHAPES[image.placement]?.width ?? WIDEST, shown.width));
  return { width, height: Math.max(1, Math.round((width * shown.height) / shown.width)) };
}

/** The densities of which an image has the pixels, and how wide each is in pixels; always at least the first. */
export function imageWidths(image: Image): { density: Density; width: number }[] {
  const room = imageSize(image).width;
  const most = shownOf(image).width;
  const all = DENSITIES.map((density) => ({ density, width: Math.min(most, room * density) }));
  return all.filter(({ width }, i) => i === 0 || width > (all[i - 1]?.width ?? 0));
}

/** What share of an image is shown in a place, in hundredths. */
export function shownShare(image: Pick<Image, 'placement' | 'width' | 'height'>): number {
  const shown = shownOf(image);
  return Math.round((100 * shown.width * shown.height) / (image.width * image.height));
}

/** Where an image of some shape stands best: across the column where little of it is cut away, else as it is. */
export const fittingPlacement = (image: { width: number; height: number }): Placement =>
  shownShare({ ...image, placement: 'wide' }) >= 85 ? 'wide' : 'whole';

/** The picture of a video as an image of its own. */
export const posterOf = ({ poster, title }: Pick<Video, 'poster' | 'title'>): Image | null =>
  poster && { ...poster, alt: title, placement: 'whole', focus: { x: 50, y: 50 } };

export const videoPath = (video: Pick<Video, 'key' | 'mime'>): string =>
  `/files/${video.key}/video.${video.mime === 'video/webm' ? 'webm' : 'mp4'}`;
export const captionsPath = (key: string): string => `/files/${key}/captions.vtt`;

export const filePath = (file: FileLink): string => `/files/${file.key}/${encodeURIComponent(file.name)}`;
