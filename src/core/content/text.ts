import { inlineOf, type Block, type Doc, type Inline, type ListItem, type TableRow } from './document.ts';
import { fillFor, type FillField } from './html.ts';
import { filePath, type Section } from './section.ts';

const segmenter = new Intl.Segmenter('en', { granularity: 'grapheme' });

/** Text in which every code unit is a character by itself: nothing that combines, joins or is written in two. */
const PLAIN = /^[\n\x20-\u02ff\u2010-\u2027\u20ac]*$/;

/** Characters as readers see them: an emoji of several code points is one. The segmenter is asked only where it matters. */
const graphemes = (text: string): string[] =>
  PLAIN.test(text) ? text.split('') : Array.from(segmenter.segment(text), (part) => part.segment);

/** How many characters a reader sees. */
export const lengthOf = (text: string): number => graphemes(text).length;

function line(content: Inline[] | undefined, fill: FillField): string {
  return (content ?? [])
    .map((part) => {
      switch (part.type) {
        case 'hardBreak':
          return '\n';
        case 'field':
          return fill(part.attrs.name, part.attrs.fallback);
        case 'mention':
          return part.attrs.label;
        case 'text': {
          const link = part.marks?.find((mark) => mark.type === 'link');
          return link && link.attrs.href !== part.text ? `${part.text} <${link.attrs.href}>` : part.text;
        }
      }
    })
    .join('');
}

const underlined = (heading: string, mark: string): string =>
  `${heading}\n${mark.repeat(Math.min(60, Math.max(3, lengthOf(heading))))}`;

function blockText(block: Block, indent: string, fill: FillField): string {
  switch (block.type) {
    case 'paragraph':
      return line(block.content, fill);
    case 'heading':
      return underlined(line(block.content, fill), '-');
    case 'bulletList':
    case 'orderedList': {
      const start = block.type === 'orderedList' ? (block.attrs?.start ?? 1) : 0;
      return block.content
        .map((item, i) => {
          const mark = block.type === 'orderedList' ? `${start + i}. ` : '- ';
          const hang = ' '.repeat(mark.length);
          const body = item.content.map((inner) => blockText(inner, indent + hang, fill)).join('\n');
          return mark + body.replaceAll('\n', `\n${hang}`);
        })
        .join('\n');
    }
    case 'table':
      return tableText(block.content, fill);
  }
}

/** The words of a cell on one line. */
export const cellText = (cell: TableRow['content'][number], fill: FillField): string =>
  cell.content.map((each) => line(each.content, fill).replaceAll('\n', ' ')).join(' ');

/** A table as lines whose columns stand under each other, as long as they are not too wide for that. */
function tableText(rows: readonly TableRow[], fill: FillField): string {
  const cells = rows.map((row) => row.content.map((cell) => cellText(cell, fill)));
  const widths = cells.reduce<number[]>(
    (widest, row) => row.map((cell, at) => Math.min(30, Math.max(widest[at] ?? 0, lengthOf(cell)))),
    [],
  );
  return cells
    .map((row) =>
      row
        .map((cell, at) => cell + ' '.repeat(Math.max(0, (widths[at] ?? 0) - lengthOf(cell))))
        .join('  ')
        .trimEnd(),
    )
    .join('\n');
}

/** A document as plain text: for the text part of mail, for search, for a line that stands for the whole. */
export function documentText(doc: Doc, fill: FillField = fillFor(null)): string {
  return doc.content
    .map((block) => blockText(block, '', fill))
    .join('\n\n')
    .trim();
}

/** Sections as plain text. Images are told by their description, attachments by their address. */
export function sectionsText(
  sections: readonly Section[],
  fill: FillField = fillFor(null),
  publicUrl = '',
): string {
  return sections
    .map((section) =>
      [
        section.heading.trim() === '' ? '' : underlined(section.heading.trim(), '='),
        section.image && section.image.alt.trim() !== '' ? `[Image: ${section.image.alt.trim()}]` : '',
        documentText(section.document, fill),
        section.gallery
          .filter((image) => image.alt.trim() !== '')
          .map((image) => `[Image: ${image.alt.trim()}]`)
          .join('\n'),
        section.video
          ? [`[Video: ${section.video.title.trim()}]`, section.video.transcript.trim()]
              .filter(Boolean)
              .join('\n')
          : '',
        section.files.map((file) => `${file.name}: ${publicUrl}${filePath(file)}`).join('\n'),
      ]
        .filter(Boolean)
        .join('\n\n'),
    )
    .filter(Boolean)
    .join('\n\n\n');
}

/**
 * What of some sections can be found and is shown around what was found: their words, without the addresses behind them and
 * without the marks and rulings of the plain text of a mail.
 */
export function searchText(sections: readonly Section[]): string {
  return sections
    .flatMap((section) => [
      section.heading,
      section.image?.alt ?? '',
      plainWords(section.document),
      ...section.gallery.map((image) => image.alt),
      section.video?.title ?? '',
      section.video?.transcript ?? '',
      ...section.files.map((file) => file.name),
    ])
    .map((part) => part.trim())
    .filter(Boolean)
    .join('\n');
}

/** The words of a document, a line a block. */
export function plainWords(doc: Doc): string {
  const inline = (parts: readonly Inline[]): string =>
    parts
      .map((part) => {
        switch (part.type) {
          case 'text':
            return part.text;
          case 'mention':
            return part.attrs.label;
          case 'field':
            return part.attrs.fallback;
          case 'hardBreak':
            return ' ';
        }
      })
      .join('');
  const words = (block: Block | ListItem): string => {
    if (block.type === 'paragraph' || block.type === 'heading') return inline(block.content ?? []);
    if (block.type === 'table')
      return block.content
        .map((row) => row.content.map((cell) => inline(inlineOf(cell))).join(' '))
        .join('\n');
    return block.content.map(words).join('\n');
  };
  return doc.content.map(words).join('\n');
}

/** The first words of some sections on one line, cut at a word, at most `length` characters. */
export function excerpt(
  sections: readonly Pick<Section, 'heading' | 'document'>[],
  length = 160,
  fill: FillField = fillFor(null),
): string {
  const words = sections
    .flatMap((section) => [
      section.heading,
      ...section.document.content.map((block) =>
        block.type === 'paragraph' || block.type === 'heading'
          ? line(block.content, fill)
          : blockText(block, '', fill),
      ),
    ])
    .join(' ')
    .replace(/ <[^>]*>/g, '')
    .replace(/\s+/g, ' ')
    .trim();
  const characters = graphemes(words);
  if (characters.length <= length) return words;
  const cut = characters.slice(0, length).join('');
  const space = cut.lastIndexOf(' ');
  return `${cut.slice(0, space > length / 2 ? space : undefined).trimEnd()}…`;
}

/** Longest title and text of a push message before a phone cuts them, in characters. */
export const PUSH_TITLE = 65;
export const PUSH_TEXT = 178;
