import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  decodeBallot,
  encodeBallot,
  readBallot,
  type Ballot,
  type Votes,
} from '../../src/core/asks/poll/ballot.ts';
import { breakdownOf, LEAST_SHOWN, type GroupCount } from '../../src/core/asks/poll/breakdown.ts';
import { approval } from '../../src/core/asks/poll/count/approval.ts';
import { borda } from '../../src/core/asks/poll/count/borda.ts';
import { instantRunoff } from '../../src/core/asks/poll/count/instantRunoff.ts';
import { outcomeOf, outcomeWords } from '../../src/core/asks/poll/count/outcome.ts';
import { schulze } from '../../src/core/asks/poll/count/schulze.ts';
import {
  EMPTY_POLL,
  optionProblem,
  optionsOf,
  optionWords,
  pollProblems,
  type Poll,
} from '../../src/core/asks/poll/poll.ts';
import { suggestionsFor, withSuggestion } from '../../src/core/asks/poll/suggest.ts';

/** Orders written as letters, "5 ACBED" being five ballots; options are numbered by the alphabet. */
const ballots = (...lines: string[]): Votes<number[]>[] =>
  lines.map((line) => {
    const [n = '', order = ''] = line.split(' ');
    return { n: Number(n), vote: Array.from(order, (letter) => letter.charCodeAt(0) - 64) };
  });
const letters = (ids: readonly number[]): string => ids.map((id) => String.fromCharCode(64 + id)).join('');
const upTo = (n: number): number[] => Array.from({ length: n }, (_, i) => i + 1);

describe('instant runoff', () => {
  // The example by which the literature on voting compares methods, choosing a capital for Tennessee: Memphis (A) 42 %,
  // Nashville (B) 26 %, Chattanooga (C) 15 %, Knoxville (D) 17 %, each preferring what is near. Instant runoff chooses
  // Knoxville, and Nashville beats every other in pairs.
  const capital = ballots('42 ABCD', '26 BCDA', '15 CDBA', '17 DCBA');
  it('lets the last go out, round by round', () => {
    const { rounds, winner } = instantRunoff(upTo(4), capital);
    expect(rounds.map((round) => round.firsts.map(({ n }) => n))).toEqual([
      [42, 26, 15, 17],
      [42, 26, 32],
      [42, 58],
    ]);
    expect(rounds.map((round) => (round.out === null ? '' : letters([round.out])))).toEqual(['C', 'B', '']);
    expect(letters([winner ?? 0])).toBe('D');
  });

  it('takes a majority at once, and puts aside ballots that name nobody left', () => {
    expect(instantRunoff(upTo(3), ballots('6 ABC', '4 BCA'))).toMatchObject({
      winner: 1,
      rounds: [{ out: null }],
    });
    const spent = instantRunoff(upTo(3), ballots('4 A', '3 B', '2 C'));
    expect(spent.rounds.at(-1)).toMatchObject({ spent: 2 });
    expect(spent.winner).toBe(1);
  });

  it('settles ties by the nearest earlier round, then by the list', () => {
    // Half is not more than half; B and C stand equal from the first, and C stands later in the list.
    const list = instantRunoff(upTo(3), ballots('4 ABC', '2 BAC', '2 CAB'));
    expect(list.rounds[0]).toMatchObject({ out: 3, tied: true });
    // B and C stand equal in the second round, and C had fewer in the first.
    const tied = instantRunoff(upTo(4), ballots('5 AB', '3 BA', '2 CB', '1 DC'));
    expect(tied.rounds[0]).toMatchObject({ out: 4, tied: false });
    expect(tied.rounds[1]).toMatchObject({ out: 3, tied: true });
    const equal = instantRunoff(upTo(3), ballots('2 AB', '1 BA', '1 CA'));
    expect(equal.rounds[0]).toMatchObject({ out: 3, tied: true });
    expect(instantRunoff(upTo(3), [])).toEqual({ rounds: [], winner: null });
  });
});

