import { isReaderField, type FieldName, type TemplateField } from './field.ts';

/** The rich text of an announcement: the editor's JSON, held to the few nodes and marks we render. */
export type Mark = { type: 'bold' } | { type: 'italic' } | { type: 'link'; attrs: { href: string } };

export type Inline =
  | { type: 'text'; text: string; marks?: Mark[] | undefined }
  | { type: 'hardBreak' }
  /**
   * Filled in for each reader, or in the text of an automation when it speaks; the fallback stands where there is nothing to
   * fill in.
   */
  | { type: 'field'; attrs: { name: FieldName | TemplateField; fallback: string } }
  /** Calls on a person or a group by name, or on everybody who belongs to the board it stands on. */
  | { type: 'mention'; attrs: { kind: 'person' | 'group' | 'everybody'; id: number; label: string } };

export type Block =
  | { type: 'paragraph'; content?: Inline[] | undefined }
  | { type: 'heading'; attrs: { level: 2 | 3 }; content?: Inline[] | undefined }
  | { type: 'bulletList'; content: ListItem[] }
  | { type: 'orderedList'; attrs?: { start?: number | undefined } | undefined; content: ListItem[] }
  | { type: 'table'; content: TableRow[] };

export interface TableRow {
  type: 'tableRow';
  content: TableCell[];
}

export interface TableCell {
  type: 'tableHeader' | 'tableCell';
  content: Extract<Block, { type: 'paragraph' }>[];
}

export interface ListItem {
  type: 'listItem';
  content: Block[];
}

export interface Doc {
  type: 'doc';
  content: Block[];
}

/** Longest text of one announcement, in UTF-16 code units; a message longer than this is a document to link to. */
export const MAX_TEXT = 60_000;

/** What is to be told of a text that is longer than fits; null where it fits. */
export const tooLongWords = (length: number): string | null =>
  length <= MAX_TEXT
    ? null
    : `The text has ${length.toLocaleString('en-GB')} characters and at most ${MAX_TEXT.toLocaleString('en-GB')} fit. Shorten it, or put the long part behind a link`;

export const EMPTY_DOCUMENT: Doc = { type: 'doc', content: [{ type: 'paragraph' }] };

/** The inline parts of a block, in reading order. */
export function inlineOf(block: Block | ListItem | TableRow | TableCell): Inline[] {
  if (block.type === 'paragraph' || block.type === 'heading') return block.content ?? [];
  return block.content.flatMap(inlineOf);
}

/** Characters of a document, in UTF-16 code units. */
export function plainLength(doc: Doc): number {
  return doc.content
    .flatMap(inlineOf)
    .reduce((sum, part) => sum + (part.type === 'text' ? part.text.length : 1), 0);
}

/** Characters that show nothing: blanks of every kind, zero-width ones and direction marks. */
const INVISIBLE = /[\s\p{Cf}\p{Zs}\u2800\u3164]/gu;

/** Whether a text would show a reader nothing at all. */
export function isBlank(text: string): boolean {
  return text.replace(INVISIBLE, '') === '';
}

export function isBlankDocument(doc: Doc): boolean {
  return doc.content
    .flatMap(inlineOf)
    .every((part) => part.type === 'hardBreak' || (part.type === 'text' && isBlank(part.text)));
}

/** The fields that are filled in for each reader, and the mentions, of some documents. */
export function callsOf(docs: readonly Doc[]): {
  fields: { name: FieldName; fallback: string }[];
  mentions: Extract<Inline, { type: 'mention' }>['attrs'][];
} {
  const parts = docs.flatMap((doc) => doc.content.flatMap(inlineOf));
  return {
    fields: parts.flatMap((part) =>
      part.type === 'field' && isReaderField(part.attrs.name)
        ? [{ name: part.attrs.name, fallback: part.attrs.fallback }]
        : [],
    ),
    mentions: parts.flatMap((part) => (part.type === 'mention' ? [part.attrs] : [])),
  };
}

type Mention = Extract<Inline, { type: 'mention' }>['attrs'];

/** A document with each mention as `keep` gives it; where it gives nothing, its name stands as plain text. */
export function resolveMentions(doc: Doc, keep: (mention: Mention) => Mention | null): Doc {
  const inline = (part: Inline): Inline => {
    if (part.type !== 'mention') return part;
    const kept = keep(part.attrs);
    return kept ? { type: 'mention', attrs: kept } : { type: 'text', text: part.attrs.label };
  };
  const block = (part: Block): Block =>
    part.type === 'paragraph' || part.type === 'heading'
      ? { ...part, ...(part.content ? { content: part.content.map(inline) } : {}) }
      : part.type === 'table'
        ? {
            ...part,
            content: part.content.map((row) => ({
              ...row,
              content: row.content.map((cell) => ({
                ...cell,
                content: cell.content.map((each) => ({
                  ...each,
                  ...(each.content ? { content: each.content.map(inline) } : {}),
                })),
              })),
            })),
          }
        : {
            ...part,
            content: part.content.map((item) => ({ ...item, content: item.content.map(block) })),
          };
  return { ...doc, content: doc.content.map(block) };
}

/** The addresses a document links to, each once. */
export function linksIn(doc: Doc): string[] {
  const hrefs = doc.content
    .flatMap(inlineOf)
    .flatMap((part) =>
      part.type === 'text'
        ? (part.marks ?? []).flatMap((mark) => (mark.type === 'link' ? [mark.attrs.href] : []))
        : [],
    );
  return [...new Set(hrefs)];
}
