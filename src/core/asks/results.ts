import type { Breakdown } from './poll/breakdown.ts';
import type { Outcome } from './poll/count/outcome.ts';
import type { PollKind } from './poll/pollKinds.ts';
import type { Tally } from './roll.ts';

/** What came of a poll as the desk sees it. */
export interface PollResults {
  question: string;
  kind: PollKind;
  scale: number;
  anonymous: boolean;
  /** Whether whoever looks may see who chose what. */
  named: boolean;
  options: { id: number; words: string; addedBy: string | null }[];
  outcome: Outcome | null;
  /** Why there is no outcome to see, or null where there is. */
  hidden: string | null;
  /** In one sentence; null where there is no outcome to see. */
  words: string | null;
  /** By station; null of orders and texts, which are not counted by option. */
  breakdown: Breakdown | null;
  /** Whether options can still be added. */
  mayAdd: boolean;
}

/** An earlier asking of the same: of the same send, or of its series. */
export interface Before extends Tally {
  occurrenceId: number;
  title: string;
  dueMs: number;
  /** How many had answered when as much time had passed as now. */
  answeredByThen: number;
}

/** What an ask has come to besides its roll. */
export interface Results {
  poll: PollResults | null;
  before: Before | null;
  /** When it began to ask; until then nobody had answered. */
  beganMs: number;
  /** The instants at which the curve's axis is marked, by the clock of whoever looks. */
  marks: number[];
  /** How many had answered in all, at the end of each period since it went out. */
  curve: { atMs: number; answered: number; before: number | null }[];
}

/** Who chose what in a named poll, by name. */
export interface BallotsPage {
  ballots: { personId: number; name: string; station: string | null; words: string }[];
  next: { name: string; id: number } | null;
}
