import { z } from 'zod';
import { ROLES, type Role, type Standing } from '../audience/expression.ts';
import { isBlank } from '../content/document.ts';

export interface Person {
  id: number;
  name: string;
  mail: string | null;
  role: Role;
  standing: Standing;
  stationId: number | null;
  stationName: string | null;
  occupation: string;
  zone: string;
  /** YYYY-MM-DD. */
  joinedOn: string;
}

export interface PeoplePage {
  people: Person[];
  /** Where the next page begins, or null at the end. */
  next: { name: string; id: number } | null;
}

export const newPersonSchema = z.object({
  name: z
    .string()
    .trim()
    .max(160, 'A name has at most 160 characters')
    .refine((name) => !isBlank(name), 'Write the name'),
  mail: z.preprocess(
    (mail) => (mail === '' ? null : mail),
    z.email('That is not a mail address; write one such as name@example.org, or leave it empty').nullable(),
  ),
  role: z.enum(ROLES),
  stationId: z.int().positive().nullable(),
});

export const newContactSchema = z.object({
  name: newPersonSchema.shape.name,
  mail: z.email('That is not a mail address; write one such as name@example.org'),
  relation: z.string().trim().max(60, 'At most 60 characters, such as “mother” or “delegate”'),
});
