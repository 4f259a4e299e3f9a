import { z } from 'zod';
import type { Problem } from '../../content/announcement.ts';
import { resolveMoment } from '../../timing/wallTime.ts';
import { momentSchema } from '../../timing/wallTimeSchema.ts';
import { momentWords } from '../../timing/words.ts';
import {
  MAJORITIES,
  MOST_OPTIONS,
  POLL_KINDS,
  type PollKind,
  RANKING_METHODS,
  SHOWN,
  type Shown,
} from './pollKinds.ts';

/** One option: its words, or of a poll on dates the moment it stands for. */
export const optionSchema = z.object({
  label: z.string().max(160, 'At most 160 characters'),
  at: momentSchema.nullable().default(null),
});
export type PollOption = z.infer<typeof optionSchema>;

/** What is asked in a poll and how it is counted. It stands as it was once it has gone out; options can only be added. */
export const pollSchema = z.object({
  question: z.string().max(300, 'At most 300 characters'),
  kind: z.enum(POLL_KINDS),
  options: z.array(optionSchema).max(MOST_OPTIONS, `At most ${MOST_OPTIONS} options`),
  /** Of several choices: how many one may choose; null is as many as one likes. */
  limit: z.int().min(1).max(MOST_OPTIONS).nullable().default(null),
  method: z.enum(RANKING_METHODS).default('instant runoff'),
  /** Of a rating: from 1 to this. */
  scale: z.int().min(2).max(10).default(5),
  anonymous: z.boolean().default(false),
  shown: z.enum(SHOWN).default('after voting'),
  shuffle: z.boolean().default(false),
  /** Whether readers may add options of their own. */
  adding: z.boolean().default(false),
  /** Of an approval: the share of those asked, in per cent, who must vote for it to count. */
  quorum: z.int().min(0).max(100).default(0),
  majority: z.enum(MAJORITIES).default('more than half'),
  closesWhenAll: z.boolean().default(false),
  /** Whether the outcome is posted to where it was asked. */
  postBack: z.boolean().default(true),
});
export type Poll = z.infer<typeof pollSchema>;

export const EMPTY_POLL: Poll = pollSchema.parse({
  question: '',
  kind: 'single',
  options: [
    { label: '', at: null },
    { label: '', at: null },
  ],
});

/** The options of an approval, in this order. */
export const APPROVAL_OPTIONS = ['For', 'Against', 'Abstain'] as const;

/** An option as it is voted on: numbered from 1 in the order written, those added later after them. */
export interface NumberedOption extends PollOption {
  id: number;
  addedBy: string | null;
}

/** The options a poll starts with. */
export function optionsOf(poll: Poll): NumberedOption[] {
  if (poll.kind === 'rating' || poll.kind === 'text') return [];
  const own =
    poll.kind === 'approval' ? APPROVAL_OPTIONS.map((label) => ({ label, at: null })) : poll.options;
  return own.map((option, i) => ({ ...option, id: i + 1, addedBy: null }));
}

/** Whether options can be added to a kind of poll at all. */
export const takesOptions = (kind: PollKind): boolean =>
  kind === 'single' || kind === 'several' || kind === 'ranking' || kind === 'dates';

/** An option in words; a date in the reader's own zone. */
export function optionWords(option: PollOption, zone: string, nowMs?: number): string {
  if (!option.at) return option.label;
  const when = momentWords(resolveMoment(option.at).epochMs, zone, nowMs);
  return option.label.trim() === '' ? when : `${when}, ${option.label.trim()}`;
}

const key = (option: PollOption): string =>
  `${option.at ? resolveMoment(option.at).epochMs : ''}|${option.label.trim().toLocaleLowerCase('en')}`;

/** What keeps one more option from being added, or null. */
export function optionProblem(poll: Poll, options: readonly PollOption[], added: PollOption): string | null {
  if (!takesOptions(poll.kind)) return 'This poll takes no further options.';
  if (poll.kind === 'dates' ? !added.at : added.label.trim() === '')
    return poll.kind === 'dates' ? 'Choose a date and a time.' : 'Write what the option says.';
  if (options.length >= MOST_OPTIONS) return `A poll has at most ${MOST_OPTIONS} options.`;
  if (options.some((option) => key(option) === key(added))) return 'That option is there already.';
  return null;
}

/** What keeps a poll from being asked. */
export function pollProblems(poll: Poll): Problem[] {
  const problems: Problem[] = [];
  if (poll.question.trim() === '')
    problems.push({ field: 'ask.poll.question', detail: 'The poll has no question. Write one.' });
  if (!takesOptions(poll.kind)) return problems;
  const { options } = poll;
  const missing = options.findIndex((option) =>
    poll.kind === 'dates' ? !option.at : option.label.trim() === '',
  );
  if (missing >= 0)
    problems.push({
      field: `ask.poll.options.${missing}`,
      detail: `Option ${missing + 1} is empty. Fill it in or take it out.`,
    });
  if (options.length < 2 && !(poll.adding && options.length === 1))
    problems.push({
      field: 'ask.poll.options',
      detail: 'A poll needs two options at least, or one and readers who may add more.',
    });
  const seen = new Set<string>();
  options.forEach((option, i) => {
    const empty = poll.kind === 'dates' ? !option.at : option.label.trim() === '';
    if (seen.has(key(option)) && !empty)
      problems.push({
        field: `ask.poll.options.${i}`,
        detail: `Option ${i + 1} is there twice. Change one of the two or take it out.`,
      });
    seen.add(key(option));
  });
  if (poll.kind === 'several' && poll.limit !== null && poll.limit > options.length)
    problems.push({
      field: 'ask.poll.limit',
      detail: `One may choose ${poll.limit}, and there are only ${options.length} options.`,
    });
  return problems;
}

const SHOWN_WORDS: Record<Shown, string> = {
  always: 'The result shows as it comes in.',
  'after voting': 'The result shows once you have voted.',
  'after closing': 'The result shows once the poll has closed.',
};

/** What a voter should know before they vote, each a sentence: how it is decided, who sees their choice, when it shows. */
export function pollRules(poll: Poll): string[] {
  return [
    ...(poll.kind === 'approval'
      ? [
          `Carried by ${poll.majority} of the votes for and against${
            poll.quorum > 0 ? `, where at least ${poll.quorum} % of those asked vote` : ''
          }; abstaining counts as voting.`,
        ]
      : []),
    poll.anonymous
      ? 'Without names: nobody sees who chose what.'
      : 'With names: whoever asked sees who chose what.',
    SHOWN_WORDS[poll.shown],
  ];
}
