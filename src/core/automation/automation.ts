import { z } from 'zod';
import { audienceSchema, groupsNamedIn } from '../audience/expression.ts';
import { draftContentSchema, EMPTY_CONTENT, type Content } from '../content/announcement.ts';
import { templateDocumentSchema } from '../content/documentSchema.ts';
import { MAX_SECTIONS, type Section } from '../content/section.ts';
import { sectionSchema } from '../content/sectionSchema.ts';
import { dateSchema } from '../timing/bounds.ts';
import { ruleSchema } from '../timing/rule.ts';
import { wallTimeSchema, zoneSchema } from '../timing/wallTimeSchema.ts';
import { ALWAYS, conditionSchema, SPANS } from './condition.ts';

const id = z.int().positive();
const hourSchema = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'An hour is needed, such as 08:30');
const columnId = z.string().regex(/^c\d{1,4}$/, 'Choose a column');
/** So long after; below 0 before. */
const spanShape = {
  span: z
    .int('How long is a whole number')
    .min(-3_650, 'At most 3,650 before')
    .max(3_650, 'At most 3,650 after'),
};

/** Which end of a session's date it goes by. */
export const SESSION_EDGES = ['begins', 'ends'] as const;
/** Which asks it listens to: of which kind, and whether of its owner alone or of everybody. */
export const LISTENED_ASKS = ['any', 'acknowledgement', 'poll', 'check-in'] as const;
const asksShape = { asks: z.enum(LISTENED_ASKS), whose: z.enum(['own', 'all']) };

/**
 * What sets an automation off: somebody comes into a group or goes out of it; a time that recurs, in a named zone or, with
 * `zone` null, where each reader is; a record that comes to meet the conditions, once or each time anew; a form that is sent
 * in; a column of a record that changes; so long before or after a date in a record; so many days before or after the day
 * somebody in a group joined, or another date that is known of them, once or each year, on their own clock; a message that comes in by a way in; so long before or
 * after a session of the calendar begins or ends, on each of its dates; an ask that closes, or that so large a share of those
 * asked have answered.
 */
export const whenSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('joins'), groupId: id }),
  z.object({ kind: z.literal('leaves'), groupId: id }),
  z.object({
    kind: z.literal('schedule'),
    start: wallTimeSchema,
    zone: zoneSchema.nullable(),
    rule: ruleSchema,
    /** The record sheet whose records it looks at; none where it only speaks. */
    sheetId: id.nullable(),
  }),
  z.object({ kind: z.literal('meets'), sheetId: id, again: z.boolean() }),
  z.object({ kind: z.literal('sent in'), sheetId: id }),
  z.object({ kind: z.literal('changes'), sheetId: id, column: columnId }),
  z.object({
    kind: z.literal('date'),
    sheetId: id,
    column: columnId,
    ...spanShape,
    unit: z.enum(SPANS),
    /** Of a column of days: at which hour, on whose clock. */
    time: hourSchema,
    zone: zoneSchema,
  }),
  z.object({
    kind: z.literal('person date'),
    groupId: id,
    /** Which date: an attribute that holds one; left out, the day they joined. */
    of: z.object({ kind: z.literal('attribute'), name: z.string().trim().min(1).max(60) }).optional(),
    ...spanShape,
    time: hourSchema,
    yearly: z.boolean(),
  }),
  z.object({ kind: z.literal('called'), hookId: id }),
  z.object({
    kind: z.literal('session'),
    sessionId: id,
    ...spanShape,
    unit: z.enum(SPANS),
    edge: z.enum(SESSION_EDGES),
  }),
  z.object({ kind: z.literal('ask closes'), ...asksShape }),
  z.object({
    kind: z.literal('ask answered'),
    ...asksShape,
    /** How many of those asked have answered, in percent. */
    share: z.int('How many is a whole number of percent').min(1, 'At least 1 %').max(100, 'At most 100 %'),
  }),
]);
export type When = z.infer<typeof whenSchema>;

/** For what it speaks: each record or person; each group of records that are equal in a column; all of them at once. */
export const eachSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('each') }),
  z.object({ kind: z.literal('group'), field: z.string().max(60) }),
  z.object({ kind: z.literal('once') }),
]);
export type Each = z.infer<typeof eachSchema>;

