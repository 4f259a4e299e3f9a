import type { Problem } from '../content/announcement.ts';
import type { Change } from '../content/change.ts';
import type { Automation, AutomationState } from './automation.ts';
import type { RunLine } from './run.ts';

/** A version of an automation that was put to work. */
export interface AutomationVersion {
  automation: Automation;
  /** From the version before it to this one. */
  since: Change[];
  /** From this one to what is written now. */
  until: Change[];
  /** Whether what is written now is this version, also in what is not told in words. */
  same: boolean;
}

/** An automation as its page shows it. Instants are milliseconds since 1970. */
export interface AutomationPage {
  id: number;
  automation: Automation;
  revision: number;
  state: AutomationState;
  whyPaused: string | null;
  owner: string;
  isOwner: boolean;
  /** Whether whoever looks at it says who else may change it, and deletes it. */
  isTheirs: boolean;
  /** Who may change it beside its owner and coordinators. */
  people: { id: number; name: string }[];
  /** Whether it was ever published, by which version it runs, and whether what is written differs from that. */
  live: boolean;
  liveNumber: number | null;
  changed: boolean;
  nextMs: number | null;
  problems: Problem[];
  versions: { number: number; by: string; atMs: number; title: string }[];
  runs: RunLine[];
}
