import { lengthOf } from '../../content/text.ts';
import { z } from 'zod';
import type { Problem } from '../../content/announcement.ts';
import type { Doc } from '../../content/document.ts';
import { count, list, people } from '../../words.ts';

export const QUESTION_KINDS = ['text', 'choice', 'number', 'blocked'] as const;
export type QuestionKind = (typeof QUESTION_KINDS)[number];

export const QUESTION_KIND_WORDS: Record<QuestionKind, string> = {
  text: 'a text',
  choice: 'a choice',
  number: 'a number',
  blocked: 'blocked, and by what',
};

/** What a text question stands for from one day to the next: what was to be next is offered as what was done. */
export const QUESTION_PARTS = ['none', 'done', 'next'] as const;

export const questionSchema = z.object({
  text: z.string().max(160, 'At most 160 characters'),
  kind: z.enum(QUESTION_KINDS),
  part: z.enum(QUESTION_PARTS).default('none'),
  options: z.array(z.string().max(80, 'At most 80 characters')).max(20).default([]),
  needed: z.boolean().default(true),
});
export type Question = z.infer<typeof questionSchema>;

/** The questions a check-in begins with. */
export const USUAL_QUESTIONS: Question[] = [
  { text: 'What did you get done?', kind: 'text', part: 'done', options: [], needed: true },
  { text: 'What comes next?', kind: 'text', part: 'next', options: [], needed: true },
  { text: 'Does anything block you?', kind: 'blocked', part: 'none', options: [], needed: false },
];

export const MOST_QUESTIONS = 8;
const MOST_ANSWER = 1000;

/** What keeps a check-in from being asked. */
export function checkInProblems(questions: readonly Question[]): Problem[] {
  const problems: Problem[] = [];
  if (questions.length === 0)
    problems.push({ field: 'ask.questions', detail: 'The check-in asks nothing. Add a question.' });
  questions.forEach((question, i) => {
    const field = `ask.questions.${i}`;
    if (question.text.trim() === '')
      problems.push({ field, detail: `Question ${i + 1} is empty. Write it or take it out.` });
    if (question.kind === 'choice') {
      const options = question.options.map((option) => option.trim()).filter(Boolean);
      if (options.length < 2 || new Set(options).size < options.length)
        problems.push({ field, detail: `Question ${i + 1} needs two different choices at least.` });
    }
  });
  for (const [part, words] of [
    ['done', 'what was done'],
    ['next', 'what comes next'],
  ] as const)
    if (questions.filter((question) => question.part === part).length > 1)
      problems.push({ field: 'ask.questions', detail: `Only one question can be the one for ${words}.` });
  if (questions.filter((question) => question.kind === 'blocked').length > 1)
    problems.push({ field: 'ask.questions', detail: 'Ask only once what blocks them.' });
  return problems;
}

/** Answers by the place of their question; a question that was left open has none. */
export type CheckInAnswers = Record<number, string>;

/** Answers that count, or what is wrong, by the place of the question. */
export type CheckInReading = { answers: CheckInAnswers; blocked: boolean } | { problems: Problem[] };

/**
 * Reads what somebody sent as their check-in.
 *
 * @param given answers as text, by the place of their question from 0; of a "blocked" question, by what
 */
export function readCheckIn(
  questions: readonly Question[],
  given: Readonly<Record<string, unknown>>,
): CheckInReading {
  const problems: Problem[] = [];
  const answers: CheckInAnswers = {};
  let blocked = false;
  questions.forEach((question, i) => {
    const raw = given[String(i)];
    const text = typeof raw === 'string' ? raw.trim() : typeof raw === 'number' ? String(raw) : '';
    const field = `answers.${i}`;
    if (text === '') {
      if (question.needed) problems.push({ field, detail: `Answer “${question.text}”.` });
      return;
    }
    if (lengthOf(text) > MOST_ANSWER)
      problems.push({ field, detail: `“${question.text}”: at most ${MOST_ANSWER} characters.` });
    else if (question.kind === 'number' && !/^-?\d{1,12}([.,]\d{1,6})?$/.test(text))
      problems.push({ field, detail: `“${question.text}” asks for a number, such as 3 or 2.5.` });
    else if (question.kind === 'choice' && !question.options.includes(text))
      problems.push({ field, detail: `“${question.text}”: choose one of what is offered.` });
    else {
      answers[i] = question.kind === 'number' ? text.replace(',', '.') : text;
      if (question.kind === 'blocked') blocked = true;
    }
  });
  return problems.length > 0 ? { problems } : { answers, blocked };
}

