import { z } from 'zod';
import { audienceSchema } from '../audience/expression.ts';
import { automationSchema } from '../automation/automation.ts';
import { aboutSchema } from '../boards/boardSchemas.ts';
import { switchesSchema } from '../boards/switchesSchema.ts';
import { draftContentSchema } from '../content/announcement.ts';
import { SEEN_BY, sheetSchema } from '../sheets/sheet.ts';
import { isNear } from '../timing/bounds.ts';
import { zoneSchema } from '../timing/wallTimeSchema.ts';
import type { PatternDocument } from './pattern.ts';

const id = z.int().positive();

const partSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('group'),
    id,
    name: z.string(),
    rule: audienceSchema.nullable(),
    about: z.string(),
    needsClearance: z.boolean(),
    bundling: z.string().nullable(),
    joining: z.enum(['closed', 'asked', 'open']),
    ownerBrings: z.boolean(),
    callable: z.boolean(),
  }),
  z.object({
    kind: z.literal('sheet'),
    id,
    name: z.string(),
    purpose: z.string(),
    columns: sheetSchema.shape.columns,
    form: sheetSchema.shape.form,
    seenBy: z.enum(SEEN_BY),
    formKey: z.string().nullable(),
  }),
  z.object({
    kind: z.literal('board'),
    id,
    ...switchesSchema.shape,
    name: z.string(),
    about: z.string(),
    groupId: id.nullable(),
    sectionLimit: z.int(),
    pinLimit: z.int(),
    contactsRead: z.boolean(),
    links: z.array(z.object({ label: z.string(), url: z.string() })),
  }),
  z.object({ kind: z.literal('pin'), id, boardId: id, content: draftContentSchema }),
  z.object({ kind: z.literal('automation'), id, automation: automationSchema }),
]);

const documentSchema = z.object({
  called: z.string(),
  parts: z.array(partSchema),
  blanks: z.array(z.string()),
});

/** The version of the shape in which patterns are kept. */
const SHAPE = 0;

export const storedPattern = (document: PatternDocument): string =>
  JSON.stringify({ version: SHAPE, ...document });

/** @throws where it is no pattern, or one of a later version */
export function readPattern(json: string): PatternDocument {
  const { version, ...document } = z.looseObject({ version: z.int() }).parse(JSON.parse(json));
  if (version !== SHAPE) throw new Error('The pattern was kept by another version of Clear Bell');
  return documentSchema.parse(document);
}

/** Most parts of one pattern. */
export const MOST_PARTS = 100;

const partKeySchema = z
  .string()
  .regex(/^(group|sheet|board|pin|automation):\d{1,15}$/, 'Choose from the list');
const blankKeySchema = z
  .string()
  .max(80)
  .regex(/^(station|person|zone|date):.+$/, 'Choose from the list');

const patternAboutSchema = z.object({
  name: z.string().trim().min(1, 'Give the pattern a name').max(80, 'A name has at most 80 characters'),
  about: z.string().trim().max(600, 'What it is for has at most 600 characters'),
});

/** Which parts of a place are kept, under which name it stands in its texts, and what is asked for. */
export const keptSchema = z.object({
  called: aboutSchema.shape.name,
  parts: z
    .array(partKeySchema)
    .min(1, 'Choose what belongs to the pattern')
    .max(MOST_PARTS, `A pattern has at most ${MOST_PARTS} parts`),
  blanks: z.array(blankKeySchema).max(200, 'At most 200 things are asked for'),
});
export type Kept = z.infer<typeof keptSchema>;

export const newPatternSchema = z.object({ ...patternAboutSchema.shape, boardId: id, ...keptSchema.shape });
/** A pattern taken anew from its place; the number is that of the version it follows. */
export const replacingSchema = z.object({ number: z.int().positive(), ...keptSchema.shape });
export const patternChangeSchema = patternAboutSchema;

export const answersSchema = z
  .object({
    name: z.string().trim().min(1, 'Give the place a name').max(80, 'A name has at most 80 characters'),
    ownerId: z.int('Choose who looks after it').positive('Choose who looks after it'),
    given: z.record(blankKeySchema, z.string().max(80)),
    atWork: z.boolean(),
  })
  .superRefine(({ given }, context) => {
    for (const [key, value] of Object.entries(given)) {
      const kind = key.slice(0, key.indexOf(':'));
      const wrong = (message: string): void =>
        context.addIssue({ code: 'custom', path: ['given', key], message });
      if (kind === 'date' && (!z.iso.date().safeParse(value).success || !isNear(value)))
        wrong('A date is needed, such as 2026-12-31.');
      if ((kind === 'station' || kind === 'person') && !/^[1-9]\d{0,14}$/.test(value))
        wrong(kind === 'station' ? 'Choose a station.' : 'Choose somebody.');
      if (kind === 'zone' && !zoneSchema.safeParse(value).success) wrong('Choose a time zone from the list.');
    }
  });

/** A place to be made: the number is that of the version that was looked at. */
export const newPlaceSchema = z.object({ number: z.int().positive(), answers: answersSchema });
export const placeLookSchema = z.object({ answers: answersSchema });
/** The changes of a pattern that a place takes, by the keys of parts. */
export const takenChangesSchema = z.object({
  number: z.int().positive(),
  parts: z.array(partKeySchema).max(MOST_PARTS),
});
