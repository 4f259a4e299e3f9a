import { audienceWords, type AudienceNames } from '../audience/words.ts';
import { deadlineOf, type Plan } from './plan.ts';
import { settle } from '../timing/wallTime.ts';
import { momentWords, zoneWords } from '../timing/words.ts';
import { list } from '../words.ts';

export type PhraseKey = 'whom' | 'how' | 'when' | 'ask';

/** One phrase of the sentence: what is said before it, and the words that are pressed to change it. */
export interface Phrase {
  key: PhraseKey;
  lead: string;
  words: string;
}

export interface PlanNames extends AudienceNames {
  board: (id: number) => string | undefined;
}

/**
 * A plan as the sentence a coordinator reads: "To Vault keyholders except On leave, by inbox and mail and on
 * the board Vault alerts, at 09:00 on Tuesday 1 December in London, asking them to acknowledge." What is read
 * aloud is what will happen.
 */
export function sentence(plan: Plan, names: PlanNames, nowMs: number): Phrase[] {
  const boards = plan.boards.map((id) => names.board(id) ?? 'a board that no longer exists');
  const onBoards =
    boards.length > 0 ? `on the ${boards.length === 1 ? 'board' : 'boards'} ${list(boards, 'and')}` : '';
  const direct = plan.audience ? (plan.mail ? 'inbox and mail' : 'inbox') : '';
  const how = [direct && `by ${direct}`, onBoards].filter(Boolean).join(', and ');
  const timing = plan.timing;
  const deadline = deadlineOf(plan.ask);
  const deadlineZone = plan.ask.kind === 'acknowledgement' ? (plan.ask.deadline?.zone ?? 'UTC') : 'UTC';
  return [
    {
      key: 'whom',
      lead: 'To',
      words: plan.audience
        ? audienceWords(plan.audience, names)
        : boards.length > 0
          ? 'readers of the board'
          : 'nobody yet',
    },
    { key: 'how', lead: '', words: how || 'no way chosen yet' },
    timing.kind === 'now'
      ? { key: 'when', lead: '', words: 'now' }
      : {
          key: 'when',
          lead: 'at',
          words: `${momentWords(settle(timing).epochMs, timing.zone, nowMs)} in ${zoneWords(timing.zone)}`,
        },
    plan.ask.kind === 'nothing'
      ? { key: 'ask', lead: 'asking for', words: 'nothing back' }
      : {
          key: 'ask',
          lead: 'asking them to',
          words: `acknowledge${deadline === null ? '' : ` by ${momentWords(deadline, deadlineZone, nowMs)} in ${zoneWords(deadlineZone)}`}`,
        },
  ];
}

/** The sentence without when, and without asking for nothing: for a line that stands beside its time. */
export function briefText(plan: Plan, names: PlanNames, nowMs: number): string {
  return `${sentence(plan, names, nowMs)
    .filter((phrase) => phrase.key !== 'when' && !(phrase.key === 'ask' && plan.ask.kind === 'nothing'))
    .map((phrase) => [phrase.lead, phrase.words].filter(Boolean).join(' '))
    .join(', ')}.`;
}

/** The whole sentence in one string. */
export function sentenceText(plan: Plan, names: PlanNames, nowMs: number): string {
  return `${sentence(plan, names, nowMs)
    .map((phrase) => [phrase.lead, phrase.words].filter(Boolean).join(' '))
    .join(', ')}.`;
}