/** Which of those a date of a session is for. */
export const INVITED = ['all', 'not declined', 'coming', 'silent'] as const;
/** Which of those who were asked. */
export const ASKED = ['all', 'silent', 'answered'] as const;

/**
 * Whom it tells: an audience; the person it is about; whoever a column names, found in the directory; a group's owner; those a
 * session is for; those who were asked; whoever asked.
 */
export const targetSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('audience'), audience: audienceSchema }),
  z.object({ kind: z.literal('person') }),
  z.object({
    kind: z.literal('named'),
    field: z.string().max(60),
    /** The system whose handles the column holds; empty for mail addresses and names here. */
    system: z.string().trim().max(40),
  }),
  z.object({ kind: z.literal('owner'), groupId: id }),
  z.object({ kind: z.literal('invited'), which: z.enum(INVITED) }),
  z.object({ kind: z.literal('asked'), which: z.enum(ASKED) }),
  z.object({ kind: z.literal('author') }),
]);
export type Target = z.infer<typeof targetSchema>;

export const tellSchema = z.object({
  to: targetSchema.nullable(),
  boards: z.array(id).max(20, 'At most 20 boards'),
  /** The outside places it travels to. */
  outside: z.array(id).max(20, 'At most 20 outside places').default([]),
  /** A column that names the board it goes up on, besides those. */
  boardField: z.string().max(60).nullable(),
  mail: z.boolean(),
  /** Who is told instead where nobody, or no board, is found. */
  otherwise: z.object({ audience: audienceSchema.nullable(), boards: z.array(id).max(20) }).nullable(),
});
export type Tell = z.infer<typeof tellSchema>;

/** When what it says is due: at once, or the next time the clock of whoever is told shows an hour. */
export const dueSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('at once') }),
  z.object({
    kind: z.literal('hour'),
    time: hourSchema,
  }),
]);

/** What is asked of an outside source, once for each distinct set of inputs. */
const lookupSchema = z.object({
  sourceId: id,
  /** Which field fills which of the source's inputs. */
  inputs: z.record(z.string().max(40), z.string().max(60)),
});

export const MOST_TABLE_ROWS = 100;
const tableSchema = z.object({
  /** How the rows stand: as a table, unless it is said, or as a list with a line for each. */
  as: z.enum(['table', 'list']).optional(),
  columns: z
    .array(z.string().max(60))
    .min(1, 'A table has at least one column')
    .max(8, 'A table has at most 8 columns'),
  order: z.object({ field: z.string().max(60), descending: z.boolean() }).nullable(),
  most: z
    .int('How many rows is a whole number')
    .min(1, 'At least one row')
    .max(MOST_TABLE_ROWS, `At most ${MOST_TABLE_ROWS} rows`),
});
export type TableShape = z.infer<typeof tableSchema>;

const templateSectionSchema = z.object({ ...sectionSchema.shape, document: templateDocumentSchema });

const contentSchema = z.object({
  ...draftContentSchema.shape,
  sections: z
    .array(templateSectionSchema)
    .min(1)
    .max(MAX_SECTIONS, `An announcement has at most ${MAX_SECTIONS} sections`),
});

/** Said an hour at most, before it pauses and tells its owner. */
export const USUAL_CEILING = 60;

/**
 * A standing instruction: when something happens, and if it holds, for each of what it happened to, tell them what it says.
 * It is stored as it is, with the version of its shape, and read aloud as a sentence.
 */
export const automationSchema = z.object({
  name: z.string().trim().max(80, 'A name has at most 80 characters'),
  when: whenSchema,
  if: conditionSchema,
  each: eachSchema,
  lookup: lookupSchema.nullable(),
  tell: tellSchema,
  due: dueSchema,
  senderId: id.nullable(),
  content: contentSchema,
  table: tableSchema.nullable(),
  ceiling: z
    .int('How many is a whole number')
    .min(1, 'At least one an hour')
    .max(5_000, 'At most 5,000 an hour'),
  /** After an outage: how late it may still be said, in minutes; null for however late. */
  lapseMinutes: z.int().min(1, 'At least a minute').max(43_200, 'At most 30 days').nullable(),
  from: dateSchema('2026-12-01').nullable(),
  until: dateSchema('2026-12-31').nullable(),
});
type Parsed = z.infer<typeof automationSchema>;
export type Automation = Omit<Parsed, 'content'> & {
  content: Omit<Content, 'sections'> & { sections: Section[] };
};