describe('points', () => {
  it('give the winner of Borda’s own example, whom one vote each would put last', () => {
    // J.-C. de Borda, Mémoire sur les élections au scrutin (1781), 21 voters: A leads by first places, 8 to 7 to 6.
    const memoire = ballots('1 ABC', '7 ACB', '7 BCA', '6 CBA');
    expect(borda(upTo(3), memoire)).toEqual([
      { id: 3, points: 26 },
      { id: 2, points: 21 },
      { id: 1, points: 16 },
    ]);
  });

  it('are shared evenly by those a ballot does not name', () => {
    expect(borda(upTo(3), ballots('1 A'))).toEqual([
      { id: 1, points: 2 },
      { id: 2, points: 0.5 },
      { id: 3, points: 0.5 },
    ]);
  });
});

describe('pairs', () => {
  it('come to the order of Schulze’s example 1', () => {
    // M. Schulze, Social Choice and Welfare 36 (2011), section 3.1: 45 voters, E > A > C > B > D.
    const example = ballots(
      '5 ACBED',
      '5 ADECB',
      '8 BEDAC',
      '3 CABED',
      '7 CAEBD',
      '2 CBADE',
      '7 DCEBA',
      '8 EBADC',
    );
    const { order, winners, pairs } = schulze(upTo(5), example);
    expect(letters(order)).toBe('EACBD');
    expect(letters(winners)).toBe('E');
    expect(pairs.find((pair) => pair.id === 1 && pair.over === 2)?.n).toBe(20);
    expect(pairs.find((pair) => pair.id === 3 && pair.over === 1)?.n).toBe(19);
  });

  it('break Condorcet’s circle at its weakest link', () => {
    // Condorcet, Essai sur l'application de l'analyse (1785): 60 voters, A > B 33, B > C 42, C > A 35.
    const circle = ballots('23 ABC', '17 BCA', '2 BAC', '10 CAB', '8 CBA');
    expect(letters(schulze(upTo(3), circle).winners)).toBe('B');
  });

  it('find the one who beats every other, and say when several stand equal', () => {
    expect(letters(schulze(upTo(4), ballots('42 ABCD', '26 BCDA', '15 CDBA', '17 DCBA')).winners)).toBe('B');
    expect(letters(schulze(upTo(2), ballots('3 AB', '3 BA')).winners)).toBe('AB');
    expect(schulze(upTo(200), ballots('1 A')).winners).toEqual([1]);
  });
});

