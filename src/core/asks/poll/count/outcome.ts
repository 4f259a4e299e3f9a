import { decodeBallot, type Votes } from '../ballot.ts';
import { optionWords, type NumberedOption, type Poll } from '../poll.ts';
import { RANKING_METHOD_WORDS, type RankingMethod } from '../pollKinds.ts';
import { resolveMoment } from '../../../timing/wallTime.ts';
import { count, list, people } from '../../../words.ts';
import { approval, type Decided } from './approval.ts';
import { borda, BORDA_TIES, type Points } from './borda.ts';
import { instantRunoff, RUNOFF_TIES, type Round } from './instantRunoff.ts';
import { schulze, SCHULZE_TIES, type Pair } from './schulze.ts';

export interface OptionCount {
  id: number;
  n: number;
}

export interface DateCount {
  id: number;
  yes: number;
  maybe: number;
  no: number;
}

/** What came of a poll so far. Counts are of people. */
export interface Outcome {
  voted: number;
  /** By option, in the order of the list; of a ranking, first places; of a rating, by its number. */
  counts: OptionCount[];
  dates: DateCount[] | null;
  rating: { mean: number; median: number } | null;
  texts: Votes<string>[] | null;
  ranking: {
    method: RankingMethod;
    methodWords: string;
    ties: string;
    rounds: Round[];
    points: Points[];
    pairs: Pair[];
    order: number[];
  } | null;
  decided: Decided | null;
  /** The options that are ahead; several where they stand equal and no rule settles it. */
  leading: number[];
  /** How a tie was settled, or that it was not; null where there was none. */
  tie: string | null;
}

const TEXTS_SHOWN = 500;

/**
 * Counts ballots. It does not matter in which order they come, nor if equal ones come together.
 *
 * - Choices: how many chose each. Equal ones lead together: no draw is made.
 * - Order: by the method of the poll, with the rule for its ties.
 * - Dates: the most who can (yes or if need be), and among those the most yes; the earlier date settles what is left.
 * - Rating: the mean and the median.
 *
 * @param lines ballots as they are stored, with how many there are of each
 * @param open whether votes still come
 */
export function outcomeOf(
  poll: Poll,
  options: readonly NumberedOption[],
  lines: readonly Votes<string>[],
  asked: number,
  open = false,
): Outcome {
  const ids = options.map((option) => option.id);
  const voted = lines.reduce((sum, line) => sum + line.n, 0);
  const none: Outcome = {
    voted,
    counts: [],
    dates: null,
    rating: null,
    texts: null,
    ranking: null,
    decided: null,
    leading: [],
    tie: null,
  };
  switch (poll.kind) {
    case 'single':
    case 'several':
    case 'approval': {
      const tally = tallyOf(ids, lines, (line) => {
        const ballot = decodeBallot(poll.kind, line);
        return ballot.kind === 'choices' ? ballot.choices : [];
      });
      const leading = ahead(tally);
      const at = (place: number): number => tally[place]?.n ?? 0;
      const decided =
        poll.kind === 'approval'
          ? approval({ for: at(0), against: at(1), abstain: at(2) }, asked, poll.quorum, poll.majority, open)
          : null;
      return {
        ...none,
        counts: tally,
        decided,
        leading: decided ? [] : leading,
        tie:
          !decided && leading.length > 1 ? 'They stand equal. No draw is made: whoever asked decides.' : null,
      };
    }
    case 'ranking':
      return { ...none, ...rankingOutcome(poll.method, ids, lines) };
    case 'dates':
      return { ...none, ...datesOutcome(options, lines) };
    case 'rating': {
      const counts = Array.from({ length: poll.scale }, (_, i) => ({
        id: i + 1,
        n: lines.find((line) => Number(line.vote) === i + 1)?.n ?? 0,
      }));
      if (voted === 0) return { ...none, counts };
      const mean = counts.reduce((sum, each) => sum + each.id * each.n, 0) / voted;
      return { ...none, counts, rating: { mean, median: medianOf(counts, voted) } };
    }
    case 'text':
      return {
        ...none,
        texts: [...lines].sort((a, b) => b.n - a.n || (a.vote < b.vote ? -1 : 1)).slice(0, TEXTS_SHOWN),
      };
  }
}

function tallyOf(
  ids: readonly number[],
  lines: readonly Votes<string>[],
  chosen: (line: string) => readonly number[],
): OptionCount[] {
  const counts = new Map<number, number>(ids.map((id) => [id, 0]));
  for (const { vote, n } of lines)
    for (const id of chosen(vote)) if (counts.has(id)) counts.set(id, (counts.get(id) ?? 0) + n);
  return ids.map((id) => ({ id, n: counts.get(id) ?? 0 }));
}

function ahead(counts: readonly OptionCount[]): number[] {
  const most = Math.max(0, ...counts.map((each) => each.n));
  return most === 0 ? [] : counts.filter((each) => each.n === most).map((each) => each.id);
}

function medianOf(counts: readonly OptionCount[], n: number): number {
  const at = (place: number): number => {
    let seen = 0;
    for (const each of counts) {
      seen += each.n;
      if (seen >= place) return each.id;
    }
    return 0;
  };
  return n % 2 === 1 ? at((n + 1) / 2) : (at(n / 2) + at(n / 2 + 1)) / 2;
}

