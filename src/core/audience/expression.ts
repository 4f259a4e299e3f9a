import { dateSchema } from '../timing/bounds.ts';
import { z } from 'zod';
import { STANDS, type Stands } from './stands.ts';

/** The most days back of those who joined lately. */
export const MOST_JOINED_DAYS = 3660;

export const ROLES = ['coordinator', 'editor', 'member'] as const;
export type Role = (typeof ROLES)[number];

export const STANDINGS = ['active', 'on leave', 'left'] as const;
export type Standing = (typeof STANDINGS)[number];

const id = z.int().positive();

/**
 * Who: a set expression over people. Membership is decided per person, so nobody can be in it twice.
 *
 * - `everyone`: all of the organisation who have not left.
 * - `guests`: those who are guests from outside. A guest is in an audience only where it says so: through a group they are picked
 *   into, by name, as a guest, or by what has come to them already; see `includes`.
 * - `group`: a fixed group's hand-picked members, or whoever a live group's rule holds for now.
 * - `joined within`: joined at most so many days before the day it is read, that day in UTC.
 * - `joined since`: joined on that date or later.
 * - `answered`: was asked by that occurrence and has answered, or has not; `reached`: has it in the inbox; `read`: has opened it.
 * - `signed up`: signed up for the event that occurrence tells of, under the mail address they have in the directory.
 * - `session`: has said that of a date of the calendar.
 * - `any` of nothing is nobody; `all` of nothing is everyone.
 */
export type Audience =
  | { kind: 'everyone' }
  | { kind: 'guests' }
  | { kind: 'group'; id: number }
  | { kind: 'station'; id: number }
  | { kind: 'role'; role: Role }
  | { kind: 'standing'; standing: Standing }
  | { kind: 'occupation'; occupation: string }
  | { kind: 'joined within'; days: number }
  | { kind: 'joined since'; date: string }
  | { kind: 'attribute'; name: string; value: string }
  | { kind: 'answered'; occurrenceId: number; answered: boolean }
  | { kind: 'reached'; occurrenceId: number }
  | { kind: 'read'; occurrenceId: number }
  | { kind: 'signed up'; occurrenceId: number }
  | { kind: 'session'; dateId: number; stands: Stands }
  | { kind: 'person'; id: number }
  | { kind: 'any'; of: Audience[] }
  | { kind: 'all'; of: Audience[] }
  | { kind: 'except'; from: Audience; minus: Audience };

const leaves = [
  z.object({ kind: z.literal('everyone') }),
  z.object({ kind: z.literal('guests') }),
  z.object({ kind: z.literal('station'), id }),
  z.object({ kind: z.literal('role'), role: z.enum(ROLES) }),
  z.object({ kind: z.literal('standing'), standing: z.enum(STANDINGS) }),
  z.object({ kind: z.literal('occupation'), occupation: z.string().min(1).max(80) }),
  z.object({ kind: z.literal('joined within'), days: z.int().min(1).max(MOST_JOINED_DAYS) }),
  z.object({ kind: z.literal('joined since'), date: dateSchema('2026-09-01') }),
  z.object({
    kind: z.literal('attribute'),
    name: z.string().min(1).max(60),
    value: z.string().min(1).max(120),
  }),
  z.object({ kind: z.literal('answered'), occurrenceId: id, answered: z.boolean() }),
  z.object({ kind: z.literal('reached'), occurrenceId: id }),
  z.object({ kind: z.literal('read'), occurrenceId: id }),
  z.object({ kind: z.literal('signed up'), occurrenceId: id }),
  z.object({ kind: z.literal('session'), dateId: id, stands: z.enum(STANDS) }),
  z.object({ kind: z.literal('person'), id }),
] as const;

const MAX_DEPTH = 8;
const MAX_PARTS = 500;

/** How deep an expression nests and how many parts it has, so that a hostile one can be refused. */
export function sizeOf(audience: Audience): { depth: number; parts: number } {
  const inner =
    audience.kind === 'any' || audience.kind === 'all'
      ? audience.of
      : audience.kind === 'except'
        ? [audience.from, audience.minus]
        : [];
  let depth = 0;
  let parts = 1;
  for (const part of inner) {
    const size = sizeOf(part);
    depth = Math.max(depth, size.depth);
    parts += size.parts;
  }
  return { depth: depth + 1, parts };
}

const unboundedSchema: z.ZodType<Audience> = z.lazy(() =>
  z.union([
    ...leaves,
    z.object({ kind: z.literal('group'), id }),
    z.object({ kind: z.literal('any'), of: z.array(unboundedSchema).max(MAX_PARTS) }),
    z.object({ kind: z.literal('all'), of: z.array(unboundedSchema).max(MAX_PARTS) }),
    z.object({ kind: z.literal('except'), from: unboundedSchema, minus: unboundedSchema }),
  ]),
);

/** An audience as it is stored in a plan. */
export const audienceSchema = unboundedSchema.refine(
  (audience) => {
    const size = sizeOf(audience);
    return size.depth <= MAX_DEPTH && size.parts <= MAX_PARTS;
  },
  { message: `An audience has at most ${MAX_PARTS} parts, nested ${MAX_DEPTH} deep` },
);

/** The parts of an audience that are not made of others, in the order they are written. */
export function leavesOf(audience: Audience): Audience[] {
  if (audience.kind === 'any' || audience.kind === 'all') return audience.of.flatMap(leavesOf);
  if (audience.kind === 'except') return [...leavesOf(audience.from), ...leavesOf(audience.minus)];
  return [audience];
}

/** The occurrences an audience looks at: who answered, read or signed up for them; each once. */
export function occurrencesNamedIn(audience: Audience): number[] {
  return [
    ...new Set(leavesOf(audience).flatMap((part) => ('occurrenceId' in part ? [part.occurrenceId] : []))),
  ];
}

/** The dates of the calendar an audience names, each once. */
export function datesNamedIn(audience: Audience): number[] {
  return [...new Set(leavesOf(audience).flatMap((part) => (part.kind === 'session' ? [part.dateId] : [])))];
}

/** The groups an audience names, each once. */
export function groupsNamedIn(audience: Audience): number[] {
  return [...new Set(leavesOf(audience).flatMap((part) => (part.kind === 'group' ? [part.id] : [])))];
}

/** Whether an audience has no phrase yet: any of nothing is nobody. */
export const isNobody = (audience: Audience): boolean => audience.kind === 'any' && audience.of.length === 0;