describe('every way of counting orders', () => {
  const orders = fc.integer({ min: 2, max: 6 }).chain((n) =>
    fc.record({
      ids: fc.constant(upTo(n)),
      votes: fc.array(
        fc.shuffledSubarray(upTo(n), { minLength: 1 }).map((vote) => ({ vote, n: 1 })),
        { minLength: 1, maxLength: 25 },
      ),
    }),
  );

  it('does not mind in which order ballots come, nor if equal ones come together', () => {
    fc.assert(
      fc.property(orders, fc.integer(), ({ ids, votes }, seed) => {
        const other = [...votes].sort((a, b) => (encode(a.vote, seed) < encode(b.vote, seed) ? -1 : 1));
        const together = new Map<string, Votes<number[]>>();
        for (const { vote, n } of other) {
          const key = vote.join('>');
          together.set(key, { vote, n: n + (together.get(key)?.n ?? 0) });
        }
        for (const some of [other, [...together.values()]]) {
          expect(instantRunoff(ids, some)).toEqual(instantRunoff(ids, votes));
          expect(borda(ids, some)).toEqual(borda(ids, votes));
          expect(schulze(ids, some)).toEqual(schulze(ids, votes));
        }
      }),
    );
  });

  it('keeps its sums: rounds hold every ballot, points are n(n − 1)/2 a ballot, pairs at most one each', () => {
    fc.assert(
      fc.property(orders, ({ ids, votes }) => {
        for (const round of instantRunoff(ids, votes).rounds)
          expect(round.firsts.reduce((sum, each) => sum + each.n, 0) + round.spent).toBe(votes.length);
        const points = borda(ids, votes).reduce((sum, each) => sum + each.points, 0);
        expect(points).toBeCloseTo((votes.length * ids.length * (ids.length - 1)) / 2, 6);
        const { pairs } = schulze(ids, votes);
        for (const { id, over, n } of pairs)
          expect(
            n + (pairs.find((pair) => pair.id === over && pair.over === id)?.n ?? 0),
          ).toBeLessThanOrEqual(votes.length);
      }),
    );
  });

  it('lets whoever more than half put first come first, and Schulze whoever beats every other', () => {
    fc.assert(
      fc.property(orders, ({ ids, votes }) => {
        const first = ids.find((id) => votes.filter(({ vote }) => vote[0] === id).length * 2 > votes.length);
        const { winners, pairs } = schulze(ids, votes);
        if (first !== undefined) {
          expect(instantRunoff(ids, votes).winner).toBe(first);
          expect(winners).toEqual([first]);
        }
        const n = (id: number, over: number): number =>
          pairs.find((pair) => pair.id === id && pair.over === over)?.n ?? 0;
        const beatsAll = ids.find((id) => ids.every((other) => other === id || n(id, other) > n(other, id)));
        if (beatsAll !== undefined) expect(winners).toEqual([beatsAll]);
        expect(winners.length).toBeGreaterThan(0);
      }),
    );
  });
});

const encode = (vote: readonly number[], seed: number): string =>
  vote.map((id) => ((id * 7919 + seed) % 104_729).toString(36)).join('-');

describe('what is put to the vote', () => {
  it('needs its quorum and its majority of those for and against; a tie is no majority', () => {
    const of = (yes: number, no: number, abstain: number) => ({ for: yes, against: no, abstain });
    expect(approval(of(6, 5, 0), 20, 50, 'more than half').carried).toBe(true);
    expect(approval(of(5, 5, 4), 20, 50, 'more than half').carried).toBe(false);
    // Robert's Rules: of 30 votes and 3 abstentions, two thirds are 20.
    expect(approval(of(20, 10, 3), 33, 0, 'two thirds').carried).toBe(true);
    expect(approval(of(19, 11, 3), 33, 0, 'two thirds').carried).toBe(false);
    expect(approval(of(3, 1, 0), 4, 0, 'three quarters').carried).toBe(true);
    expect(approval(of(9, 0, 0), 20, 50, 'more than half')).toMatchObject({
      carried: false,
      words: 'Not carried: 9 of 20 voted, and the quorum is 10.',
    });
    expect(approval(of(0, 0, 0), 0, 0, 'more than half').carried).toBe(false);
    expect(approval(of(0, 0, 4), 4, 50, 'more than half').carried).toBe(false);
  });
});

const poll = (part: Partial<Poll>): Poll => ({ ...EMPTY_POLL, question: 'Which?', ...part });
const labels = (...words: string[]): Poll['options'] => words.map((label) => ({ label, at: null }));

