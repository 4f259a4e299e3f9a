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

export interface EngineHealth {
  /** How many engines have been heard of in the last seconds. */
  running: number;
  /** Why mail is not being handed over just now. */
  mailPaused: string | null;
}

/** The desk at a glance: today, the days around it, and what needs somebody. */
export interface Desk {
  nowMs: number;
  zone: string;
  today: Day;
  /** What goes out from a week back to a fortnight ahead, in order of time. */
  rows: RunSheetRow[];
  needs: Need[];
  engine: EngineHealth;
  drafts: { id: number; title: string; savedMs: number; savedBy: string }[];
}

/** Today in one person's zone with every going-out where it stands. */
export interface Ribbon {
  nowMs: number;
  zone: string;
  today: Day;
  marks: Pick<RunSheetRow, 'occurrenceId' | 'title' | 'state' | 'dueMs'>[];
}
