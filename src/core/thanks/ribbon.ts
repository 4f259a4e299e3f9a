import { z } from 'zod';
import { FAR, isNear } from '../timing/bounds.ts';

/** The drawings a ribbon may carry, each our own. */
export const EMBLEMS = [
  'hands',
  'road',
  'lamp',
  'question',
  'door',
  'shoot',
  'kettle',
  'key',
  'rain',
  'map',
] as const;
export type Emblem = (typeof EMBLEMS)[number];

export const RIBBON_COLOURS = ['verdigris', 'bronze', 'ochre', 'madder', 'slate'] as const;
export type RibbonColour = (typeof RIBBON_COLOURS)[number];

/** Public recognition's badge: a name, a drawing and a colour from the palette. */
export interface Ribbon {
  id: number;
  name: string;
  emblem: Emblem;
  colour: RibbonColour;
}

/** Thanks as they stand in public. */
export interface ThanksGiven {
  ribbon: Ribbon;
  from: string;
  to: { id: number; name: string }[];
  sentence: string;
}

export interface ThanksListed extends ThanksGiven {
  id: number;
  atMs: number;
  postPath: string | null;
}

export const newRibbonSchema = z.object({
  name: z.string().trim().min(2, 'Give the ribbon a name').max(60, 'A name has at most 60 characters'),
  emblem: z.enum(EMBLEMS, 'Choose a drawing'),
  colour: z.enum(RIBBON_COLOURS, 'Choose a colour'),
});

export const thanksSchema = z.object({
  ribbonId: z.int().positive('Choose a ribbon'),
  to: z
    .array(z.int().positive())
    .min(1, 'Say whom you thank')
    .max(30, 'At most thirty people can be thanked at once')
    .refine((ids) => new Set(ids).size === ids.length, 'Nobody is thanked twice for the same thing'),
  sentence: z
    .string()
    .trim()
    .min(3, 'Say what for, in a sentence')
    .max(300, 'One sentence is enough: at most 300 characters'),
  boardId: z.int().positive('Choose a board'),
});

/** A month as `YYYY-MM`. */
export const monthSchema = z
  .string()
  .regex(/^\d{4}-(0[1-9]|1[0-2])$/, 'A month is needed, such as 2026-11')
  .refine(isNear, FAR);