/** What to begin with: what was to come next the last time, as what is done now. */
export function prefilled(questions: readonly Question[], last: CheckInAnswers | null): CheckInAnswers {
  const done = questions.findIndex((question) => question.part === 'done');
  const next = questions.findIndex((question) => question.part === 'next');
  const before = last?.[next];
  return done >= 0 && next >= 0 && before !== undefined ? { [done]: before } : {};
}

/** What one person said. Instants are milliseconds since 1970. */
export interface Said {
  personId: number;
  name: string;
  station: string | null;
  answeredMs: number;
  answers: CheckInAnswers;
  blocked: boolean;
  /** Who said that they are blocked no more, and when. */
  unblocked: { by: string; atMs: number } | null;
  replies: number;
}

/** Those who are blocked first, the longest waiting on top; then the others by name. */
export function blockedFirst(said: readonly Said[]): Said[] {
  const stuck = (one: Said): boolean => one.blocked && !one.unblocked;
  return [...said].sort(
    (a, b) =>
      Number(stuck(b)) - Number(stuck(a)) ||
      (stuck(a) && stuck(b) ? a.answeredMs - b.answeredMs : a.name < b.name ? -1 : a.name > b.name ? 1 : 0),
  );
}

/** One question with what everybody said to it. */
export interface ByQuestion {
  question: Question;
  place: number;
  answers: { personId: number; name: string; text: string }[];
  /** Of a choice: how often each; of a number: its sum and mean. */
  counts: { text: string; n: number }[];
  sum: number | null;
  mean: number | null;
}

/** What was said, gathered by question. */
export function byQuestion(questions: readonly Question[], said: readonly Said[]): ByQuestion[] {
  return questions.map((question, place) => {
    const answers = blockedFirst(said).flatMap((one) => {
      const text = one.answers[place];
      return text === undefined ? [] : [{ personId: one.personId, name: one.name, text }];
    });
    const numbers = question.kind === 'number' ? answers.map((answer) => Number(answer.text)) : [];
    const sum = numbers.reduce((all, each) => all + each, 0);
    return {
      question,
      place,
      answers,
      counts:
        question.kind === 'choice'
          ? question.options.map((text) => ({
              text,
              n: answers.filter((answer) => answer.text === text).length,
            }))
          : [],
      sum: numbers.length > 0 ? sum : null,
      mean: numbers.length > 0 ? sum / numbers.length : null,
    };
  });
}

const paragraph = (text: string): Doc['content'][number] => ({
  type: 'paragraph',
  content: [{ type: 'text', text }],
});

/** More than this of one question is not read in a digest: the page of the check-in has it all. */
const MOST_IN_DIGEST = 40;

const shortened = (lines: readonly string[]): string[] =>
  lines.length > MOST_IN_DIGEST
    ? [...lines.slice(0, MOST_IN_DIGEST), `… and ${lines.length - MOST_IN_DIGEST} more`]
    : [...lines];

const bullets = (lines: readonly string[]): Doc['content'][number] => ({
  type: 'bulletList',
  content: shortened(lines).map((text) => ({
    type: 'listItem',
    content: [{ type: 'paragraph', content: [{ type: 'text', text }] }],
  })),
});

/** The digest of a check-in that has closed: who is blocked first, then what was said by question, then who is missing. */
export function digestDocument(
  questions: readonly Question[],
  said: readonly Said[],
  missing: readonly string[],
): Doc {
  const content: Doc['content'] = [];
  const asked = said.length + missing.length;
  content.push(paragraph(`${said.length} of ${people(asked)} checked in.`));
  const stuck = blockedFirst(said).filter((one) => one.blocked && !one.unblocked);
  const place = questions.findIndex((question) => question.kind === 'blocked');
  if (stuck.length > 0)
    content.push(
      paragraph(`Blocked: ${people(stuck.length)}.`),
      bullets(stuck.map((one) => `${one.name}: ${one.answers[place] ?? ''}`)),
    );
  for (const { question, answers, counts, sum, mean } of byQuestion(questions, said)) {
    if (question.kind === 'blocked' || answers.length === 0) continue;
    content.push(paragraph(question.text));
    if (counts.length > 0) content.push(bullets(counts.map(({ text, n }) => `${text}: ${n}`)));
    else if (sum !== null && mean !== null)
      content.push(
        bullets([
          `In all ${Number(sum.toFixed(2))}, on average ${Number(mean.toFixed(2))}`,
          ...answers.map(({ name, text }) => `${name}: ${text}`),
        ]),
      );
    else content.push(bullets(answers.map(({ name, text }) => `${name}: ${text}`)));
  }
  if (missing.length > 0)
    content.push(
      paragraph(
        missing.length > 20
          ? `${count(missing.length, 'person', 'people')} did not check in.`
          : `Not heard from: ${list(missing, 'and')}.`,
      ),
    );
  return { type: 'doc', content };
}
