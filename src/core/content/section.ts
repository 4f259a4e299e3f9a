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
  files: FileLink[];
}

export const emptySection = (id: string): Section => ({
  id,
  heading: '',
  accent: 'none',
  document: EMPTY_DOCUMENT,
  image: null,
  files: [],
});

/** A section that holds one text and nothing else. */
export const plainSection = (document: Doc, id = 's1'): Section => ({ ...emptySection(id), document });

/** Whether a section would show a reader nothing. */
export const isBlankSection = (section: Section): boolean =>
  isBlank(section.heading) &&
  isBlankDocument(section.document) &&
  !section.image &&
  section.files.length === 0;

/** Sections in parts of at most `limit`, whole sections in their order; always at least one part. */
export function partsOf<T>(sections: readonly T[], limit: number): T[][] {
  const parts: T[][] = [];
  for (let i = 0; i < sections.length; i += Math.max(1, limit))
    parts.push(sections.slice(i, i + Math.max(1, limit)));
  return parts.length > 0 ? parts : [[]];
}

/** An upload's address on the page, sized for its place; the focal point is cut in on the server. */
export function imagePath(image: Image, kind: 'page' | 'mail'): string {
  const { key, placement, focus } = image;
  const cut = placement === 'whole' ? placement : `${placement}-${focus.x}-${focus.y}`;
  return `/files/${key}/${cut}.${kind === 'mail' ? 'jpg' : 'webp'}`;
}

/** How large an image is shown, in CSS pixels. */
export function imageSize(image: Image): { width: number; height: number } {
  switch (image.placement) {
    case 'wide':
      return { width: 640, height: 360 };
    case 'beside':
      return { width: 240, height: 240 };
    case 'whole': {
      const width = Math.min(640, image.width);
      return { width, height: Math.max(1, Math.round((width * image.height) / image.width)) };
    }
  }
}

export const filePath = (file: FileLink): string => `/files/${file.key}/${encodeURIComponent(file.name)}`;
