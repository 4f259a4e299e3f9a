import type { Audience } from './expression.ts';

/** What an audience can be built from, as one person may address it. */
export interface AudienceChoices {
  groups: {
    id: number;
    name: string;
    kind: 'live' | 'fixed';
    needsClearance: boolean;
  }[];
  /** Groups that are offered no more, for what speaks of them still. */
  archived: { id: number; name: string }[];
  /** Whether somebody outside the groups may be addressed: stations, roles, people by name, everyone. */
  anybody: boolean;
  stations: { id: number; name: string; zone: string }[];
  occupations: string[];
  attributes: { name: string; values: string[] }[];
  /** Earlier asks, by which one can choose who has answered and who has not. */
  asks: { occurrenceId: number; title: string; dueMs: number }[];
  /** Dates of the calendar, of which one can choose who comes; none for whoever does not look after it. */
  sessions: { dateId: number; words: string }[];
  saved: { id: number; name: string; audience: Audience }[];
  /** Whom this person wrote to lately, the latest first, each once. */
  recent: { words: string; audience: Audience }[];
}
