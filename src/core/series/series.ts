import { z } from 'zod';
import { imageSchema } from '../content/sectionSchema.ts';
import type { OccurrenceState } from '../delivery/states.ts';

/** The frame every issue of a series has. */
export const seriesSchema = z.object({
  name: z.string().trim().min(1, 'Give the series a name').max(120, 'A name has at most 120 characters'),
  banner: imageSchema.nullable(),
  /** How a title begins; `{number}` stands for the number of the issue. */
  heading: z.string().max(100, 'A heading has at most 100 characters'),
  byline: z.string().max(120, 'A byline has at most 120 characters'),
  categories: z
    .array(z.string().trim().min(1, 'A category has a name').max(60, 'A category has at most 60 characters'))
    .max(30, 'A series has at most 30 categories'),
});
export type SeriesFrame = z.infer<typeof seriesSchema>;

export interface Series extends SeriesFrame {
  id: number;
  nextNumber: number;
}

/** An issue as a line of the index. */
export interface Issue {
  occurrenceId: number;
  announcementId: number;
  title: string;
  category: string;
  number: number | null;
  state: OccurrenceState;
  dueMs: number;
}

/** A title with the number of the issue in place of `{number}`. */
export const numbered = (title: string, number: number | null): string =>
  number === null ? title : title.replaceAll('{number}', String(number));
