import type { LaneBy } from '../../core/desk/runSheetView.ts';
import type { RunSheetRow } from '../../core/sends/send.ts';
import { dayAround, type Day } from '../../core/timing/day.ts';

/** Marks nearer than this share of the axis stand one below the other. */
const NEAR = 0.022;
/** What a mark takes with its words, as a share of the axis. */
const LABELLED = 0.22;
/** How wide the axis is in units of its own, for what is drawn over all of it at once. */
export const AXIS = 1000;

export const lanesOf = (row: RunSheetRow, by: LaneBy): string[] => {
  if (by === 'author') return [row.author];
  if (by === 'board') return row.boards.length > 0 ? row.boards : ['On no board'];
  return [row.whom || 'Boards only'];
};

/** What goes out by its lanes, the fullest first. */
export function byLane(rows: readonly RunSheetRow[], by: LaneBy): [string, RunSheetRow[]][] {
  const found = new Map<string, RunSheetRow[]>();
  for (const row of rows)
    for (const lane of lanesOf(row, by)) found.set(lane, [...(found.get(lane) ?? []), row]);
  return [...found].sort(([, a], [, b]) => b.length - a.length);
}

/** The days of a period, each with its hours. */
export function daysOf(fromMs: number, count: number, zone: string): Day[] {
  const days: Day[] = [];
  for (let day = dayAround(fromMs, zone); days.length < count; day = dayAround(day.endMs + 1, zone))
    days.push(day);
  return days;
}

/** A mark on the axis. */
export interface Placed {
  row: RunSheetRow;
  level: number;
  /** Whether its words stand before it, since there is no room behind it. */
  before: boolean;
}

/** Puts marks that would touch on levels of their own. */
export function placed(
  rows: RunSheetRow[],
  fromMs: number,
  toMs: number,
  labelled: boolean,
): { marks: Placed[]; levels: number } {
  const levels: { start: number; end: number }[][] = [];
  const room = labelled ? LABELLED : NEAR;
  const marks = [...rows]
    .sort((a, b) => a.dueMs - b.dueMs)
    .map((row) => {
      const start = (row.dueMs - fromMs) / (toMs - fromMs);
      const before = labelled && start + room > 1;
      const taken = {
        start: before ? start - room : start,
        end: Math.max((row.endsMs - fromMs) / (toMs - fromMs), before ? start + NEAR : start + room) + 0.004,
      };
      let level = levels.findIndex((list) =>
        list.every((other) => other.end <= taken.start || other.start >= taken.end),
      );
      if (level === -1) level = levels.push([]) - 1;
      levels[level]?.push(taken);
      return { row, level, before };
    });
  return { marks, levels: Math.max(1, levels.length) };
}

/** A period of time as an axis: where an instant is on it. */
export interface Span {
  fromMs: number;
  toMs: number;
  nowMs: number;
  /** The place of an instant, as a share of the axis in percent. */
  at: (ms: number) => string;
  /** The nearest instant of the period. */
  clip: (ms: number) => number;
}
export const spanOf = (fromMs: number, toMs: number, nowMs: number): Span => ({
  fromMs,
  toMs,
  nowMs,
  at: (ms) => `${((100 * (ms - fromMs)) / (toMs - fromMs)).toFixed(3)}%`,
  clip: (ms) => Math.min(toMs, Math.max(fromMs, ms)),
});

/** The lines down a lane: each hour of a day, or each day of more. */
export function rulesOf(
  days: readonly Day[],
  fromMs: number,
  toMs: number,
): { strong: string; faint: string } {
  const ofDays = days.length === 1 ? (days[0]?.hours ?? []).map((hour) => hour.epochMs) : null;
  const instants = ofDays ?? days.map((day) => day.startMs);
  const down = (strong: boolean): string =>
    instants
      .filter((_, i) => strong === (!ofDays || i % 3 === 0))
      .map((ms) => `M${((AXIS * (ms - fromMs)) / (toMs - fromMs)).toFixed(2)} 0V1`)
      .join('');
  return { strong: down(true), faint: down(false) };
}
