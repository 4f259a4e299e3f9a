import type { Block, Doc, Inline, TableRow } from '../content/document.ts';
import { isReaderField } from '../content/field.ts';
import type { Section } from '../content/section.ts';
import { cellWords, compareCells } from '../sheets/cell.ts';
import type { Automation, TableShape } from './automation.ts';
import { CALL_WORDS, isCall, type Called } from './calls.ts';
import type { FieldInfo, Fields, Values } from './condition.ts';
import type { Row } from './items.ts';

/** What a text is filled in from. Moments are told in `zone`. */
export interface Filling {
  fields: Fields;
  values: Values;
  rows: readonly Row[];
  zone: string;
  /** Whom it calls on. */
  called: Called;
}

/** A text as it would be said, and the labels of what in it would have been empty. */
export interface Filled {
  content: Automation['content'];
  empty: string[];
}

/** A field in a title, a button or a heading: `{Station}`, or `{Station|the field}` with what stands instead. */
const IN_LINE = /\{([^{}|]+)(?:\|([^{}]*))?\}/g;

/** The labels of the fields that a line names. */
export const labelsIn = (line: string): { label: string; fallback: string }[] =>
  [...line.matchAll(IN_LINE)].map(([, label = '', fallback = '']) => ({ label: label.trim(), fallback }));

/** The fields of some automations by their labels in small letters: a text names the same ones for each record. */
const labels = new WeakMap<Fields, Map<string, FieldInfo>>();

function byLabel(fields: Fields, label: string): FieldInfo | undefined {
  let known = labels.get(fields);
  if (!known) {
    // Of two with one label the first is meant.
    known = new Map([...fields.values()].reverse().map((field) => [field.label.toLowerCase(), field]));
    labels.set(fields, known);
  }
  return known.get(label.toLowerCase());
}

const words = (filling: Filling, name: string, values: Values = filling.values): string => {
  const field = filling.fields.get(name);
  return field ? cellWords(field, values.get(name) ?? '', filling.zone) : '';
};

function fillLine(
  line: string,
  filling: Filling,
  empty: string[],
  encode = (text: string): string => text,
): string {
  return line.replace(IN_LINE, (written: string, label: string, fallback?: string) => {
    const field = byLabel(filling.fields, label.trim());
    // A brace that names no field is a brace.
    if (!field) return written;
    const value = words(filling, field.name) || (fallback ?? '').trim();
    if (value === '') empty.push(field.label);
    return encode(value);
  });
}

function fillInline(parts: readonly Inline[], filling: Filling, empty: string[]): Inline[] {
  return parts.flatMap((part): Inline[] => {
    if (part.type !== 'field' || isReaderField(part.attrs.name)) return [part];
    if (isCall(part.attrs.name)) {
      const called = filling.called[part.attrs.name];
      if (called.length > 0)
        return called.flatMap((attrs, at): Inline[] => [
          ...(at === 0 ? [] : [{ type: 'text' as const, text: ', ' }]),
          { type: 'mention', attrs },
        ]);
    }
    const field = filling.fields.get(part.attrs.name);
    const text = words(filling, part.attrs.name) || part.attrs.fallback.trim();
    if (text === '') {
      empty.push(
        isCall(part.attrs.name) ? CALL_WORDS[part.attrs.name] : (field?.label ?? 'a field that is gone'),
      );
      return [];
    }
    return [{ type: 'text', text }];
  });
}

function fillBlock(block: Block, filling: Filling, empty: string[]): Block {
  switch (block.type) {
    case 'paragraph':
    case 'heading':
      return block.content ? { ...block, content: fillInline(block.content, filling, empty) } : block;
    case 'bulletList':
    case 'orderedList':
      return {
        ...block,
        content: block.content.map((item) => ({
          ...item,
          content: item.content.map((inner) => fillBlock(inner, filling, empty)),
        })),
      };
    case 'table':
      return {
        ...block,
        content: block.content.map((row) => ({
          ...row,
          content: row.content.map((cell) => ({
            ...cell,
            content: cell.content.map((each) =>
              each.content ? { ...each, content: fillInline(each.content, filling, empty) } : each,
            ),
          })),
        })),
      };
  }
}

const cell = (type: 'tableHeader' | 'tableCell', text: string): TableRow['content'][number] => ({
  type,
  content: [text === '' ? { type: 'paragraph' } : { type: 'paragraph', content: [{ type: 'text', text }] }],
});

const paragraphOf = (text: string): Block => ({ type: 'paragraph', content: [{ type: 'text', text }] });

/** A row as a line: what stands in the first column, then the others with what they are called; what is empty is left out. */
function lineOf(columns: readonly FieldInfo[], row: Row, filling: Filling): string {
  const [first = '', ...others] = columns.map((column) => words(filling, column.name, row.values));
  const named = others
    .flatMap((text, at) => (text === '' ? [] : [`${columns[at + 1]?.label ?? ''} ${text}`]))
    .join(', ');
  return [first, named].filter((part) => part !== '').join(': ') || '–';
}

