import { z } from 'zod';
import { isBlank } from '../content/document.ts';
import { imageSchema } from '../content/sectionSchema.ts';

const MAX_NAME = 80;

/** A named sender as it is made or changed. */
export const senderSchema = z.object({
  name: z
    .string()
    .trim()
    .max(MAX_NAME, `A name has at most ${MAX_NAME} characters`)
    .refine((name) => !isBlank(name), 'Give the sender a name'),
  picture: imageSchema.nullable().default(null),
});
export type SenderInput = z.infer<typeof senderSchema>;
