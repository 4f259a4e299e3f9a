import {
  escapeHTML,
  escapeHTMLAttribute,
  renderJSONContentToString,
  serializeChildrenToHTMLString as children,
} from '@tiptap/static-renderer/json/html-string';
import { fieldValue, isReaderField, type Reader } from './field.ts';
import type { Doc } from './document.ts';
import { isSafeLink } from './link.ts';
import {
  captionsPath,
  filePath,
  imagePath,
  imageSize,
  imageWidths,
  posterOf,
  videoPath,
  type Accent,
  type Density,
  type Image,
  type Section,
  type Video,
} from './section.ts';
import { bytesWords } from '../words.ts';

/** What a field says: text that is escaped by whoever renders it. */
export type FillField = (name: string, fallback: string) => string;

/** Fields filled in for a reader, or with what stands instead of them. */
export const fillFor =
  (reader: Reader | null): FillField =>
  (name, fallback) =>
    (reader && isReaderField(name) && fieldValue(name, reader)) || fallback;

interface RenderedNode {
  type: string;
  text?: string;
  attrs?: Record<string, unknown>;
}

interface RenderedMark {
  type: string;
  attrs?: { href?: unknown };
}

const string = (value: unknown): string => (typeof value === 'string' ? value : '');

/** A mail has no style sheet: its tables carry their rules with them. */
const MAIL_TABLE = {
  table: ' style="border-collapse:collapse;margin:0 0 14px;width:100%"',
  head: ' style="text-align:left;padding:4px 12px 4px 0;border-bottom:2px solid #241f1a;font-size:14px"',
  cell: ' style="padding:4px 12px 4px 0;border-bottom:1px solid #d8cfc0;vertical-align:top"',
};
const PAGE_TABLE = { table: '', head: '', cell: '' };

/** A renderer of documents whose first headings are of a level. */
function renderer(level: number, fill: FillField, marks: typeof MAIL_TABLE) {
  return renderJSONContentToString<RenderedMark, RenderedNode & { content?: RenderedNode[] }>({
    nodeMapping: {
      doc: ({ children: inner }) => children(inner),
      paragraph: ({ children: inner }) => `<p>${children(inner)}</p>`,
      heading: ({ node, children: inner }) => {
        const at = node.attrs?.level === 3 ? level + 1 : level;
        return `<h${at}>${children(inner)}</h${at}>`;
      },
      bulletList: ({ children: inner }) => `<ul>${children(inner)}</ul>`,
      orderedList: ({ node, children: inner }) => {
        const start = node.attrs?.start;
        return `<ol${typeof start === 'number' && start !== 1 ? ` start="${Math.trunc(start)}"` : ''}>${children(inner)}</ol>`;
      },
      listItem: ({ children: inner }) => `<li>${children(inner)}</li>`,
      hardBreak: () => '<br>',
      text: ({ node }) => escapeHTML(node.text ?? ''),
      field: ({ node }) => escapeHTML(fill(string(node.attrs?.name), string(node.attrs?.fallback))),
      table: ({ children: inner }) => `<table${marks.table}>${children(inner)}</table>`,
      tableRow: ({ children: inner }) => `<tr>${children(inner)}</tr>`,
      tableHeader: ({ children: inner }) => `<th scope="col"${marks.head}>${children(inner)}</th>`,
      tableCell: ({ children: inner }) => `<td${marks.cell}>${children(inner)}</td>`,
      mention: ({ node }) => `<strong>${escapeHTML(string(node.attrs?.label))}</strong>`,
    },
    markMapping: {
      bold: ({ children: inner }) => `<strong>${children(inner)}</strong>`,
      italic: ({ children: inner }) => `<em>${children(inner)}</em>`,
      link: ({ mark, children: inner }) => {
        const href = string(mark.attrs?.href);
        if (!isSafeLink(href)) return children(inner);
        return `<a href="${escapeHTMLAttribute(href)}" rel="noopener noreferrer nofollow">${children(inner)}</a>`;
      },
    },
  });
}

/**
 * The one rendering of a document to HTML, for board, inbox, preview and mail alike. Text and addresses are
 * escaped, links that could run something lose their link, and nothing else gets through: the output needs no
 * further cleaning. `level` is that of its first
 * headings, one below whatever they stand under.
 */
export function documentHtml(doc: Doc, fill: FillField = fillFor(null), level = 3, mail = false): string {
  // The renderer's types know any JSON; ours is a subset, held by `documentSchema`.
  return renderer(level, fill, mail ? MAIL_TABLE : PAGE_TABLE)({ content: doc as unknown as RenderedNode });
}

/** Where a rendering is read: on a page of the application, or in a mail, which has no style sheet of ours. */
export type Medium =
  | {
      kind: 'page';
      /** Of the first headings: one below that of the title they stand under. */
      level: 2 | 3 | 4;
      address?: Address;
    }
  | {
      kind: 'mail';
      publicUrl: string;
      address?: Address;
      /** Where the reader plays a video. */
      watchUrl?: string;
    };

/** Gives the path of an upload what lets it be read there. */
export type Address = (path: string) => string;

const MAIL_ACCENTS: Record<Exclude<Accent, 'none'>, string> = {
  bronze: '#8A4B12',
  verdigris: '#1C6B60',
  ochre: '#8F5F00',
  madder: '#A3312B',
  slate: '#34506B',
};

/** What the pictures and videos of a section are rendered with. */
interface Placed {
  mail: boolean;
  /** What stands before the path of an upload. */
  base: string;
  address: Address;
  /** Of a mail: where its reader plays what a mail cannot. */
  watchUrl: string;
}

