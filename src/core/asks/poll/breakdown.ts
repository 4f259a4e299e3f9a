import type { Tally } from '../roll.ts';

/** One group's part of what came of a poll: how many of it chose each option. */
export interface GroupCount extends Tally {
  name: string;
  counts: { id: number; n: number }[];
}

export interface Breakdown {
  rows: GroupCount[];
  /** How many groups are put together in the last row because few of them answered; 0 where none is. */
  together: number;
}

/** Fewest answers of a group whose part of an anonymous poll is shown. */
export const LEAST_SHOWN = 5;

/**
 * What is shown by group. Of an anonymous poll a group with fewer than five answers is not shown by itself; such groups
 * are put together, and where that alone is too few, the next smallest goes with them, so that nothing can be found by
 * taking the groups that are shown from the whole. Where even all are too few, nothing is shown.
 *
 * The rows must not overlap: each answer counts in one of them.
 */
export function breakdownOf(rows: readonly GroupCount[], anonymous: boolean): Breakdown {
  const found = [...rows].sort((a, b) => b.answered - a.answered || (a.name < b.name ? -1 : 1));
  if (!anonymous) return { rows: found, together: 0 };
  const shown = found.filter((row) => row.answered >= LEAST_SHOWN);
  const few = found.filter((row) => row.answered < LEAST_SHOWN);
  const answered = (some: readonly GroupCount[]): number => some.reduce((sum, row) => sum + row.answered, 0);
  while (few.length > 0 && answered(few) > 0 && answered(few) < LEAST_SHOWN && shown.length > 0) {
    const next = shown.pop();
    if (next) few.push(next);
  }
  if (answered(few) < LEAST_SHOWN) return { rows: shown, together: 0 };
  const sums = new Map<number, number>();
  for (const row of few) for (const { id, n } of row.counts) sums.set(id, (sums.get(id) ?? 0) + n);
  return {
    rows: [
      ...shown,
      {
        name: 'Smaller groups together',
        asked: few.reduce((sum, row) => sum + row.asked, 0),
        answered: answered(few),
        counts: [...sums].map(([id, n]) => ({ id, n })).sort((a, b) => a.id - b.id),
      },
    ],
    together: few.length,
  };
}
