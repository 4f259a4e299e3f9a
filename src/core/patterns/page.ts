import type { Blank, PatternKind } from './pattern.ts';

/** A pattern as it is listed. */
export interface PatternLine {
  id: number;
  name: string;
  about: string;
  /** How many parts of each kind it has. */
  holds: Partial<Record<PatternKind, number>>;
  places: number;
  /** Places that have not all its changes. */
  behind: number;
}

/** A part in words. */
export interface PartLine {
  key: string;
  kind: PatternKind;
  name: string;
  says: string[];
}

/** What is asked for, with what it is in the pattern in words. */
export interface BlankLine extends Blank {
  words: string;
}

/** What belongs to a place, as it can be kept as a pattern. */
export interface PlaceLook {
  board: { id: number; name: string };
  /** Whether each is kept unless somebody chooses otherwise. */
  parts: (PartLine & { kept: boolean })[];
  blanks: (BlankLine & { asked: boolean })[];
}

export interface PatternPage {
  id: number;
  name: string;
  about: string;
  number: number;
  called: string;
  from: { id: number; name: string } | null;
  savedMs: number;
  savedBy: string;
  parts: PartLine[];
  /** What it asks for when a place is made. */
  blanks: BlankLine[];
  places: PlaceLine[];
  stations: { id: number; name: string; zone: string }[];
}

export interface PlaceLine {
  id: number;
  name: string;
  madeMs: number;
  madeBy: string;
  /** Whether the pattern has changed since it took its changes. */
  behind: boolean;
}

/** A part that would be made: what it would say, and what keeps it from being made. */
export interface PlannedPart extends PartLine {
  problem: string | null;
}

export interface PlannedPlace {
  parts: PlannedPart[];
  /** What is wrong with what was answered, by field. */
  errors: { field: string; detail: string }[];
}

/** What a changed pattern offers a place that was made from it. */
export interface Offer {
  key: string;
  kind: PatternKind;
  name: string;
  /** Not made here yet; made and said otherwise since; or no longer of the pattern, and left as it is. */
  state: 'new' | 'changed' | 'gone';
  /** What would be otherwise, in words. */
  says: string[];
  /** What of it somebody has changed here, and would be written over. */
  here: string[];
}

export interface PlacePage {
  id: number;
  name: string;
  pattern: { id: number; name: string; number: number };
  madeMs: number;
  madeBy: string;
  parts: { key: string; kind: PatternKind; name: string; path: string | null }[];
  offers: Offer[];
  /** What keeps all of it from being taken back, in words; empty where nothing does. */
  inTheWay: string[];
}