/** The rows that matched as a table or a list: its columns, in its order, at most so many and how many more there are. */
export function tableOf(shape: TableShape, filling: Filling): Block[] {
  const columns = shape.columns.flatMap((name) => filling.fields.get(name) ?? []);
  if (columns.length === 0 || filling.rows.length === 0) return [];
  const { order } = shape;
  const by = order && filling.fields.get(order.field);
  const rows = by
    ? [...filling.rows].sort((one, other) => {
        const [a, b] = [one.values.get(by.name) ?? '', other.values.get(by.name) ?? ''];
        // What is empty comes last either way.
        const turned = order.descending && a !== '' && b !== '' ? -1 : 1;
        return turned * compareCells(by.kind, a, b);
      })
    : filling.rows;
  const shown = rows.slice(0, shape.most);
  const more = rows.length - shown.length;
  const further = more > 0 ? [paragraphOf(`and ${more.toLocaleString('en-GB')} more.`)] : [];
  if (shape.as === 'list')
    return [
      {
        type: 'bulletList',
        content: shown.map((row) => ({
          type: 'listItem',
          content: [paragraphOf(lineOf(columns, row, filling))],
        })),
      },
      ...further,
    ];
  return [
    {
      type: 'table',
      content: [
        { type: 'tableRow', content: columns.map((column) => cell('tableHeader', column.label)) },
        ...shown.map((row): TableRow => ({
          type: 'tableRow',
          content: columns.map((column) => cell('tableCell', words(filling, column.name, row.values))),
        })),
      ],
    },
    ...further,
  ];
}

/**
 * What an automation says, filled in: fields of the record, the person, the look-up and the run become words, its table
 * stands at the end of its last section; fields of the reader stay, and are filled in for each when it reaches them. What
 * would be empty is named, and is never said.
 */
export function fillContent(automation: Pick<Automation, 'content' | 'table'>, filling: Filling): Filled {
  const { content, table } = automation;
  const empty: string[] = [];
  const fillDoc = (doc: Doc): Doc => ({
    ...doc,
    content: doc.content.map((block) => fillBlock(block, filling, empty)),
  });
  const sections = content.sections.map((section): Section => ({
    ...section,
    heading: fillLine(section.heading, filling, empty),
    document: fillDoc(section.document),
  }));
  const last = sections.at(-1);
  if (table && last)
    last.document = {
      ...last.document,
      content: [...last.document.content.filter((block) => !isEmpty(block)), ...tableOf(table, filling)],
    };
  return {
    content: {
      ...content,
      title: fillLine(content.title, filling, empty).slice(0, 150),
      byline: fillLine(content.byline, filling, empty).slice(0, 120),
      sections,
      button: content.button && {
        label: fillLine(content.button.label, filling, empty).slice(0, 60),
        url: fillLine(content.button.url, filling, empty, encodeURIComponent),
      },
    },
    empty: [...new Set(empty)],
  };
}

const isEmpty = (block: Block): boolean => block.type === 'paragraph' && (block.content ?? []).length === 0;

/** The fields a text fills in when it is said, with what stands instead of each; those of titles and buttons by their label. */
export function fieldsIn(
  { content }: Pick<Automation, 'content'>,
  fields: Fields,
): { name: string; label: string; fallback: string }[] {
  const inLines = [
    content.title,
    content.byline,
    content.button?.label ?? '',
    content.button?.url ?? '',
    ...content.sections.map((section) => section.heading),
  ]
    .flatMap(labelsIn)
    .flatMap(({ label, fallback }) => {
      const field = byLabel(fields, label);
      return field ? [{ name: field.name, label: field.label, fallback }] : [];
    });
  const inText: { name: string; label: string; fallback: string }[] = [];
  const walk = (block: Block): void => {
    const parts =
      block.type === 'paragraph' || block.type === 'heading'
        ? (block.content ?? [])
        : block.type === 'table'
          ? block.content.flatMap((row) =>
              row.content.flatMap((each) => each.content.flatMap((p) => p.content ?? [])),
            )
          : [];
    for (const part of parts)
      if (part.type === 'field' && !isReaderField(part.attrs.name))
        inText.push({
          name: part.attrs.name,
          label: isCall(part.attrs.name)
            ? CALL_WORDS[part.attrs.name]
            : (fields.get(part.attrs.name)?.label ?? ''),
          fallback: part.attrs.fallback,
        });
    if (block.type === 'bulletList' || block.type === 'orderedList')
      for (const item of block.content) item.content.forEach(walk);
  };
  for (const section of content.sections) section.document.content.forEach(walk);
  return [...inLines, ...inText];
}
