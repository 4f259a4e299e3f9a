import { z } from 'zod';
import { documentSchema, isBlank, isBlankDocument, type Doc } from './document.ts';
import { linkSchema } from './link.ts';

export const IMPORTANCES = ['routine', 'important', 'urgent'] as const;
export type Importance = (typeof IMPORTANCES)[number];

export const MAX_TITLE = 150;
export const MAX_BYLINE = 120;
const MAX_BUTTON = 60;

/** What an author may leave half done in a draft; what is wrong in itself is refused even there. */
export const draftContentSchema = z.object({
  title: z.string().max(MAX_TITLE, `A title has at most ${MAX_TITLE} characters`),
  byline: z.string().max(MAX_BYLINE, `A byline has at most ${MAX_BYLINE} characters`),
  importance: z.enum(IMPORTANCES),
  document: documentSchema,
  button: z
    .object({
      label: z.string().max(MAX_BUTTON, `A button says at most ${MAX_BUTTON} characters`),
      url: z.string().max(2000, 'A link has at most 2,000 characters'),
    })
    .nullable(),
});

/** What is written: title, byline, rich text and at most one button. */
export type Content = z.infer<typeof draftContentSchema> & { document: Doc };

/** A text of a draft that somebody saved over. */
export interface EarlierText {
  id: number;
  title: string;
  excerpt: string;
  author: string;
  /** When it was kept, in milliseconds since 1970. */
  keptMs: number;
}

export interface Problem {
  /** Path of the field at fault, such as `title` or `timing.wall`. */
  field: string;
  /** What is wrong and what to do about it, for the person who wrote it. */
  detail: string;
}

/** What keeps an announcement from going out. Empty when it may. */
export function contentProblems(content: Content): Problem[] {
  const problems: Problem[] = [];
  if (isBlank(content.title))
    problems.push({ field: 'title', detail: 'It has no title. Write what it is about in a few words.' });
  if (isBlankDocument(content.document))
    problems.push({ field: 'document', detail: 'There is no text yet. Write at least one sentence.' });
  if (content.button) {
    if (isBlank(content.button.label))
      problems.push({
        field: 'button.label',
        detail: 'The button says nothing. Write what pressing it does, or remove it.',
      });
    const url = linkSchema.safeParse(content.button.url);
    if (!url.success)
      problems.push({
        field: 'button.url',
        detail: `The button leads nowhere safe. ${url.error.issues[0]?.message ?? 'Correct the link'}.`,
      });
  }
  return problems;
}
