import { z } from 'zod';
import { isBlank, plainLength, tooLongWords, type Doc } from './document.ts';
import { eventSchema } from './event.ts';
import { linkSchema } from './linkSchema.ts';
import { emptySection, isBlankSection, MAX_SECTIONS, plainSection, type Section } from './section.ts';
import { sectionSchema } from './sectionSchema.ts';

export const IMPORTANCES = ['routine', 'important', 'urgent'] as const;
export type Importance = (typeof IMPORTANCES)[number];

export const MAX_TITLE = 150;
export const MAX_BYLINE = 120;
const MAX_BUTTON = 60;

/** Which issue of which series an announcement is. The number is given when it goes out. */
export const issueSchema = z.object({
  seriesId: z.int().positive(),
  category: z.string().max(60, 'A category has at most 60 characters'),
});

/** What an author may leave half done in a draft; what is wrong in itself is refused even there. */
export const draftContentSchema = z.object({
  title: z.string().max(MAX_TITLE, `A title has at most ${MAX_TITLE} characters`),
  byline: z.string().max(MAX_BYLINE, `A byline has at most ${MAX_BYLINE} characters`),
  importance: z.enum(IMPORTANCES),
  sections: z
    .array(sectionSchema)
    .min(1)
    .max(MAX_SECTIONS, `An announcement has at most ${MAX_SECTIONS} sections`)
    .superRefine((sections, context) => {
      const length = sections.reduce((sum, section) => sum + plainLength(section.document), 0);
      const message = tooLongWords(length);
      if (message !== null) context.addIssue({ code: 'custom', message });
      if (new Set(sections.map((section) => section.id)).size < sections.length)
        context.addIssue({ code: 'custom', message: 'Every section has an id of its own' });
    }),
  button: z
    .object({
      label: z.string().max(MAX_BUTTON, `A button says at most ${MAX_BUTTON} characters`),
      url: z.string().max(2000, 'A link has at most 2,000 characters'),
    })
    .nullable(),
  event: eventSchema.nullable().default(null),
  issue: issueSchema.nullable().default(null),
});

/** What is written: a run of sections under a title, at most one button, and what it invites to. */
export type Content = Omit<z.infer<typeof draftContentSchema>, 'sections'> & { sections: Section[] };

/** The body of a version: what stands under its title. */
export type Body = Pick<Content, 'sections' | 'button' | 'event'>;

export const EMPTY_CONTENT: Content = {
  title: '',
  byline: '',
  importance: 'routine',
  sections: [emptySection('s1')],
  button: null,
  event: null,
  issue: null,
};

/** Content that is one plain text under a title. */
export const simpleContent = (title: string, document: Doc): Content => ({
  ...EMPTY_CONTENT,
  title,
  sections: [plainSection(document)],
});

/** A text of a draft that was kept. */
export interface EarlierText {
  id: number;
  kind: VersionKind;
  title: string;
  excerpt: string;
  author: string;
  /** When it was kept, in milliseconds since 1970. */
  keptMs: number;
}

/** Why a version was kept: it goes out, somebody saved over it, or it was handed on for review or cleared. */
export const VERSION_KINDS = ['sent', 'overwritten', 'saved', 'for review', 'cleared', 'chase'] as const;
export type VersionKind = (typeof VERSION_KINDS)[number];

export interface Problem {
  /** Path of the field at fault, such as `title` or `timing.wall`. */
  field: string;
  /** What is wrong and what to do about it, for the person who wrote it. */
  detail: string;
}

/** What a video lacks that those need who cannot see or hear it. */
function videoProblems({ id, video }: Content['sections'][number]): Problem[] {
  if (!video) return [];
  return [
    ...(isBlank(video.title)
      ? [
          {
            field: `sections.${id}.video.title`,
            detail: 'The video has no title. Say in a line what it shows.',
          },
        ]
      : []),
    ...(video.captions === null && isBlank(video.transcript)
      ? [
          {
            field: `sections.${id}.video.transcript`,
            detail:
              'The video has neither captions nor a text beside it. Add one of them, for those who cannot hear it.',
          },
        ]
      : []),
  ];
}

/** What keeps an announcement from going out. Empty when it may. */
export function contentProblems(content: Content): Problem[] {
  const problems: Problem[] = [];
  if (isBlank(content.title))
    problems.push({ field: 'title', detail: 'It has no title. Write what it is about in a few words.' });
  if (content.sections.every(isBlankSection))
    problems.push({ field: 'document', detail: 'There is no text yet. Write at least one sentence.' });
  content.sections.forEach((section, i) => {
    const which = content.sections.length === 1 ? 'The image' : `The image of section ${i + 1}`;
    if (section.image && isBlank(section.image.alt))
      problems.push({
        field: `sections.${section.id}.alt`,
        detail: `${which} has no description. Say what it shows, for those who cannot see it.`,
      });
    section.gallery.forEach((image, at) => {
      if (isBlank(image.alt))
        problems.push({
          field: `sections.${section.id}.gallery.${at}.alt`,
          detail: `Further image ${at + 1}${content.sections.length === 1 ? '' : ` of section ${i + 1}`} has no description. Say what it shows, for those who cannot see it.`,
        });
    });
    problems.push(...videoProblems(section));
    if (content.sections.length > 1 && isBlankSection(section))
      problems.push({
        field: `sections.${section.id}`,
        detail: `Section ${i + 1} is empty. Write in it, or take it out.`,
      });
  });
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
  if (content.event) {
    const link = content.event.link.trim();
    if (isBlank(content.event.place) && link === '')
      problems.push({
        field: 'event.place',
        detail: 'The event has neither a place nor a link. Say where it is.',
      });
    if (link !== '' && !linkSchema.safeParse(link).success)
      problems.push({
        field: 'event.link',
        detail:
          'The link of the event leads nowhere safe. A link begins with https://, http://, mailto: or tel:.',
      });
  }
  return problems;
}
