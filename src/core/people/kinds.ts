import { z } from 'zod';
import { dateOf } from '../imports/record.ts';

export const ATTRIBUTE_KINDS = ['text', 'number', 'date', 'choice'] as const;
export type AttributeKind = (typeof ATTRIBUTE_KINDS)[number];

export const ATTRIBUTE_KIND_WORDS: Record<AttributeKind, string> = {
  text: 'any text',
  number: 'a number',
  date: 'a date',
  choice: 'one of some choices',
};

/** What an attribute of people holds. */
export interface AttributeForm {
  kind: AttributeKind;
  /** Of a choice, what can be chosen; empty otherwise. */
  choices: readonly string[];
}

export const TEXT: AttributeForm = { kind: 'text', choices: [] };

/** An attribute as it is found, whatever the size of its letters. */
export const attributeKey = (name: string): string => name.normalize('NFKC').toLowerCase();

/** What is wrong with a value of an attribute, with its remedy; null where nothing is. Dates are YYYY-MM-DD. */
export function attributeProblem({ kind, choices }: AttributeForm, value: string): string | null {
  switch (kind) {
    case 'text':
      return null;
    case 'number':
      return /^-?\d{1,15}(\.\d{1,9})?$/.test(value)
        ? null
        : `“${value.slice(0, 40)}” is not a number. Write figures only, such as 12 or 2.5.`;
    case 'date':
      return /^\d{4}-\d{2}-\d{2}$/.test(value) && dateOf(value, 'day first') === value
        ? null
        : `“${value.slice(0, 40)}” is not a date. Write it as year-month-day, such as 2026-03-09.`;
    case 'choice':
      return choices.includes(value)
        ? null
        : `“${value.slice(0, 40)}” is none of the choices: ${choices.join(', ')}.`;
  }
}

/** An occupation, and how many have it, those who left among them. */
export interface OccupationLine {
  name: string;
  people: number;
}

/** An attribute of people, what it holds, and how many have it, those who left among them. */
export interface AttributeLine extends AttributeForm {
  name: string;
  people: number;
  /** A few of the values there are. */
  values: string[];
}

export interface PeopleKinds {
  occupations: OccupationLine[];
  attributes: AttributeLine[];
}

const attributeName = z
  .string()
  .trim()
  .min(1, 'Name the attribute, such as “licence”')
  .max(60, 'A name has at most 60 characters');

export const occupationRenameSchema = z.object({
  from: z.string().min(1).max(80),
  /** Empty takes it away from everybody. */
  to: z.string().trim().max(80, 'An occupation has at most 80 characters'),
});

export const attributeChangeSchema = z
  .object({
    /** What it is called now; null for one that is not there yet. */
    from: z.string().min(1).max(60).nullable(),
    name: attributeName,
    kind: z.enum(ATTRIBUTE_KINDS),
    choices: z
      .array(
        z.string().trim().min(1, 'A choice is not empty').max(120, 'A choice has at most 120 characters'),
      )
      .max(100, 'At most 100 choices')
      .default([]),
  })
  .refine(({ kind, choices }) => kind !== 'choice' || choices.length > 0, {
    path: ['choices'],
    message: 'Write what can be chosen, each on a line of its own',
  })
  .refine(({ choices }) => new Set(choices).size === choices.length, {
    path: ['choices'],
    message: 'A choice is there twice',
  });

export const attributeRemovalSchema = z.object({ name: z.string().min(1).max(60) });
