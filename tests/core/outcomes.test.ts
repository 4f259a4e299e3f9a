import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  ballotWords,
  decodeBallot,
  encodeBallot,
  readBallot,
  type Ballot,
  type Votes,
} from '../../src/core/asks/poll/ballot.ts';
import { outcomeOf, outcomeWords } from '../../src/core/asks/poll/count/outcome.ts';
import { EMPTY_POLL, optionsOf, type Poll } from '../../src/core/asks/poll/poll.ts';
import { POLL_KINDS, RANKING_METHODS } from '../../src/core/asks/poll/pollKinds.ts';

const poll = (part: Partial<Poll>): Poll => ({ ...EMPTY_POLL, question: 'Which?', ...part });
const labelled = (...labels: string[]): Poll['options'] => labels.map((label) => ({ label, at: null }));
const THREE = labelled('Sant Elm', 'Oru Terrace', 'Marrow Fen');

describe('the outcome of a rating', () => {
  const rating = poll({ kind: 'rating', scale: 5 });
  const of = (...lines: Votes<string>[]) => outcomeOf(rating, [], lines, 40);

  it('is its mean and its median, which for an even number lies between the two in the middle', () => {
    expect(of({ vote: '1', n: 1 }, { vote: '4', n: 1 }, { vote: '5', n: 1 }).rating).toEqual({
      mean: 10 / 3,
      median: 4,
    });
    expect(of({ vote: '2', n: 2 }, { vote: '5', n: 2 }).rating).toEqual({ mean: 3.5, median: 3.5 });
    expect(of().rating).toBeNull();
    expect(outcomeWords(rating, [], of({ vote: '2', n: 2 }, { vote: '5', n: 2 }), 40, 'UTC')).toBe(
      'The mean is 3.5 and the median 3.5 of 5. 4 of 40 people voted.',
    );
  });

  it('agrees with the votes written out one by one, whatever they are', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 5 }), { minLength: 1, maxLength: 60 }), (votes) => {
        const lines = [1, 2, 3, 4, 5].flatMap((vote) => {
          const n = votes.filter((each) => each === vote).length;
          return n === 0 ? [] : [{ vote: String(vote), n }];
        });
        const { rating: found, counts, voted } = of(...lines);
        const sorted = [...votes].sort((a, b) => a - b);
        const middle =
          (sorted[Math.floor((votes.length - 1) / 2)]! + sorted[Math.floor(votes.length / 2)]!) / 2;
        expect(voted).toBe(votes.length);
        expect(counts.reduce((sum, { n }) => sum + n, 0)).toBe(votes.length);
        expect(found?.median).toBe(middle);
        expect(found?.mean).toBeCloseTo(votes.reduce((sum, each) => sum + each, 0) / votes.length, 9);
      }),
    );
  });
});

