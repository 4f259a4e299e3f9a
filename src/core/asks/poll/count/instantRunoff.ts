import type { Votes } from '../ballot.ts';

/** One round: the first places each option that is still in has, and which goes out after it. */
export interface Round {
  firsts: { id: number; n: number }[];
  /** Ballots that name no option that is still in. */
  spent: number;
  out: number | null;
  /** Whether several had the fewest, and the rule for ties chose which goes out. */
  tied: boolean;
}

export interface RunoffResult {
  rounds: Round[];
  winner: number | null;
}

/** The stated rule for ties of this method. */
export const RUNOFF_TIES =
  'Where several have the fewest, the one with fewer in the nearest earlier round in which they differ goes out; where they never differ, the one that stands later in the list.';

/**
 * Counts orders of options by instant runoff (the alternative vote): as long as no option holds more than half of the
 * ballots still counting, the one with the fewest first places goes out and its ballots pass to the next option on them.
 *
 * @param ids the options in the order of the list, which settles ties at last
 * @param ballots orders from first to last; options not named come after all that are
 * @see Robert's Rules of Order, "preferential voting"; D. M. Farrell, Electoral Systems, 2011, ch. 3
 */
export function instantRunoff(
  ids: readonly number[],
  ballots: readonly Votes<readonly number[]>[],
): RunoffResult {
  let still = [...ids];
  const rounds: Round[] = [];
  if (ballots.every((ballot) => ballot.n === 0)) return { rounds, winner: null };
  // How far down each ballot the count is: what went out never comes back, so nothing is looked at twice.
  const reached = new Uint32Array(ballots.length);
  for (;;) {
    const counts = new Map(still.map((id) => [id, 0]));
    let spent = 0;
    ballots.forEach(({ vote, n }, i) => {
      let at = reached[i] ?? 0;
      while (at < vote.length && !counts.has(vote[at] ?? 0)) at++;
      reached[i] = at;
      const first = vote[at];
      if (first === undefined) spent += n;
      else counts.set(first, (counts.get(first) ?? 0) + n);
    });
    const firsts = still.map((id) => ({ id, n: counts.get(id) ?? 0 }));
    const counting = firsts.reduce((sum, each) => sum + each.n, 0);
    const best = firsts.reduce((top, each) => (each.n > top.n ? each : top));
    if (best.n * 2 > counting || still.length === 1) {
      rounds.push({ firsts, spent, out: null, tied: false });
      return { rounds, winner: counting === 0 ? null : best.id };
    }
    const fewest = Math.min(...firsts.map((each) => each.n));
    const last = firsts.filter((each) => each.n === fewest).map((each) => each.id);
    const out = goesOut(last, rounds, ids);
    rounds.push({ firsts, spent, out, tied: last.length > 1 });
    still = still.filter((id) => id !== out);
  }
}

function goesOut(last: readonly number[], rounds: readonly Round[], ids: readonly number[]): number {
  let among = [...last];
  for (const round of [...rounds].reverse()) {
    if (among.length === 1) break;
    const had = (id: number): number => round.firsts.find((each) => each.id === id)?.n ?? 0;
    const fewest = Math.min(...among.map(had));
    among = among.filter((id) => had(id) === fewest);
  }
  return among.reduce((later, id) => (ids.indexOf(id) > ids.indexOf(later) ? id : later));
}
