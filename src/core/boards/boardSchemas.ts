import { z } from 'zod';
import { switchesSchema } from './switchesSchema.ts';
import { PURPOSES } from './switches.ts';

const filled = (most: number, empty: string, long: string) => z.string().trim().min(1, empty).max(most, long);

export const aboutSchema = z.object({
  name: filled(120, 'Give the board a name', 'A name has at most 120 characters'),
  about: filled(600, 'Say what the board is for', 'What it is for has at most 600 characters'),
});

export const newBoardSchema = aboutSchema.extend({
  purpose: z.enum(PURPOSES, 'Choose what the board is for'),
  /** Whose place it is; null is everybody. */
  groupId: z.int().positive().nullable(),
});

/** What of a board can be changed, each part by itself. */
export const boardChangeSchema = z
  .object({
    ...aboutSchema.shape,
    ...switchesSchema.shape,
    groupId: z.int().positive().nullable(),
    ownerId: z.int().positive().nullable(),
    sectionLimit: z.int('A whole number').min(1, 'At least one section').max(60, 'At most sixty sections'),
    pinLimit: z.int('A whole number').min(1, 'At least one').max(20, 'At most twenty'),
    archived: z.boolean(),
    contactsRead: z.boolean(),
    position: z.int().min(0).max(100_000),
  })
  .partial()
  .refine((change) => Object.keys(change).length > 0, 'Say what to change');
export type BoardChange = z.infer<typeof boardChangeSchema>;
