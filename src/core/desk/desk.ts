import type { AutomationsLately } from './lately.ts';
import type { ConsumerName } from '../events/consumer.ts';
import type { AskingKind } from '../asks/askWords.ts';
import type { Tally } from '../asks/roll.ts';
import type { RunSheetRow } from '../sends/send.ts';
import type { Day } from '../timing/day.ts';

/** Mail of a send that failed or is waiting for its server. */
export interface Need {
  occurrenceId: number;
  title: string;
  createdBy: number;
  state: 'waiting' | 'failed';
  n: number;
  reason: string | null;
  tryMs: number | null;
}

/** Work of the engine that failed by an error and is set aside: tried again by itself, or given up until somebody has it tried. */
export interface Aside {
  kind: 'closing' | 'list' | 'joiners' | 'planning' | 'sending' | 'notice' | ConsumerName;
  subjectId: number;
  /** The send it belongs to and its title, where it belongs to one. */
  occurrenceId: number | null;
  title: string | null;
  reason: string;
  attempts: number;
  /** When it is tried again; null where it was given up. */
  tryMs: number | null;
}

/** What each kind of set-aside work is, after "could not be". */
export const ASIDE_WORDS: Record<Aside['kind'], string> = {
  closing: 'closed with its outcome',
  list: 'listed to the owners of groups',
  joiners: 'asked of those who joined since',
  planning: 'planned ahead',
  sending: 'sent',
  notice: 'told as a notice',
  finding: 'taken into the search',
  telling: 'told to those who want to know',
  acting: 'handed to automations',
  passing: 'passed on to outside systems',
};

export interface EngineHealth {
  /** How many engines have been heard of in the last seconds. */
  running: number;
  /** Why mail is not being handed over just now. */
  mailPaused: string | null;
}

/** Something outside that does not answer, or that there is no backup, with where to see to it. */
export interface OutsideTrouble {
  path: string;
  name: string;
  why: string;
}

/** The desk at a glance: today, the days around it, and what needs somebody. */
export interface Desk {
  nowMs: number;
  zone: string;
  today: Day;
  /** What goes out from a week back to a fortnight ahead, in order of time. */
  rows: RunSheetRow[];
  /** Of which period `rows` are. */
  covers: { fromMs: number; toMs: number };
  needs: Need[];
  engine: EngineHealth;
  aside: Aside[];
  drafts: { id: number; title: string; savedMs: number; savedBy: string }[];
  /** Drafts that wait for this person's clearance. */
  reviews: { id: number; title: string; by: string; sinceMs: number }[];
  /** Drafts on which this person is called by name. */
  calls: { announcementId: number; author: string; text: string }[];
  /** Asks whose deadline is near and whose roll is far from full. */
  behind: { occurrenceId: number; kind: AskingKind; title: string; deadlineMs: number; tally: Tally }[];
  /** What is planned and would reach nobody, or names a group that is gone. */
  hollow: { occurrenceId: number; title: string; why: string }[];
  /** Boards on which something waits for this person: held posts and reports. */
  boards: { id: number; name: string; waiting: number }[];
  /** Pinned so long that somebody should look whether it still holds. */
  stale: { postId: number; title: string; board: string; pinnedMs: number }[];
  /** Questions nothing on the shelf answered; for coordinators. */
  questions: number;
  /** What outside does not answer, and where there is no backup; for coordinators. */
  outside: OutsideTrouble[];
  /** What automations did since the evening before, where they did anything. */
  lately: AutomationsLately | null;
  /** The zones the run sheet can be read in, besides one's own. */
  stations: { name: string; zone: string }[];
}

/** Two goings-out that reach some of the same people soon after each other. */
export interface Clash {
  a: number;
  b: number;
  people: number;
}

/** How much people are sent on a day: the most anybody gets, and how many get more than is good for them. */
export interface DayLoad {
  startMs: number;
  most: number;
  over: number;
}

/** What of a period of the run sheet takes longer to find out. */
export interface Strain {
  clashes: Clash[];
  days: DayLoad[];
}

/** More things than this a day, and people begin to mute. */
export const MUCH_A_DAY = 3;
/** Closer together than this is a clash. */
export const CLASH_MS = 2 * 3_600_000;

/** Today in one person's zone with every going-out where it stands. */
export interface Ribbon {
  nowMs: number;
  zone: string;
  today: Day;
  marks: Pick<RunSheetRow, 'occurrenceId' | 'title' | 'state' | 'dueMs' | 'endsMs'>[];
}
