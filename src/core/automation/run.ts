import type { AutomationState } from './automation.ts';
import type { AutomationPhrase } from './words.ts';

export const RUN_STATES = ['waiting', 'running', 'said', 'nothing', 'held', 'lapsed', 'failed'] as const;
export type RunState = (typeof RUN_STATES)[number];

/** What became of a run, in words. */
export const RUN_WORDS: Record<RunState, string> = {
  waiting: 'waits for its time',
  running: 'under way',
  said: 'said',
  nothing: 'nothing to say',
  held: 'kept back',
  lapsed: 'too late to say',
  failed: 'failed',
};

/** One thing that was said in a run, or kept back, with why. */
export interface SayingLine {
  about: string;
  occurrenceId: number | null;
  otherwise: boolean;
  reason: string | null;
  missing: { system: string; value: string } | null;
}

export interface RunLine {
  id: number;
  automationId: number;
  name: string;
  version: number;
  state: RunState;
  /** What set it off, in words. */
  cause: string;
  dueMs: number;
  endedMs: number | null;
  matched: number;
  said: number;
  keptBack: number;
  reason: string | null;
  /** Whether somebody can have it tried again. */
  again: boolean;
}

export interface RunPage extends RunLine {
  sayings: SayingLine[];
}

/** What a run that is begun by hand would say, as it is told in the last question before it. */
export interface RunAhead {
  messages: number;
  people: number;
  mail: boolean;
  boards: string[];
  outside: string[];
  keptBack: number;
  /** Why the first of what would be kept back would be. */
  why: string | null;
}

export interface AutomationLine {
  id: number;
  name: string;
  state: AutomationState;
  whyPaused: string | null;
  owner: string;
  sentence: string;
  /** When it speaks next, where a time sets it off. */
  nextMs: number | null;
  /** Whether what is written differs from what is published. */
  changed: boolean;
  published: boolean;
  last: RunLine | null;
  /** Told in the last seven days, and kept back. */
  saidWeek: number;
  keptBackWeek: number;
  mayChange: boolean;
}

/** What one saying of a trial would be: whom, how, when, in which words. */
export interface TriedSaying {
  about: string;
  /** Whom it would reach, in words, and how many. */
  whom: string;
  people: number | null;
  boards: string[];
  /** The outside places it would travel to. */
  outside: string[];
  mail: boolean;
  /** When, in words. */
  due: string;
  title: string;
  from: string;
  html: string;
  otherwise: boolean;
  reason: string | null;
  /** Why it would be kept back, or null where it would be said. */
  keptBack: string | null;
}

export interface Trial {
  /** What it was tried on, in words. */
  cause: string;
  considered: number;
  matched: number;
  values: { label: string; value: string }[];
  sayings: TriedSaying[];
  more: number;
  problem: string | null;
}

/** A day of a replay, and what would have been said on it. */
export interface ReplayDay {
  date: string;
  runs: number;
  said: number;
  people: number;
}

export interface Replay {
  fromMs: number;
  toMs: number;
  runs: number;
  said: number;
  keptBack: number;
  people: number;
  days: ReplayDay[];
  busiest: { atMs: number; said: number } | null;
  /** Whom it would have troubled most. */
  most: { name: string; times: number }[];
  missing: string[];
  /** What it really said in the same time. */
  reallySaid: number;
  /** What the replay could not know, in words. */
  notes: string[];
}

export type { AutomationPhrase };