function imageHtml(image: Image, { mail, base, address }: Placed): string {
  const { width, height } = imageSize(image);
  const at = (density?: Density): string =>
    escapeHTMLAttribute(base + address(imagePath(image, mail ? 'mail' : 'page', density)));
  const style = mail
    ? ` style="display:block;max-width:100%;height:auto;border:0;width:${width}px;margin:0 0 ${image.placement === 'beside' ? 12 : 14}px"`
    : '';
  const sizes = mail ? [] : imageWidths(image);
  const dense =
    sizes.length < 2
      ? ''
      : ` srcset="${sizes.map((size) => `${at(size.density)} ${size.width}w`).join(', ')}" sizes="(max-width: ${width + 60}px) 92vw, ${width}px"`;
  return `<img class="placed ${image.placement}" src="${at()}"${dense} alt="${escapeHTMLAttribute(image.alt)}" width="${width}" height="${height}"${style}${mail ? '' : ' loading="lazy"'}>`;
}

/** Further images as squares side by side; on a page each leads to itself whole. */
function galleryHtml(images: readonly Image[], placed: Placed): string {
  const { mail, address } = placed;
  if (mail)
    return `<div style="margin:0 0 14px">${images
      .map((image) =>
        imageHtml({ ...image, placement: 'beside' }, placed).replace('display:block', 'display:inline-block'),
      )
      .join(' ')}</div>`;
  return `<ul class="gallery">${images
    .map(
      (image) =>
        `<li><a href="${escapeHTMLAttribute(address(imagePath({ ...image, placement: 'whole' }, 'page', 3)))}" target="_blank" rel="noopener">${imageHtml({ ...image, placement: 'beside' }, placed)}</a></li>`,
    )
    .join('')}</ul>`;
}

/** A video in its place, with its captions and the text beside it; in a mail its picture, with a link to where it plays. */
function videoHtml(video: Video, placed: Placed): string {
  const { mail, base, address, watchUrl } = placed;
  const poster = posterOf(video);
  const title = escapeHTML(video.title);
  const said = video.transcript.trim();
  if (mail)
    return `<p style="margin:0 0 14px"><a href="${escapeHTMLAttribute(watchUrl)}" style="color:#8a4b12">${
      poster ? imageHtml(poster, placed) : ''
    }Watch the video: ${title}</a></p>`;
  const at = (path: string): string => escapeHTMLAttribute(base + address(path));
  const size = poster ? imageSize(poster) : { width: 640, height: 360 };
  return `<figure class="video"><video controls playsinline preload="none" width="${size.width}" height="${size.height}"${
    poster ? ` poster="${at(imagePath(poster, 'page'))}"` : ''
  } aria-label="${escapeHTMLAttribute(video.title)}"><source src="${at(videoPath(video))}" type="${video.mime}">${
    video.captions === null
      ? ''
      : `<track kind="captions" src="${at(captionsPath(video.captions))}" srclang="en" label="Captions" default>`
  }</video><figcaption>${title}</figcaption>${
    said === ''
      ? ''
      : `<details><summary>What is said in it</summary>${said
          .split(/\n{2,}/)
          .map((each) => `<p>${escapeHTML(each).replaceAll('\n', '<br>')}</p>`)
          .join('')}</details>`
  }</figure>`;
}

function sectionHtml(section: Section, fill: FillField, medium: Medium): string {
  const mail = medium.kind === 'mail';
  const base = mail ? medium.publicUrl : '';
  const level = mail ? 2 : medium.level;
  const address = medium.address ?? ((path: string) => path);
  const parts: string[] = [];
  if (section.heading.trim() !== '')
    parts.push(
      mail
        ? `<h2 style="font-size:19px;line-height:25px;margin:0 0 10px" dir="auto">${escapeHTML(section.heading)}</h2>`
        : `<h${level} dir="auto">${escapeHTML(section.heading)}</h${level}>`,
    );
  const placed = { mail, base, address, watchUrl: mail ? (medium.watchUrl ?? base) : '' };
  if (section.image) parts.push(imageHtml(section.image, placed));
  parts.push(documentHtml(section.document, fill, section.heading.trim() === '' ? level : level + 1, mail));
  if (section.gallery.length > 0) parts.push(galleryHtml(section.gallery, placed));
  if (section.video) parts.push(videoHtml(section.video, placed));
  if (section.files.length > 0)
    parts.push(
      `<ul class="files">${section.files
        .map(
          (file) =>
            `<li><a href="${base}${escapeHTMLAttribute(address(filePath(file)))}" download>${escapeHTML(file.name)}</a> <span>${bytesWords(file.bytes)}</span></li>`,
        )
        .join('')}</ul>`,
    );
  const inner = parts.join('');
  if (mail) {
    const accent =
      section.accent === 'none'
        ? ''
        : `border-left:4px solid ${MAIL_ACCENTS[section.accent]};padding-left:14px;`;
    return `<div style="${accent}margin:0 0 22px">${inner}</div>`;
  }
  return `<section class="section accent-${section.accent}">${inner}</section>`;
}

/** Sections as HTML: escaped throughout, like `documentHtml`. */
export function sectionsHtml(
  sections: readonly Section[],
  fill: FillField = fillFor(null),
  medium: Medium = { kind: 'page', level: 3 },
): string {
  return sections.map((section) => sectionHtml(section, fill, medium)).join('');
}