describe('polls', () => {
  const dates = poll({
    kind: 'dates',
    options: [
      { label: '', at: { wall: '2027-03-28T01:30', zone: 'Europe/London' } },
      { label: '', at: { wall: '2027-03-29T10:00', zone: 'Europe/London' } },
    ],
  });

  it('count dates by who can, then by who need not say “if need be”, then by the earlier date', () => {
    const count = (...lines: Votes<string>[]) => outcomeOf(dates, optionsOf(dates), lines, 9);
    expect(count({ vote: '1y,2m', n: 2 }, { vote: '1n,2y', n: 1 })).toMatchObject({
      leading: [2],
      dates: [
        { id: 1, yes: 2, maybe: 0, no: 1 },
        { id: 2, yes: 1, maybe: 2, no: 0 },
      ],
    });
    expect(count({ vote: '1y,2m', n: 2 }).leading).toEqual([1]);
    expect(count({ vote: '1y,2y', n: 2 })).toMatchObject({ leading: [1] });
    expect(count({ vote: '1n,2n', n: 2 }).leading).toEqual([]);
    // An hour the clocks skip is an hour later; read in three zones it is one moment.
    const [first] = optionsOf(dates);
    expect(optionWords(first!, 'Europe/London')).toContain('02:30');
    expect(optionWords(first!, 'Asia/Kathmandu')).toContain('07:15');
    expect(optionWords(first!, 'Pacific/Honolulu')).toContain('15:30 on Saturday');
  });

  it('say that several stand equal, and make no draw', () => {
    const single = poll({ options: labels('Tea', 'Coffee', 'Water') });
    const outcome = outcomeOf(
      single,
      optionsOf(single),
      [
        { vote: '1', n: 4 },
        { vote: '2', n: 4 },
        { vote: '3', n: 1 },
      ],
      12,
    );
    expect(outcome).toMatchObject({ voted: 9, leading: [1, 2] });
    expect(outcomeWords(single, optionsOf(single), outcome, 12, 'UTC')).toBe(
      '“Tea” and “Coffee” stand equal. 9 of 12 people voted.',
    );
  });

  it('give the mean and the median of a rating, and put equal texts together', () => {
    const rating = poll({ kind: 'rating', scale: 5, options: [] });
    expect(
      outcomeOf(
        rating,
        [],
        [
          { vote: '1', n: 1 },
          { vote: '4', n: 2 },
          { vote: '5', n: 1 },
        ],
        4,
      ).rating,
    ).toEqual({ mean: 3.5, median: 4 });
    const text = poll({ kind: 'text', options: [] });
    expect(
      outcomeOf(
        text,
        [],
        [
          { vote: 'b', n: 1 },
          { vote: 'a', n: 3 },
        ],
        4,
      ).texts,
    ).toEqual([
      { vote: 'a', n: 3 },
      { vote: 'b', n: 1 },
    ]);
  });

  it('are refused with what is wrong: one option, empty, equal, more to choose than there are', () => {
    const fields = (part: Partial<Poll>): string[] => pollProblems(poll(part)).map((each) => each.field);
    expect(fields({ options: labels('One') })).toEqual(['ask.poll.options']);
    expect(fields({ options: labels('One'), adding: true })).toEqual([]);
    expect(fields({ options: labels('One', ' ') })).toEqual(['ask.poll.options.1']);
    expect(fields({ options: labels('One', ' one ') })).toEqual(['ask.poll.options.1']);
    expect(fields({ kind: 'several', options: labels('One', 'Two'), limit: 3 })).toEqual(['ask.poll.limit']);
    expect(fields({ question: ' ', kind: 'text', options: [] })).toEqual(['ask.poll.question']);
    const many = Array.from({ length: 200 }, (_, i) => `Option ${i}`);
    expect(fields({ options: labels(...many) })).toEqual([]);
    const full = poll({ options: labels(...many) });
    expect(optionProblem(full, full.options, { label: 'More', at: null })).toContain('at most 200');
    const two = poll({ options: labels('One', 'Two') });
    expect(optionProblem(two, two.options, { label: ' TWO ', at: null })).toContain('already');
    expect(optionProblem(two, two.options, { label: 'Three', at: null })).toBeNull();
    expect(optionProblem(dates, dates.options, { label: 'x', at: null })).toContain('date');
  });

  it('read ballots that fit them and refuse others', () => {
    const several = poll({ kind: 'several', options: labels('A', 'B', 'C'), limit: 2 });
    const options = optionsOf(several);
    expect(readBallot(several, options, { choices: [3, 1] })).toEqual({
      ballot: { kind: 'choices', choices: [1, 3] },
    });
    for (const choices of [[], [1, 2, 3], [1, 1], [4], 'all', undefined])
      expect(readBallot(several, options, { choices })).toHaveProperty('problem');
    const ranking = poll({ kind: 'ranking', options: labels('A', 'B', 'C') });
    expect(readBallot(ranking, options, { ranking: [2] })).toEqual({
      ballot: { kind: 'ranking', ranking: [2] },
    });
    for (const order of [[], [2, 2], [9]])
      expect(readBallot(ranking, options, { ranking: order })).toHaveProperty('problem');
    const rating = poll({ kind: 'rating', scale: 5 });
    for (const given of [0, 6, 2.5, ''])
      expect(readBallot(rating, [], { rating: given })).toHaveProperty('problem');
    expect(readBallot(dates, optionsOf(dates), { answers: { 1: 'yes', 2: 'perhaps' } })).toEqual({
      ballot: { kind: 'dates', answers: { 1: 'yes', 2: 'no' } },
    });
    const text = poll({ kind: 'text' });
    expect(readBallot(text, [], { text: '  ' })).toHaveProperty('problem');
    expect(readBallot(text, [], { text: 'x'.repeat(301) })).toHaveProperty('problem');
  });

  it('lose nothing between a ballot and the line it is kept as', () => {
    const cases = [
      [poll({ kind: 'several' }), { kind: 'choices' as const, choices: [1, 2] }],
      [poll({ kind: 'ranking' }), { kind: 'ranking' as const, ranking: [2, 1] }],
      [dates, { kind: 'dates' as const, answers: { 1: 'yes' as const, 2: 'if need be' as const } }],
      [poll({ kind: 'rating' }), { kind: 'rating' as const, rating: 4 }],
      [poll({ kind: 'text' }), { kind: 'text' as const, text: 'No, thank you' }],
    ] satisfies [Poll, Ballot][];
    for (const [of, ballot] of cases) expect(decodeBallot(of.kind, encodeBallot(ballot))).toEqual(ballot);
  });

  it('are offered options that suit the question', () => {
    expect(suggestionsFor('What do you eat for lunch?').map((each) => each.name)).toEqual(['What to eat']);
    expect(suggestionsFor('Are you coming?').map((each) => each.name)).toEqual([
      'Yes or no',
      'Coming or not',
    ]);
    expect(suggestionsFor('Xyzzy?')).toEqual([]);
    for (const each of suggestionsFor(''))
      expect(pollProblems({ ...withSuggestion(poll({}), each) })).toEqual([]);
  });
});

