import { z } from 'zod';
import type { Access } from '../access/letter.ts';
import { ROLES, type Role, type Standing } from '../audience/expression.ts';
import { isBlank } from '../content/document.ts';
import { dateSchema } from '../timing/bounds.ts';
import { zoneSchema } from '../timing/wallTimeSchema.ts';
import { guestUntilSchema } from './guest.ts';

export interface Person {
  id: number;
  name: string;
  /** By which they stand in lists; empty is by their name. */
  sortName: string;
  /** How to greet them; empty is by the first word of their name. */
  greeting: string;
  mail: string | null;
  /** Why mail to their address comes back, as the server that refused it said; null where it does not. */
  mailFails: string | null;
  role: Role;
  standing: Standing;
  stationId: number | null;
  stationName: string | null;
  occupation: string;
  zone: string;
  /** YYYY-MM-DD. */
  joinedOn: string;
  /** Of a guest from outside: the last day they are here, on their clock, YYYY-MM-DD; null for those of the organisation. */
  guestUntil: string | null;
}

/** How many rows of the directory are read at once. */
export const PEOPLE_PART = 50;

/** Some rows of the directory that follow each other. */
export interface PeoplePage {
  people: Person[];
  /** What else is known of each of them by the organisation’s own names, by id; empty for those who do not look after people. */
  attributes: Record<number, Record<string, string>>;
  /** Where each of them stands with getting in, by id; empty for those who do not look after people. */
  access: Record<number, Access>;
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
  guestUntil: guestUntilSchema.optional(),
});

/** What the organisation knows of somebody beyond the usual: each name once, whatever the size of its letters. */
const attributesSchema = z
  .array(
    z.object({
      name: z
        .string()
        .trim()
        .min(1, 'Name the attribute, such as “licence”')
        .max(60, 'A name has at most 60 characters'),
      value: z
        .string()
        .trim()
        .min(1, 'Write what it is, or take the attribute out')
        .max(120, 'At most 120 characters'),
    }),
  )
  .max(40, 'At most 40 attributes')
  .refine(
    (all) => new Set(all.map(({ name }) => name.normalize('NFKC').toLowerCase())).size === all.length,
    'Two attributes have the same name',
  );

/** The groups an editor may write to. */
export const reachSchema = z.object({ groupIds: z.array(z.int().positive()).max(1000) });

const greetingSchema = z.string().trim().max(80, 'A greeting has at most 80 characters');

/** What somebody may say of themselves. */
export const ownDetailsSchema = z.object({ greeting: greetingSchema, zone: zoneSchema });

/** What of a person a coordinator can change, each part by itself. */
export const personChangeSchema = z
  .object({
    ...newPersonSchema.shape,
    sortName: z.string().trim().max(160, 'A name to sort by has at most 160 characters'),
    greeting: greetingSchema,
    occupation: z.string().trim().max(80, 'An occupation has at most 80 characters'),
    zone: zoneSchema,
    joinedOn: dateSchema('2026-03-09'),
    attributes: attributesSchema,
  })
  .partial()
  .refine((change) => Object.keys(change).length > 0, 'Say what to change');
export type PersonChange = z.infer<typeof personChangeSchema>;

/** A station: a place with a clock of its own. */
export const stationSchema = z.object({
  name: z
    .string('Give the station a name')
    .trim()
    .max(120, 'A name has at most 120 characters')
    .refine((name) => !isBlank(name), 'Give the station a name'),
  zone: zoneSchema,
});

export const stationChangeSchema = stationSchema.extend({
  /** Whether those who are there and read by its clock until now go along where its zone changes. */
  takesPeople: z.boolean().default(false),
});

/** With which other station one becomes one. */
export const stationMergeSchema = z.object({
  into: z.int('Choose the other station').positive('Choose the other station'),
});

export interface StationLine {
  id: number;
  name: string;
  zone: string;
  /** Whether it is offered no more: those who are there stay, and nobody is put there. */
  retired: boolean;
  /** How many are there. */
  people: number;
  /** How many of them read by its clock. */
  byItsClock: number;
}

/** A further address of somebody. */
export interface Address {
  id: number;
  mail: string;
}

export const addressSchema = z.object({
  mail: z.email('That is not a mail address; write one such as name@example.org').max(254),
});

/** A second entry of somebody, with what would become theirs. */
export interface MergeOutlook extends Pick<Person, 'name' | 'mail' | 'stationName' | 'occupation' | 'role'> {
  /** Announcements in the inbox, posts and replies, asks answered, and fixed groups. */
  received: number;
  written: number;
  answered: number;
  groups: number;
}

/** Another entry of the same person, with its name written once more. */
export const mergeSchema = z.object({
  otherId: z.int('Choose the other entry').positive('Choose the other entry'),
  name: z.string().max(200),
});

export const newContactSchema = z.object({
  name: newPersonSchema.shape.name,
  mail: z.email('That is not a mail address; write one such as name@example.org'),
  relation: z.string().trim().max(60, 'At most 60 characters, such as “mother” or “delegate”'),
});
