import type { AskKind } from '../asks/askWords.ts';
import type { Importance } from '../content/announcement.ts';

/** One announcement that went out in a month, with whom it reached. */
export interface ToldRow {
  occurrenceId: number;
  title: string;
  atMs: number;
  sender: string;
  whom: string;
  series: string | null;
  importance: Importance;
  asks: AskKind;
  /** Whether an automation or a way in said it. */
  byItself: boolean;
  reached: number;
  read: number;
  asked: number;
  answered: number;
  /** How long it takes one person to read, in seconds. */
  seconds: number;
}

/** Several announcements taken together. */
export interface ToldSum {
  name: string;
  announcements: number;
  reached: number;
  read: number;
  asked: number;
  answered: number;
  hours: number;
}

export interface ToldMonth {
  /** YYYY-MM. */
  month: string;
  all: ToldSum;
  groups: ToldSum[];
  senders: ToldSum[];
  kinds: ToldSum[];
  /** Series by how much of them is opened, the least first. */
  series: ToldSum[];
  /** Who was told most, with how many things. */
  people: { id: number; name: string; n: number }[];
  /** Whether there were more than are counted here. */
  cut: boolean;
}

const kindOf = (row: ToldRow): string =>
  [
    row.importance,
    row.asks === 'nothing' ? 'to be read' : row.asks === 'acknowledgement' ? 'acknowledgement' : row.asks,
    row.byItself ? 'by itself' : '',
  ]
    .filter(Boolean)
    .join(', ');

function summed(name: string, rows: readonly ToldRow[]): ToldSum {
  const sum = (of: (row: ToldRow) => number): number => rows.reduce((total, row) => total + of(row), 0);
  return {
    name,
    announcements: rows.length,
    reached: sum((row) => row.reached),
    read: sum((row) => row.read),
    asked: sum((row) => row.asked),
    answered: sum((row) => row.answered),
    hours: sum((row) => row.reached * row.seconds) / 3600,
  };
}

function by(rows: readonly ToldRow[], nameOf: (row: ToldRow) => string | null): ToldSum[] {
  const parts = new Map<string, ToldRow[]>();
  for (const row of rows) {
    const name = nameOf(row);
    if (name !== null) parts.set(name, [...(parts.get(name) ?? []), row]);
  }
  return [...parts]
    .map(([name, part]) => summed(name, part))
    .sort((a, b) => b.reached - a.reached || a.name.localeCompare(b.name));
}

/** How much of what reached somebody was opened, 0 to 1. */
export const openedShare = (sum: Pick<ToldSum, 'reached' | 'read'>): number =>
  sum.reached === 0 ? 0 : sum.read / sum.reached;

/** What an organisation was told in a month, from each announcement. */
export function monthOf(
  month: string,
  rows: readonly ToldRow[],
  people: ToldMonth['people'],
  cut: boolean,
): ToldMonth {
  return {
    month,
    all: summed('All', rows),
    groups: by(rows, (row) => row.whom),
    senders: by(rows, (row) => row.sender),
    kinds: by(rows, kindOf),
    series: by(rows, (row) => row.series).sort((a, b) => openedShare(a) - openedShare(b)),
    people,
    cut,
  };
}