describe('the parts of an anonymous poll', () => {
  const group = fc.record({
    name: fc.uuid(),
    counts: fc
      .array(fc.nat(9), { minLength: 2, maxLength: 2 })
      .map((ns) => ns.map((n, i) => ({ id: i + 1, n }))),
  });
  const rows = fc.array(group, { maxLength: 9 }).map((found): GroupCount[] =>
    found.map((row) => {
      const answered = row.counts.reduce((sum, each) => sum + each.n, 0);
      return { ...row, asked: answered + 2, answered };
    }),
  );

  it('never show fewer than five, nor let fewer be found by taking what is shown from the whole', () => {
    fc.assert(
      fc.property(rows, (given) => {
        const shown = breakdownOf(given, true).rows;
        for (const row of shown) expect(row.answered).toBeGreaterThanOrEqual(LEAST_SHOWN);
        const whole = given.reduce((sum, row) => sum + row.answered, 0);
        const left = whole - shown.reduce((sum, row) => sum + row.answered, 0);
        expect(left === 0 || left >= LEAST_SHOWN || shown.length === 0).toBe(true);
        for (const row of shown) expect(row.counts.reduce((sum, each) => sum + each.n, 0)).toBe(row.answered);
      }),
    );
  });

  it('are all there where votes have names', () => {
    fc.assert(
      fc.property(rows, (given) => {
        expect(breakdownOf(given, false).rows).toHaveLength(given.length);
      }),
    );
  });
});
