import type { AskKind } from '../asks/askWords.ts';
import type { Tally } from '../asks/roll.ts';
import type { ShownEvent } from '../content/shownEvent.ts';
import type { Importance } from '../content/announcement.ts';
import type { PlaceReached } from '../gateways/hookOut.ts';
import type { DeliveryState, Method, OccurrenceState } from '../delivery/states.ts';

/** One going-out as a line of the run sheet. Instants are milliseconds since 1970. */
export interface RunSheetRow {
  occurrenceId: number;
  announcementId: number;
  title: string;
  importance: Importance;
  state: OccurrenceState;
  sendId: number;
  kind: 'send' | 'test' | 'correction' | 'chase';
  /** Of a chase: the occurrence whose roll it follows up. */
  chases: number | null;
  /** What it asks for; of a chase, what was asked. */
  asks: AskKind;
  /** Of what recurs: whether it goes on, the wall-clock time its rule gave, and whether it was set to another. */
  recurs: { state: 'active' | 'paused' | 'ended'; at: string; moved: boolean } | null;
  /** Whether it goes by each reader's clock. */
  local: boolean;
  /** The first and the last instant at which it is due. */
  dueMs: number;
  endsMs: number;
  correctedMs: number | null;
  correction: string | null;
  /** Since when it is withdrawn, and what its readers are told instead. */
  withdrawn: { atMs: number; note: string } | null;
  sentMs: number | null;
  deadlineMs: number | null;
  author: string;
  /** The audience in words, and the names of the boards. */
  whom: string;
  boards: string[];
  /** Of what goes by readers' clocks: the wall-clock time it is set to. */
  localWall: string | null;
  /** Whether it can be set to another time. */
  movable: boolean;
  /** Of what recurs and lies too far ahead to be planned yet: computed from its rule. `occurrenceId` is then below 0. */
  projectedFrom: number | null;
  /** Of what an automation will do by a clock or a date: which. What it will say is known only then. */
  automationId: number | null;
  /** The plan in words. */
  sentence: string;
  /** The same without when. */
  brief: string;
  /** Why none of it could go out. */
  failure: string | null;
  inbox: number;
  mailed: number;
  /** Outside places that have it. */
  outside: number;
  waiting: number;
  /** In inboxes, until the end of quiet hours. */
  resting: number;
  /** Mail that failed, and outside places at which it was given up. */
  failed: number;
  worstLateMs: number | null;
  roll: Tally | null;
}

/** After so long past its time what has not gone is late, in milliseconds. */
const OVERDUE_MS = 60_000;

/** Whether something should have gone and has not: it is past its time and not paused, or none of it could go. */
export const isOverdue = (
  row: Pick<RunSheetRow, 'state' | 'dueMs' | 'recurs' | 'projectedFrom' | 'automationId'>,
  nowMs: number,
): boolean =>
  row.state === 'failed' ||
  (row.state === 'scheduled' &&
    row.projectedFrom === null &&
    row.automationId === null &&
    row.recurs?.state !== 'paused' &&
    row.dueMs < nowMs - OVERDUE_MS);

/** The address of the page that shows a line of the run sheet. */
export const rowAddress = (
  row: Pick<RunSheetRow, 'automationId' | 'projectedFrom' | 'occurrenceId'>,
): string =>
  row.automationId === null
    ? `/sends/${row.projectedFrom ?? row.occurrenceId}`
    : `/automations/${row.automationId}`;

export interface DeliveryCount {
  method: Method;
  state: DeliveryState;
  n: number;
  late: number;
  worstLateMs: number | null;
}

/** One of what recurs that is still to come. Instants are milliseconds since 1970. */
export interface ComingLine {
  /** Null where it is computed from the rule and not written yet. */
  occurrenceId: number | null;
  /** The wall-clock time its rule gave. */
  recursAt: string;
  dueMs: number;
  endsMs: number;
  /** Of what goes by readers' clocks: the wall-clock time it is set to; otherwise null. */
  localWall: string | null;
  skipped: boolean;
  moved: boolean;
}

/** A mail that failed or keeps being tried. */
export interface Trouble {
  personId: number;
  name: string;
  mail: string | null;
  state: DeliveryState;
  attempts: number;
  reason: string | null;
  tryMs: number | null;
}

export interface SendPage {
  row: RunSheetRow;
  byline: string;
  html: string;
  event: ShownEvent | null;
  /** Of what goes by readers' clocks: each zone with when it is due and whether it has gone. */
  buckets: { zone: string; dueMs: number; state: string; pastHour: string }[];
  button: { label: string; url: string } | null;
  counts: DeliveryCount[];
  /** Mail of it that waits to come together with other mail of the same reader, and when the first and the last of it go. */
  gathered: { people: number; firstMs: number; lastMs: number } | null;
  troubles: Trouble[];
  /** Where it stands on boards. */
  posts: { id: number; board: string; part: number; parts: number; state: string }[];
  /** What became of it at outside places. */
  outside: PlaceReached[];
  /** What is to be told of an hour that does not exist or comes twice. */
  clockNote: string | null;
}
