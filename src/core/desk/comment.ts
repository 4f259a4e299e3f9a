import { z } from 'zod';
import { isBlank } from '../content/document.ts';

/** A remark beside a draft. Instants are milliseconds since 1970. */
export interface DraftComment {
  id: number;
  authorId: number;
  author: string;
  text: string;
  writtenMs: number;
  settledMs: number | null;
  settledBy: string | null;
}

export const commentSchema = z.object({
  text: z
    .string()
    .max(2000, 'A comment has at most 2,000 characters')
    .refine((text) => !isBlank(text), 'Write what you want to say'),
  /** The people called by name in it. */
  mentions: z.array(z.int().positive()).max(20, 'At most twenty people can be called at once'),
});
