import type { Tally } from '../asks/roll.ts';
import type { Importance } from '../content/announcement.ts';
import type { DeliveryState, Method, SendState } from '../delivery/states.ts';

/** One going-out as a line of the run sheet. Instants are milliseconds since 1970. */
export interface RunSheetRow {
  occurrenceId: number;
  announcementId: number;
  title: string;
  importance: Importance;
  state: Exclude<SendState, 'draft'>;
  dueMs: number;
  sentMs: number | null;
  deadlineMs: number | null;
  author: string;
  /** The plan in words. */
  sentence: string;
  /** The same without when. */
  brief: string;
  /** Why none of it could go out. */
  failure: string | null;
  inbox: number;
  mailed: number;
  waiting: number;
  failed: number;
  worstLateMs: number | null;
  roll: Tally | null;
}

export interface DeliveryCount {
  method: Method;
  state: DeliveryState;
  n: number;
  late: number;
  worstLateMs: number | null;
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
  button: { label: string; url: string } | null;
  counts: DeliveryCount[];
  troubles: Trouble[];
  /** What is to be told of an hour that does not exist or comes twice. */
  clockNote: string | null;
}