/** The states of an automation: whether it listens, and if it stopped by itself, why. */
export const AUTOMATION_STATES = ['off', 'on', 'paused'] as const;
export type AutomationState = (typeof AUTOMATION_STATES)[number];

/** Whom it tells to begin with, by what sets it off: those whom it is about, where there are such. */
export function targetOf(when: When): Target | null {
  if (when.kind === 'joins' || when.kind === 'person date') return { kind: 'person' };
  if (when.kind === 'session') return { kind: 'invited', which: 'not declined' };
  if (listensToAsks(when)) return { kind: 'author' };
  return null;
}

/** Whether it can tell those: of some only what sets it off says who they are. */
export const fitsWhen = (to: Target | null, when: When): boolean =>
  to?.kind === 'person'
    ? isAboutPerson(when)
    : to?.kind === 'invited'
      ? when.kind === 'session'
      : to?.kind === 'asked' || to?.kind === 'author'
        ? listensToAsks(when)
        : true;

export const newAutomation = (name: string, when: When): Automation => ({
  name,
  when,
  if: ALWAYS,
  each: { kind: when.kind === 'schedule' ? 'once' : 'each' },
  lookup: null,
  tell: {
    to: targetOf(when),
    boards: [],
    outside: [],
    boardField: null,
    mail: true,
    otherwise: null,
  },
  due: { kind: 'at once' },
  senderId: null,
  content: EMPTY_CONTENT,
  table: null,
  ceiling: USUAL_CEILING,
  lapseMinutes: 720,
  from: null,
  until: null,
});

/** The record sheet an automation reads; none for comings and goings, and for what only speaks. */
export const sheetOf = (when: When): number | null => ('sheetId' in when ? when.sheetId : null);

/** The group whose members an automation is about; none where it is about records, or only speaks. */
export const groupOf = (when: When): number | null => ('groupId' in when ? when.groupId : null);

/** Whether it is about one person: who came or went, or whose day it is. */
export const isAboutPerson = (when: When): boolean => groupOf(when) !== null;

/** Whether what sets it off is one thing at a time, a person, a session or an ask: then there is nothing to speak of by groups. */
export const isAboutOne = (when: When): boolean =>
  isAboutPerson(when) || when.kind === 'session' || listensToAsks(when);

/** Whether asks set it off. */
export const listensToAsks = (when: When): when is Extract<When, { kind: 'ask closes' | 'ask answered' }> =>
  when.kind === 'ask closes' || when.kind === 'ask answered';

/** Whether dates set it off, of records, of people or of sessions. */
export const goesByDates = (
  when: When,
): when is Extract<When, { kind: 'date' | 'person date' | 'session' }> =>
  when.kind === 'date' || when.kind === 'person date' || when.kind === 'session';

/** The way in it listens to; none where it listens to something here. */
export const hookOf = (when: When): number | null => (when.kind === 'called' ? when.hookId : null);

/** Whether comings and goings set it off. */
export const listensToGroup = (when: When): when is Extract<When, { kind: 'joins' | 'leaves' }> =>
  when.kind === 'joins' || when.kind === 'leaves';

/** Whether a clock sets it off at times that can be told beforehand: what waits for them comes anew when it is changed. */
export const waitsForClock = (when: When): boolean => when.kind === 'schedule' || goesByDates(when);

/** Whether it listens to a group, tells one, or tells its owner: what would say something else without it. */
export function namesGroup({ when, tell }: Automation, groupId: number): boolean {
  const audiences = [
    tell.to?.kind === 'audience' ? tell.to.audience : null,
    tell.otherwise?.audience ?? null,
  ];
  return (
    groupOf(when) === groupId ||
    (tell.to?.kind === 'owner' && tell.to.groupId === groupId) ||
    audiences.some((audience) => audience !== null && groupsNamedIn(audience).includes(groupId))
  );
}
