import { Node } from '@tiptap/core';
import { Table, TableCell, TableHeader, TableRow } from '@tiptap/extension-table';
import { FIELDS } from '../core/content/field.ts';

const attribute = (element: HTMLElement, name: string): string => element.getAttribute(name) ?? '';

/** A field that is filled in for each reader, as a chip in the text. */
export const FieldNode = Node.create<{ labels: Record<string, string> }>({
  name: 'field',
  group: 'inline',
  inline: true,
  atom: true,
  selectable: true,
  addOptions() {
    // Of the fields of an automation: what each is called.
    return { labels: {} };
  },
  addAttributes() {
    return { name: { default: 'name' }, fallback: { default: '' } };
  },
  parseHTML() {
    return [
      {
        tag: 'span[data-field]',
        getAttrs: (element) => {
          const name = [...FIELDS, ...Object.keys(this.options.labels)].find(
            (each) => each === attribute(element, 'data-field'),
          );
          return name ? { name, fallback: attribute(element, 'data-fallback').slice(0, 80) } : false;
        },
      },
    ];
  },
  renderHTML({ node }) {
    const { name, fallback } = node.attrs as { name: string; fallback: string };
    return [
      'span',
      { 'data-field': name, 'data-fallback': fallback, class: 'chip' },
      fallback === ''
        ? (this.options.labels[name] ?? name)
        : `${this.options.labels[name] ?? name}, or “${fallback}”`,
    ];
  },
});

/** A person or group called by name. */
export const MentionNode = Node.create({
  name: 'mention',
  group: 'inline',
  inline: true,
  atom: true,
  selectable: true,
  addAttributes() {
    return { kind: { default: 'person' }, id: { default: 0 }, label: { default: '' } };
  },
  parseHTML() {
    return [
      {
        tag: 'span[data-mention]',
        getAttrs: (element) => {
          const id = Number(attribute(element, 'data-mention'));
          const kind =
            ['group', 'everybody'].find((each) => each === attribute(element, 'data-kind')) ?? 'person';
          const label = attribute(element, 'data-label').slice(0, 160);
          return Number.isInteger(id) && id > 0 && label !== '' ? { kind, id, label } : false;
        },
      },
    ];
  },
  renderHTML({ node }) {
    const { kind, id, label } = node.attrs as { kind: string; id: number; label: string };
    return ['span', { 'data-mention': id, 'data-kind': kind, 'data-label': label, class: 'chip' }, label];
  },
});

/**
 * Tables that came with a text: their words can be changed. Cells hold paragraphs, and span one column and row. A table that
 * is pasted becomes its paragraphs, since nobody could add a row to it here.
 */
const asWritten = { parseHTML: () => [] };
export const TABLE_NODES = [
  Table.extend(asWritten).configure({ resizable: false }),
  TableRow.extend(asWritten),
  ...[TableHeader, TableCell].map((cell) =>
    cell.extend({ ...asWritten, content: 'paragraph+', addAttributes: () => ({}) }),
  ),
];
