import { doneWords, type AskingKind } from './askWords.ts';

/** Which part of a roll is asked for; opened: have opened it and not answered. */
export const ROLL_PARTS = ['all', 'answered', 'opened', 'waiting'] as const;
export type RollPart = (typeof ROLL_PARTS)[number];

export interface Tally {
  asked: number;
  answered: number;
}

/** One group's part of the roll. A person in two groups counts in each, so rows need not add up to the whole. */
export interface GroupTally extends Tally {
  name: string;
  /** Have opened it and not answered. */
  opened: number;
}

/** How full a roll is, 0 to 1; an empty roll is not full. */
export function filled(tally: Tally): number {
  return tally.asked === 0 ? 0 : tally.answered / tally.asked;
}

/** "34 of 46 have acknowledged", by what is asked of them. */
export function tallyWords(tally: Tally, kind: AskingKind): string {
  const done = doneWords(kind);
  if (tally.asked === 0) return 'Nobody has been asked yet';
  if (tally.answered === tally.asked)
    return tally.asked === 1
      ? `The one person asked has ${done}`
      : `All ${tally.asked.toLocaleString('en-GB')} have ${done}`;
  return `${tally.answered.toLocaleString('en-GB')} of ${tally.asked.toLocaleString('en-GB')} have ${done}`;
}

/** Groups with the least answered first: where a chase is worth most. */
export function byNeed(rows: readonly GroupTally[]): GroupTally[] {
  return [...rows].sort((a, b) => filled(a) - filled(b) || b.asked - a.asked || a.name.localeCompare(b.name));
}

/** One chase of an ask, planned or gone. */
export interface ChaseLine {
  occurrenceId: number;
  dueMs: number;
  state: string;
  reached: number;
  failure: string | null;
}

/** A roll as a whole and by group. Instants are milliseconds since 1970. */
export interface Roll {
  occurrenceId: number;
  kind: AskingKind;
  title: string;
  dueMs: number;
  deadlineMs: number | null;
  closedMs: number | null;
  /** How it was closed, in words; null while it is open. */
  closedWords: string | null;
  statement: string;
  tally: Tally;
  opened: number;
  stations: GroupTally[];
  /** The groups the send was addressed to, or those of the group owner who looks. */
  groups: GroupTally[];
  /** Of the audience now: not asked, because they joined it since. */
  joinedSince: number;
  /** Have answered and are in the audience no more. */
  goneSince: number;
  /** How many had acknowledged an earlier text. */
  earlier: number;
  chases: ChaseLine[];
  listMs: number | null;
  /** Since when only the counts are known, and nobody's answer; null where it is. */
  forgottenMs: number | null;
  /** The names of the groups whose owner looks, where they see only those; null where they see all. */
  onlyOf: string[] | null;
  /** Why nobody is shown by name, or null where they are. */
  namesHidden: string | null;
  /** Whether who looks may close it and chase. */
  mayAct: boolean;
  /** Whether who looks may make a group of those listed. */
  mayMakeGroups: boolean;
}

export interface RollPerson {
  personId: number;
  name: string;
  station: string | null;
  mail: string | null;
  left: boolean;
  /** In the audience no more, though still here. */
  gone: boolean;
  openedMs: number | null;
  answered: boolean;
  /** When; null where they have not, or voted without their name. */
  answeredMs: number | null;
  earlierMs: number | null;
  via: 'page' | 'mail' | 'push' | null;
}

export interface RollListing {
  people: RollPerson[];
  next: { name: string; id: number } | null;
}

export interface AskListing {
  occurrenceId: number;
  kind: AskingKind;
  title: string;
  createdBy: number;
  author: string;
  state: string;
  dueMs: number;
  deadlineMs: number | null;
  closedMs: number | null;
  tally: Tally;
}

/** Whether an ask still waits for answers: not closed, and its deadline not passed. */
export const stillOpen = (ask: Pick<AskListing, 'closedMs' | 'deadlineMs'>, nowMs: number): boolean =>
  ask.closedMs === null && (ask.deadlineMs === null || ask.deadlineMs > nowMs);
