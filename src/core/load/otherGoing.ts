import type { Audience } from '../audience/expression.ts';
import type { Bundleable } from '../bundling/bundling.ts';
import type { OccurrenceState } from '../delivery/states.ts';
import type { Due } from './clash.ts';

/**
 * What goes out to people beside something else, or will: an occurrence, or what an automation says when a clock sets it off, as far
 * as its conditions hold then. Of an automation the numbers are negative, as on the run sheet.
 */
export interface OtherGoing {
  id: number;
  /** Those of one send, or of one automation, do not clash with each other. */
  sendId: number;
  title: string;
  /** Whose it is. */
  ownerId: number;
  state: OccurrenceState;
  /** The first and last instant at which it reaches somebody. */
  dueMs: number;
  endsMs: number;
  audience: Audience;
  dues: Due[];
  /** What decides whether it may wait and come with others. */
  what: () => Promise<Bundleable>;
}
