import { z } from 'zod';
import { count, list, people } from '../words.ts';
import { DECISIONS_ON_CLASH, type Change, type ClashDecision, type OutcomeKind } from './comparing.ts';
import { MOST_ROWS } from './reading.ts';
import { rawRecordSchema } from './record.ts';

/** Most rows sent to the server at once. */
export const ROWS_AT_ONCE = 1_000;
/** How long an import can be undone, in hours. */
export const UNDO_HOURS = 24;

export const newImportSchema = z.object({
  fileName: z.string().trim().min(1).max(200),
  /** What each heading of the file was matched with, for the next file with the same headings. */
  columns: z.record(z.string().max(200), z.string().max(80)),
  dateOrder: z.enum(['day first', 'month first']),
});

export const importRowsSchema = z.object({
  rows: z.array(rawRecordSchema).min(1).max(ROWS_AT_ONCE, `Send at most ${ROWS_AT_ONCE} rows at once`),
});

export const importChangeSchema = z.object({
  /** Whether those who are here and not in the file are marked as left. */
  marksLeft: z.boolean(),
});

export const clashDecisionSchema = z.object({
  decision: z.enum(DECISIONS_ON_CLASH),
  /** Whether it is decided so about every clash of which this can be said. */
  all: z.boolean().default(false),
});

/** What was agreed to: an import that comes to something else meanwhile is shown again first. */
export const applySchema = z.object({ digest: z.string().max(64) });

/** Where an import stands: rows arrive, it was compared, it was brought in, it was taken back. */
export type ImportState = 'open' | 'compared' | 'applied' | 'undone';

/** An import as a whole. Instants in milliseconds since 1970. */
export interface ImportSummary {
  id: number;
  fileName: string;
  by: string;
  madeMs: number;
  state: ImportState;
  rows: number;
  counts: Record<OutcomeKind, number>;
  /** How many are here and not in the file, whether they are marked as left or not. */
  missing: number;
  marksLeft: boolean;
  /** Stations that are in the file and not here yet. */
  newStations: string[];
  /** Stands for all that it would do. */
  digest: string;
  appliedMs: number | null;
  undoneMs: number | null;
  /** Until when it can be undone; null where it cannot. */
  undoUntilMs: number | null;
}

/** A row and what it comes to. */
export interface ImportLine {
  line: number;
  kind: OutcomeKind;
  name: string;
  /** The rest of what it says, in words. */
  detail: string;
  personId: number | null;
  changes: Change[];
  why: string;
  choices: ClashDecision[];
  decision: ClashDecision | null;
}

export interface ImportLines {
  lines: ImportLine[];
  /** The line after which the next page begins, or null at the end. */
  next: number | null;
}

export interface UndoOutcome {
  removed: number;
  markedLeft: number;
  restored: number;
  /** Were changed again since and are left as they are now. */
  kept: number;
}

export const OUTCOME_TITLES: Record<OutcomeKind, string> = {
  new: 'New',
  changed: 'Changed',
  returns: 'Come back',
  same: 'As they are',
  clash: 'Clash',
  wrong: 'Cannot be used',
};

/** What bringing it in would do, as the end of "Bring in the list: …". */
export function importWords(summary: Pick<ImportSummary, 'counts' | 'missing' | 'marksLeft'>): string {
  const { counts } = summary;
  const parts = [
    counts.new > 0 ? `add ${people(counts.new)}` : '',
    counts.changed > 0 ? `change ${counts.changed.toLocaleString('en-GB')}` : '',
    counts.returns > 0 ? `bring back ${counts.returns.toLocaleString('en-GB')}` : '',
    summary.marksLeft && summary.missing > 0 ? `mark ${summary.missing.toLocaleString('en-GB')} as left` : '',
  ].filter(Boolean);
  return parts.length === 0 ? 'change nothing' : list(parts, 'and');
}

/**
 * Why nobody can be marked as left by a list, or null where they can: whoever a row is about that cannot be used or whose it
 * is is not clear would seem not to be in it.
 */
export function leavingProblem({
  clash,
  wrong,
}: Pick<Record<OutcomeKind, number>, 'clash' | 'wrong'>): string | null {
  const unclear = clash + wrong;
  if (unclear === 0) return null;
  return `${count(unclear, 'row clashes or cannot', 'rows clash or cannot')} be used, and whoever ${unclear === 1 ? 'it is' : 'they are'} about would be taken for missing. Mend the file first; then those who are not in it can be marked as left.`;
}

/** Whether bringing it in would do anything. */
export const doesAnything = ({ counts, missing, marksLeft }: ImportSummary): boolean =>
  counts.new + counts.changed + counts.returns + (marksLeft ? missing : 0) > 0;

export function undoWords(outcome: UndoOutcome): string {
  return [
    outcome.removed > 0
      ? `${people(outcome.removed)} added by it ${outcome.removed === 1 ? 'is' : 'are'} gone.`
      : '',
    outcome.markedLeft > 0
      ? `${people(outcome.markedLeft)} who had already been reached ${outcome.markedLeft === 1 ? 'is' : 'are'} marked as left.`
      : '',
    outcome.restored > 0
      ? `${people(outcome.restored)} ${outcome.restored === 1 ? 'is' : 'are'} as before.`
      : '',
    outcome.kept > 0
      ? `${count(outcome.kept, 'change', 'changes')} made since by others stay${outcome.kept === 1 ? 's' : ''}.`
      : '',
  ]
    .filter(Boolean)
    .join(' ');
}

export const tooManyRows = `At most ${MOST_ROWS.toLocaleString('en-GB')} rows can be brought in at once. Split the file.`;
