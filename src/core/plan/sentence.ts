import { askWords, type Ask } from '../asks/ask.ts';
import { audienceWords, type AudienceNames } from '../audience/words.ts';
import { ruleWords } from '../timing/rule.ts';
import { resolveMoment } from '../timing/wallTime.ts';
import { dateWords, momentWords, zoneWords } from '../timing/words.ts';
import { list } from '../words.ts';
import type { Plan, Timing } from './plan.ts';

export type PhraseKey = 'whom' | 'how' | 'when' | 'ask';

/** One phrase of the sentence: what is said before it, and the words that are pressed to change it. */
export interface Phrase {
  key: PhraseKey;
  lead: string;
  words: string;
}

export interface PlanNames extends AudienceNames {
  board: (id: number) => string | undefined;
  /** An outside place. */
  outside: (id: number) => string | undefined;
}

const span = (minutes: number): string => {
  if (minutes === 0) return 'when the event begins';
  const units: [number, string][] = [
    [1440, 'day'],
    [60, 'hour'],
    [1, 'minute'],
  ];
  const [size, unit] = units.find(([each]) => minutes % each === 0) ?? [1, 'minute'];
  const n = minutes / size;
  return `${n} ${unit}${n === 1 ? '' : 's'} before the event`;
};

/** A date without a zone, as it is written. */
const wallDate = (wall: string, nowMs: number): string => dateWords(Date.parse(`${wall}:00Z`), 'UTC', nowMs);

function whenPhrase(timing: Timing, nowMs: number): Phrase {
  const phrase = (lead: string, words: string): Phrase => ({ key: 'when', lead, words });
  switch (timing.kind) {
    case 'now':
      return phrase('', 'now');
    case 'at':
      return phrase(
        'at',
        `${momentWords(resolveMoment(timing).epochMs, timing.zone, nowMs)} in ${zoneWords(timing.zone)}`,
      );
    case 'local':
      return phrase('at', `${timing.wall.slice(11)} their time on ${wallDate(timing.wall, nowMs)}`);
    case 'before event':
      return phrase('', span(timing.minutes));
    case 'recurring':
      return phrase(
        '',
        ruleWords(
          timing.rule,
          timing.start,
          `${timing.start.slice(11)} ${timing.zone === null ? 'their time' : `in ${zoneWords(timing.zone)}`}`,
        ),
      );
  }
}

function askPhrase(ask: Ask, nowMs: number): Phrase {
  if (ask.kind === 'nothing') return { key: 'ask', lead: 'asking for', words: 'nothing back' };
  return { key: 'ask', lead: 'asking them to', words: askWords(ask, nowMs) };
}

/**
 * A plan as the sentence a coordinator reads: "To Vault keyholders except On leave, by inbox and mail and on
 * the board Vault alerts, at 09:00 their time on Tuesday 1 December, asking them to acknowledge." What is read
 * aloud is what will happen.
 */
export function sentence(plan: Plan, names: PlanNames, nowMs: number): Phrase[] {
  const boards = plan.boards.map((id) => names.board(id) ?? 'a board that no longer exists');
  const onBoards =
    boards.length > 0 ? `on the ${boards.length === 1 ? 'board' : 'boards'} ${list(boards, 'and')}` : '';
  const outside = plan.outside.map((id) => names.outside(id) ?? 'an outside place that no longer exists');
  const beyond =
    outside.length > 0
      ? `to the outside ${outside.length === 1 ? 'place' : 'places'} ${list(outside, 'and')}`
      : '';
  const direct = plan.audience ? (plan.mail ? 'inbox and mail' : 'inbox') : '';
  const copied = plan.audience && plan.contacts ? 'with their linked contacts copied in' : '';
  const how = [direct && `by ${direct}`, onBoards, beyond].filter(Boolean).join(', and ');
  return [
    {
      key: 'whom',
      lead: 'To',
      words: plan.audience
        ? audienceWords(plan.audience, names)
        : boards.length > 0
          ? 'readers of the board'
          : outside.length > 0
            ? 'nobody here'
            : 'nobody yet',
    },
    { key: 'how', lead: '', words: [how || 'no way chosen yet', copied].filter(Boolean).join(', ') },
    whenPhrase(plan.timing, nowMs),
    askPhrase(plan.ask, nowMs),
  ];
}

const text = (phrases: readonly Phrase[]): string =>
  `${phrases.map((phrase) => [phrase.lead, phrase.words].filter(Boolean).join(' ')).join(', ')}.`;

/** The sentence without when, and without asking for nothing: for a line that stands beside its time. */
export function briefText(plan: Plan, names: PlanNames, nowMs: number): string {
  return text(
    sentence(plan, names, nowMs).filter(
      (phrase) => phrase.key !== 'when' && !(phrase.key === 'ask' && plan.ask.kind === 'nothing'),
    ),
  );
}

/** The whole sentence in one string. */
export function sentenceText(plan: Plan, names: PlanNames, nowMs: number): string {
  return text(sentence(plan, names, nowMs));
}