describe('the outcome of answers in one’s own words, and of choices', () => {
  it('puts what was written most first, and equals in order of their letters', () => {
    const text = poll({ kind: 'text' });
    const found = outcomeOf(
      text,
      [],
      [
        { vote: 'ropes', n: 1 },
        { vote: 'boots', n: 1 },
        { vote: 'tea', n: 4 },
      ],
      9,
    );
    expect(found.texts?.map(({ vote }) => vote)).toEqual(['tea', 'boots', 'ropes']);
    expect(outcomeWords(text, [], found, 9, 'UTC')).toBe('3 different answers. 6 of 9 people voted.');
  });

  it('names those that stand equal, and draws no lot', () => {
    const single = poll({ options: THREE });
    const equal = outcomeOf(
      single,
      optionsOf(single),
      [
        { vote: '1', n: 2 },
        { vote: '3', n: 2 },
      ],
      9,
    );
    expect([equal.leading, equal.tie]).toEqual([[1, 3], expect.stringMatching(/No draw is made/)]);
    expect(outcomeWords(single, optionsOf(single), equal, 9, 'UTC')).toBe(
      '“Sant Elm” and “Marrow Fen” stand equal. 4 of 9 people voted.',
    );
    const nobody = outcomeOf(single, optionsOf(single), [], 9);
    expect([nobody.leading, nobody.tie]).toEqual([[], null]);
    expect(outcomeWords(single, optionsOf(single), nobody, 9, 'UTC', true)).toBe('Nobody has voted yet.');
    expect(outcomeWords(single, optionsOf(single), nobody, 9, 'UTC')).toBe('Nobody voted.');
    // An option that was taken out since is told of as that.
    const gone = outcomeOf(single, optionsOf(single), [{ vote: '3', n: 2 }], 9);
    expect(outcomeWords(single, optionsOf(single).slice(0, 2), gone, 9, 'UTC')).toMatch(
      /an option that is gone/,
    );
  });

  it('of a ranking is by the method that was chosen, which its words name, and is nothing without a vote', () => {
    for (const method of RANKING_METHODS) {
      const ranking = poll({ kind: 'ranking', options: THREE, method });
      const options = optionsOf(ranking);
      expect(outcomeOf(ranking, options, [], 9).leading).toEqual([]);
      const clear = outcomeOf(
        ranking,
        options,
        [
          { vote: '2>1>3', n: 3 },
          { vote: '1>2>3', n: 1 },
        ],
        9,
      );
      expect([method, clear.leading, clear.ranking?.method]).toEqual([method, [2], method]);
      expect(outcomeWords(ranking, options, clear, 9, 'UTC')).toMatch(
        { borda: /by points/, schulze: /by pairs/, 'instant runoff': /by instant runoff/ }[method],
      );
    }
  });
});

describe('a ballot', () => {
  it('is refused with what to do about it', () => {
    const why = (of: Poll, given: object): string => {
      const read = readBallot(of, optionsOf(of), given as never);
      return 'ballot' in read ? 'taken' : JSON.stringify(read);
    };
    const ranking = poll({ kind: 'ranking', options: THREE });
    for (const [of, given, words] of [
      [poll({ options: THREE }), { choices: [1, 2] }, /Choose one option only/],
      [poll({ kind: 'several', options: THREE, limit: 2 }), { choices: [1, 2, 3] }, /at most 2 options/],
      [ranking, { ranking: [] }, /at least one option in order/],
      [ranking, { ranking: [1, 1] }, /each once/],
      [ranking, { ranking: [4] }, /options of this poll/],
      [poll({ kind: 'dates', options: THREE }), { answers: null }, /for each date/],
      [poll({ kind: 'rating' }), { rating: 6 }, /number from 1 to 5/],
      [poll({ kind: 'rating' }), { rating: 2.5 }, /number from 1 to 5/],
      [poll({ kind: 'text' }), { text: '  ' }, /Write an answer first/],
      [poll({ kind: 'text' }), { text: 'x'.repeat(5_000) }, /At most \d+ characters/],
    ] as const)
      expect(why(of, given)).toMatch(words);
    expect(why(ranking, { ranking: [3, 1] })).toBe('taken');
  });

  it('is the same after it was kept, and is read aloud without what does not suit', () => {
    const ballots: Record<(typeof POLL_KINDS)[number], Ballot> = {
      single: { kind: 'choices', choices: [2] },
      several: { kind: 'choices', choices: [1, 3] },
      approval: { kind: 'choices', choices: [1] },
      ranking: { kind: 'ranking', ranking: [3, 1] },
      dates: { kind: 'dates', answers: { 1: 'yes', 2: 'no', 3: 'if need be' } },
      rating: { kind: 'rating', rating: 4 },
      text: { kind: 'text', text: 'Two ropes; and tea' },
    };
    const label = (id: number): string => THREE[id - 1]?.label ?? '';
    const read = POLL_KINDS.map((kind) => {
      expect(decodeBallot(kind, encodeBallot(ballots[kind]))).toEqual(ballots[kind]);
      return ballotWords(ballots[kind], label);
    });
    expect(new Set(read)).toEqual(
      new Set([
        'Oru Terrace',
        'Sant Elm; Marrow Fen',
        'Sant Elm',
        '1. Marrow Fen; 2. Sant Elm',
        'Sant Elm: yes; Marrow Fen: if need be',
        '4',
        'Two ropes; and tea',
      ]),
    );
  });
});
