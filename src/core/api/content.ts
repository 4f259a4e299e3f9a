import { z } from 'zod';
import {
  draftContentSchema,
  EMPTY_CONTENT,
  IMPORTANCES,
  MAX_BYLINE,
  MAX_TITLE,
  type Content,
} from '../content/announcement.ts';
import { eventSchema } from '../content/event.ts';
import { documentOfMarkdown, markdownOf } from '../content/markdown.ts';
import { ACCENTS, emptySection, MAX_HEADING, MAX_SECTIONS, type Section } from '../content/section.ts';

const markdown = z
  .string()
  .max(50_000, 'A text has at most 50,000 characters')
  .meta({ description: 'CommonMark. Fields of the reader are written as {{first name|friend}}.' });

const sectionId = z.string().regex(/^[a-z0-9]{1,24}$/, 'An id is as it was read');

/** What is written, as an outside program sends it. */
export const contentInput = z
  .object({
    title: z.string().max(MAX_TITLE, `A title has at most ${MAX_TITLE} characters`),
    byline: z.string().max(MAX_BYLINE, `A byline has at most ${MAX_BYLINE} characters`).default(''),
    importance: z.enum(IMPORTANCES).default('routine'),
    sections: z
      .array(
        z
          .object({
            id: sectionId.optional(),
            heading: z
              .string()
              .max(MAX_HEADING, `A heading has at most ${MAX_HEADING} characters`)
              .default(''),
            accent: z.enum(ACCENTS).default('none'),
            text: markdown,
          })
          .strict(),
      )
      .min(1, 'Write at least one section')
      .max(MAX_SECTIONS, `At most ${MAX_SECTIONS} sections`),
    button: draftContentSchema.shape.button.default(null),
    event: eventSchema.nullable().default(null),
  })
  .strict();

/** The same as it is answered. */
export const contentAnswer = z.object({
  title: z.string(),
  byline: z.string(),
  importance: z.enum(IMPORTANCES),
  sections: z.array(
    z.object({ id: sectionId, heading: z.string(), accent: z.enum(ACCENTS), text: markdown }),
  ),
  button: draftContentSchema.shape.button,
  event: eventSchema.nullable(),
});

/** What is written as an outside program reads it: its texts as CommonMark. */
export const contentAnswerOf = (content: Content): z.input<typeof contentAnswer> => ({
  title: content.title,
  byline: content.byline,
  importance: content.importance,
  sections: content.sections.map(({ id, heading, accent, document }) => ({
    id,
    heading,
    accent,
    text: markdownOf(document),
  })),
  button: content.button,
  event: content.event,
});

/** An id that no other section has. */
function freshId(taken: Set<string>): string {
  for (let n = taken.size + 1; ; n++)
    if (!taken.has(`s${n}`)) {
      taken.add(`s${n}`);
      return `s${n}`;
    }
}

/**
 * What an outside program sent as it is kept. A section that carries the id of one there was keeps its pictures, files and video,
 * and stays exactly as it was written where its text is the one that was read.
 *
 * @param before what there was; null where it is new
 */
export function contentOfInput(input: z.output<typeof contentInput>, before: Content | null): Content {
  const known = new Map((before?.sections ?? []).map((section) => [section.id, section]));
  const taken = new Set(input.sections.flatMap((section) => section.id ?? []));
  const sections = input.sections.map(({ id, heading, accent, text }): Section => {
    const was = id === undefined ? undefined : known.get(id);
    const document = was && markdownOf(was.document) === text ? was.document : documentOfMarkdown(text);
    return { ...(was ?? emptySection(id ?? freshId(taken))), heading, accent, document };
  });
  return draftContentSchema.parse({
    ...(before ?? EMPTY_CONTENT),
    title: input.title,
    byline: input.byline,
    importance: input.importance,
    button: input.button,
    event: input.event,
    sections,
  });
}
