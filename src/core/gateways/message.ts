import { EMPTY_CONTENT, type Content } from '../content/announcement.ts';
import type { Block, Doc, Inline, TableRow } from '../content/document.ts';
import { documentOfMarkdown } from '../content/markdown.ts';
import { emptySection, type Image } from '../content/section.ts';
import type { HookMessage } from './hookIn.ts';

const row = (label: string, value: string): TableRow => {
  const cell = (type: 'tableHeader' | 'tableCell', text: string): TableRow['content'][number] => ({
    type,
    content: [{ type: 'paragraph', content: text === '' ? [] : [{ type: 'text', text }] }],
  });
  return { type: 'tableRow', content: [cell('tableHeader', label), cell('tableCell', value)] };
};

/** Its fields as a table, and whom it calls on, after a text. */
function withFields(doc: Doc, fields: HookMessage['fields'], called: readonly Inline[]): Doc {
  const blocks: Block[] = doc.content.filter(
    (block) => block.type !== 'paragraph' || (block.content ?? []).length > 0,
  );
  if (fields.length > 0)
    blocks.push({ type: 'table', content: fields.map(({ label, value }) => row(label, value)) });
  if (called.length > 0)
    blocks.push({
      type: 'paragraph',
      content: called.flatMap((each, at): Inline[] =>
        at === 0 ? [each] : [{ type: 'text', text: ' ' }, each],
      ),
    });
  return { type: 'doc', content: blocks.length > 0 ? blocks : [{ type: 'paragraph' }] };
}

/**
 * A message from outside as what is written here: its text first, with its fields as a table, then its sections.
 *
 * @param byline the name of the sender it stands under
 * @param images of each section, as it was kept
 * @param called whom it calls on, as mentions
 */
export function contentOfMessage(
  message: HookMessage,
  {
    byline,
    images,
    called,
  }: { byline: string; images: readonly (Image | null)[]; called: readonly Inline[] },
): Content {
  const first = withFields(documentOfMarkdown(message.text), message.fields, called);
  const empty = first.content.every(
    (block) => block.type === 'paragraph' && (block.content ?? []).length === 0,
  );
  const sections = message.sections.map((section, at) => ({
    ...emptySection(`s${at + 2}`),
    heading: section.heading,
    accent: section.accent,
    document: documentOfMarkdown(section.text),
    image: images[at] ?? null,
  }));
  return {
    ...EMPTY_CONTENT,
    title: message.title.trim(),
    byline,
    importance: message.importance,
    button: message.button ?? null,
    sections:
      empty && sections.length > 0 ? sections : [{ ...emptySection('s1'), document: first }, ...sections],
  };
}