function rankingOutcome(
  method: RankingMethod,
  ids: readonly number[],
  lines: readonly Votes<string>[],
): Pick<Outcome, 'counts' | 'ranking' | 'leading' | 'tie'> {
  const ballots = lines.map(({ vote, n }) => {
    const ballot = decodeBallot('ranking', vote);
    return { vote: ballot.kind === 'ranking' ? ballot.ranking : [], n };
  });
  const counts = tallyOf(ids, lines, (line) => line.split('>').slice(0, 1).map(Number));
  const base = {
    method,
    methodWords: RANKING_METHOD_WORDS[method],
    rounds: [],
    points: [],
    pairs: [],
    order: [],
  };
  if (ballots.length === 0) return { counts, ranking: { ...base, ties: '' }, leading: [], tie: null };
  if (method === 'instant runoff') {
    const { rounds, winner } = instantRunoff(ids, ballots);
    const settled = rounds.some((round) => round.tied);
    return {
      counts,
      ranking: { ...base, ties: RUNOFF_TIES, rounds },
      leading: winner === null ? [] : [winner],
      tie: settled ? RUNOFF_TIES : null,
    };
  }
  if (method === 'borda') {
    const points = borda(ids, ballots);
    const [best, second] = points;
    return {
      counts,
      ranking: { ...base, ties: BORDA_TIES, points, order: points.map((each) => each.id) },
      leading: best ? [best.id] : [],
      tie: best && second && best.points === second.points ? BORDA_TIES : null,
    };
  }
  const { pairs, order, winners } = schulze(ids, ballots);
  return {
    counts,
    ranking: { ...base, ties: SCHULZE_TIES, pairs, order },
    leading: winners.slice(0, 1),
    tie: winners.length > 1 ? SCHULZE_TIES : null,
  };
}

function datesOutcome(
  options: readonly NumberedOption[],
  lines: readonly Votes<string>[],
): Pick<Outcome, 'counts' | 'dates' | 'leading' | 'tie'> {
  const dates = new Map<number, DateCount>(options.map(({ id }) => [id, { id, yes: 0, maybe: 0, no: 0 }]));
  for (const { vote, n } of lines) {
    const ballot = decodeBallot('dates', vote);
    if (ballot.kind !== 'dates') continue;
    for (const [id, date] of dates) {
      // A date added after somebody had answered does not suit them until they say so.
      const answer = ballot.answers[id] ?? 'no';
      if (answer === 'yes') date.yes += n;
      else if (answer === 'if need be') date.maybe += n;
      else date.no += n;
    }
  }
  const found = [...dates.values()];
  const can = (date: DateCount): number => date.yes + date.maybe;
  const instants = new Map(options.map(({ id, at }) => [id, at ? resolveMoment(at).epochMs : 0]));
  const instant = (id: number): number => instants.get(id) ?? 0;
  const best = [...found]
    .filter((date) => can(date) > 0)
    .sort((a, b) => can(b) - can(a) || b.yes - a.yes || instant(a.id) - instant(b.id));
  const [first, second] = best;
  return {
    counts: found.map((date) => ({ id: date.id, n: can(date) })),
    dates: found,
    leading: first ? [first.id] : [],
    tie:
      first && second && can(first) === can(second)
        ? first.yes === second.yes
          ? 'Equally many can on several dates: the earlier one leads.'
          : 'Equally many can on several dates: the one with more who need not say “if need be” leads.'
        : null,
  };
}

/** What came of a poll in a sentence or two: for the post of its outcome and the notices of it. */
export function outcomeWords(
  poll: Poll,
  options: readonly NumberedOption[],
  outcome: Outcome,
  asked: number,
  zone: string,
  open = false,
): string {
  const of = `${outcome.voted.toLocaleString('en-GB')} of ${people(asked)} voted.`;
  if (outcome.voted === 0) return open ? 'Nobody has voted yet.' : 'Nobody voted.';
  const label = (id: number): string => {
    const option = options.find((each) => each.id === id);
    return option ? `“${optionWords(option, zone)}”` : 'an option that is gone';
  };
  if (outcome.decided) return `${outcome.decided.words} ${of}`;
  if (outcome.rating)
    return `The mean is ${outcome.rating.mean.toFixed(1)} and the median ${outcome.rating.median} of ${poll.scale}. ${of}`;
  if (outcome.texts) return `${count(outcome.texts.length, 'answer', 'different answers')}. ${of}`;
  const [first] = outcome.leading;
  if (first === undefined) return of;
  if (outcome.leading.length > 1) return `${list(outcome.leading.map(label), 'and')} stand equal. ${of}`;
  const n = outcome.counts.find((each) => each.id === first)?.n ?? 0;
  const by = outcome.ranking
    ? ` by ${outcome.ranking.method === 'borda' ? 'points' : outcome.ranking.method === 'schulze' ? 'pairs' : 'instant runoff'}`
    : outcome.dates
      ? `: ${people(n)} can`
      : `: ${people(n)}`;
  return `${label(first)} comes first${by}. ${of}${outcome.tie ? ` ${outcome.tie}` : ''}`;
}
