import type { Votes } from '../ballot.ts';

export interface Points {
  id: number;
  points: number;
}

export const BORDA_TIES = 'Where several have the most points, the one that stands first in the list wins.';

/**
 * Counts orders of options by points: of n options the first on a ballot gets n − 1, the second n − 2, and so on.
 * Options a ballot does not name share what is left evenly, so that every ballot gives the same number of points.
 *
 * @returns the options with their points, the most first; equal ones in the order of the list
 * @see J.-C. de Borda, Mémoire sur les élections au scrutin, 1781
 */
export function borda(ids: readonly number[], ballots: readonly Votes<readonly number[]>[]): Points[] {
  const points = new Map(ids.map((id) => [id, 0]));
  const give = (id: number, some: number): Map<number, number> =>
    points.set(id, (points.get(id) ?? 0) + some);
  for (const { vote, n } of ballots) {
    vote.forEach((id, place) => give(id, (ids.length - 1 - place) * n));
    const rest = ids.filter((id) => !vote.includes(id));
    for (const id of rest) give(id, ((rest.length - 1) / 2) * n);
  }
  return ids
    .map((id) => ({ id, points: points.get(id) ?? 0 }))
    .sort((a, b) => b.points - a.points || ids.indexOf(a.id) - ids.indexOf(b.id));
}
