import { z } from 'zod';
import { FIELDS, type FieldName, type TemplateField } from './field.ts';
import { isSafeLink } from './link.ts';
import { type Block, type ListItem, tooLongWords, plainLength } from './document.ts';

const MAX_NESTING = 12;
/** Of a table in a text: what is longer or wider is a file to attach. */
const MOST_ROWS = 200;
const MOST_COLUMNS = 12;

const markSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('bold') }),
  z.object({ type: z.literal('italic') }),
  z.object({
    type: z.literal('link'),
    attrs: z.object({
      href: z.string().max(2000).refine(isSafeLink, 'A link begins with https://, http://, mailto: or tel:'),
    }),
  }),
]);

/** The schema of what stands in a line, with these fields. */
const inlineSchemaWith = (fieldName: z.ZodType<FieldName | TemplateField>) =>
  z.discriminatedUnion('type', [
    z.object({
      type: z.literal('text'),
      text: z.string().min(1),
      marks: z.array(markSchema).max(4).optional(),
    }),
    z.object({ type: z.literal('hardBreak') }),
    z.object({
      type: z.literal('field'),
      attrs: z.object({
        name: fieldName,
        fallback: z.string().max(80, 'What stands instead of a field has at most 80 characters'),
      }),
    }),
    z.object({
      type: z.literal('mention'),
      attrs: z.object({
        kind: z.enum(['person', 'group', 'everybody']),
        id: z.int().positive(),
        label: z.string().min(1).max(160),
      }),
    }),
  ]);

/** The schema of a block in which these fields may stand. */
function blockSchemaWith(fieldName: z.ZodType<FieldName | TemplateField>): z.ZodType<Block> {
  const inlineSchema = inlineSchemaWith(fieldName);
  const paragraphSchema = z.object({
    type: z.literal('paragraph'),
    content: z.array(inlineSchema).optional(),
  });

  const tableSchema = z.object({
    type: z.literal('table'),
    content: z
      .array(
        z.object({
          type: z.literal('tableRow'),
          content: z
            .array(
              z.object({
                type: z.enum(['tableHeader', 'tableCell']),
                content: z.array(paragraphSchema).min(1).max(20),
              }),
            )
            .min(1)
            .max(MOST_COLUMNS, `A table has at most ${MOST_COLUMNS} columns`),
        }),
      )
      .min(1)
      .max(MOST_ROWS, `A table has at most ${MOST_ROWS} rows`),
  });

  const listItemSchema: z.ZodType<ListItem> = z.lazy(() =>
    z.object({ type: z.literal('listItem'), content: z.array(blockSchema).min(1) }),
  );

  const blockSchema: z.ZodType<Block> = z.lazy(() =>
    z.discriminatedUnion('type', [
      paragraphSchema,
      z.object({
        type: z.literal('heading'),
        attrs: z.object({ level: z.union([z.literal(2), z.literal(3)]) }),
        content: z.array(inlineSchema).optional(),
      }),
      z.object({ type: z.literal('bulletList'), content: z.array(listItemSchema).min(1) }),
      z.object({
        type: z.literal('orderedList'),
        attrs: z
          .object({
            start: z
              .int()
              .min(0)
              .max(999_999_999, 'A list begins with a number of at most nine digits')
              .optional(),
          })
          .optional(),
        content: z.array(listItemSchema).min(1),
      }),
      tableSchema,
    ]),
  );
  return blockSchema;
}

function nesting(value: unknown): number {
  if (typeof value !== 'object' || value === null || !('content' in value) || !Array.isArray(value.content))
    return 0;
  let deepest = 0;
  for (const child of value.content) deepest = Math.max(deepest, nesting(child));
  return deepest + 1;
}

/** Refuses what is nested too deep before the recursive schema walks into it. */
const shallow = z.unknown().refine(
  (value) => {
    try {
      return nesting(value) <= MAX_NESTING;
    } catch {
      return false;
    }
  },
  `Lists can be nested ${MAX_NESTING / 2} deep at most`,
);

const documentOf = (fieldName: z.ZodType<FieldName | TemplateField>) =>
  shallow.pipe(
    z
      .object({ type: z.literal('doc'), content: z.array(blockSchemaWith(fieldName)).max(5000) })
      .superRefine((doc, context) => {
        const message = tooLongWords(plainLength(doc));
        if (message !== null) context.addIssue({ code: 'custom', message });
      }),
  );

export const documentSchema = documentOf(z.enum(FIELDS));

const templateField = z.custom<TemplateField>(
  (name) =>
    typeof name === 'string' &&
    /^((record|person|session|ask|found|call|run)\.[a-z0-9 ]{1,40}|mention\.(person|everybody))$/.test(name),
  'There is no such field',
);

/** A text in which an automation fills in fields of its own when it speaks. */
export const templateDocumentSchema = documentOf(z.union([z.enum(FIELDS), templateField]));
