import { z } from 'zod';
import { isBlankDocument } from '../content/document.ts';
import { documentSchema } from '../content/documentSchema.ts';

/** A subject of the shelf; a subject within another is narrower. */
export interface Subject {
  id: number;
  parentId: number | null;
  name: string;
  /** Published answers in it and in what is narrower. */
  answers: number;
}

/** An answer as a line. */
export interface AnswerLine {
  id: number;
  question: string;
  subject: string;
  excerpt: string;
}

export interface ShelfAnswer extends AnswerLine {
  html: string;
  published: boolean;
  by: string;
  writtenMs: number;
  editedMs: number | null;
  /** Those who asked it and may be named. */
  askedBy: string[];
  /** The announcement that said it, where the reader may open it. */
  announcement: { title: string; path: string } | null;
}

/** A question somebody asked. */
export interface AskedQuestion {
  id: number;
  by: string;
  text: string;
  atMs: number;
  state: 'helped' | 'open' | 'answered' | 'closed';
  found: number;
  answerId: number | null;
  reason: string | null;
  /** What the asker said the answers that were offered lack; of one asked again, what they said before where they said nothing new. */
  note: string;
  /** Whether the asker may be named where it is answered for all. */
  named: boolean;
}

/** An open question as the desk sees it. */
export interface OpenQuestion extends AskedQuestion {
  /** The answers that were offered when it was asked. */
  offered: { id: number; question: string }[];
  /** The question of theirs that it asks again, with what became of that. */
  before: Pick<AskedQuestion, 'id' | 'atMs' | 'state' | 'answerId' | 'reason'> | null;
}

export interface ShelfDesk {
  open: OpenQuestion[];
  /** Published answers by how often they were what was looked for, the most asked first. */
  mostAsked: { id: number; question: string; n: number }[];
  /** Questions for which nothing was offered, the latest first. */
  foundNothing: AskedQuestion[];
  /** Every published answer, for pointing to one. */
  all: { id: number; question: string }[];
  /** Written for somebody and not yet published to all. */
  unpublished: AnswerLine[];
}

export const questionSchema = z.object({
  text: z
    .string()
    .trim()
    .min(3, 'Write what you want to know')
    .max(300, 'A question has at most 300 characters'),
  /** The answer that helped; null where none did, and the question goes to the coordinator. */
  helpedBy: z.int().positive().nullable(),
  found: z.int().min(0).max(1000),
  /** The answers that were offered. */
  offered: z.array(z.int().positive()).max(10).default([]),
  note: z.string().trim().max(600, 'A note has at most 600 characters').default(''),
  named: z.boolean().default(false),
});

export const answerSchema = z.object({
  question: z
    .string()
    .trim()
    .min(3, 'Write the question it answers')
    .max(200, 'A question has at most 200 characters'),
  document: documentSchema.refine((doc) => !isBlankDocument(doc), 'Write the answer'),
  subjectId: z.int().positive('Choose a subject'),
  occurrenceId: z.int().positive().nullable().default(null),
  published: z.boolean(),
  /** The question of somebody it settles. */
  settles: z.int().positive().nullable().default(null),
  /** The board on which the question is answered for all who read it, besides; null for none. */
  boardId: z.int().positive().nullable().default(null),
});

export const subjectSchema = z.object({
  name: z.string().trim().min(2, 'Give the subject a name').max(80, 'A name has at most 80 characters'),
  parentId: z.int().positive().nullable().default(null),
});

export const closeSchema = z.object({
  reason: z
    .string()
    .trim()
    .min(3, 'Say why it is closed without an answer')
    .max(600, 'At most 600 characters'),
});
