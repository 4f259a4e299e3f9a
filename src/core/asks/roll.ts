/** Which part of a roll is asked for. */
export const ROLL_PARTS = ['all', 'answered', 'waiting'] as const;
export type RollPart = (typeof ROLL_PARTS)[number];

export interface Tally {
  asked: number;
  answered: number;
}

/** One group's part of the roll. A person in two groups counts in each, so rows need not add up to the whole. */
export interface GroupTally extends Tally {
  name: string;
}

/** How full a roll is, 0 to 1; an empty roll is not full. */
export function filled(tally: Tally): number {
  return tally.asked === 0 ? 0 : tally.answered / tally.asked;
}

/** "34 of 46 have acknowledged" and what remains. */
export function tallyWords(tally: Tally): string {
  if (tally.asked === 0) return 'Nobody has been asked yet';
  if (tally.answered === tally.asked)
    return tally.asked === 1
      ? 'The one person asked has acknowledged'
      : `All ${tally.asked.toLocaleString('en-GB')} have acknowledged`;
  return `${tally.answered.toLocaleString('en-GB')} of ${tally.asked.toLocaleString('en-GB')} have acknowledged`;
}

/** Groups with the least answered first: where a chase is worth most. */
export function byNeed(rows: readonly GroupTally[]): GroupTally[] {
  return [...rows].sort((a, b) => filled(a) - filled(b) || b.asked - a.asked || a.name.localeCompare(b.name));
}

/** A roll as a whole and by group. Instants are milliseconds since 1970. */
export interface Roll {
  occurrenceId: number;
  title: string;
  dueMs: number;
  deadlineMs: number | null;
  tally: Tally;
  stations: GroupTally[];
  /** The groups the send was addressed to. */
  groups: GroupTally[];
}

export interface RollPerson {
  personId: number;
  name: string;
  station: string | null;
  mail: string | null;
  left: boolean;
  answeredMs: number | null;
  via: 'page' | 'mail' | null;
}

export interface RollListing {
  people: RollPerson[];
  next: { name: string; id: number } | null;
}

export interface AskListing {
  occurrenceId: number;
  title: string;
  createdBy: number;
  state: string;
  dueMs: number;
  deadlineMs: number | null;
  tally: Tally;
}
