import type { Problem } from '../content/announcement.ts';
import type { Phrase } from '../plan/sentence.ts';
import type { Decision } from '../rights/decide.ts';

/** Somebody who would not be reached as the plan says, and what happens instead. */
export interface Missed {
  kind: 'no mail address' | 'mail stopped' | 'left';
  n: number;
  /** One sentence: who, and what becomes of them. */
  detail: string;
  names: string[];
}

/** What a plan would do if it were confirmed now. */
export interface Forecast {
  /** People, each once. */
  people: number;
  byMail: number;
  boards: { id: number; name: string }[];
  missed: Missed[];
  onLeave: number;
  phrases: Phrase[];
  problems: Problem[];
  right: Decision;
  /** The instant it would be due, and what is to be told of an hour that does not exist or comes twice. */
  dueMs: number;
  clockNote: string | null;
}
