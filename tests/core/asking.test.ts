import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  answeredByOnePress,
  askProblems,
  askSchema,
  askWarnings,
  askWords,
  canAskAgain,
  closes,
  closesWhenAll,
  deadlineOf,
  digestBoards,
  ofWorkingDays,
  statementOf,
  withoutNames,
  type Ask,
} from '../../src/core/asks/ask.ts';
import { wordsOfKind } from '../../src/core/asks/askWords.ts';
import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { chasePlan, USUAL_CHASE, type Chase } from '../../src/core/asks/chase.ts';
import {
  blockedFirst,
  byQuestion,
  digestDocument,
  prefilled,
  readCheckIn,
  USUAL_QUESTIONS,
  type Question,
  type Said,
} from '../../src/core/asks/check-in/checkIn.ts';
import { EMPTY_POLL } from '../../src/core/asks/poll/poll.ts';
import { documentText } from '../../src/core/content/text.ts';
import { weekdayOf, workDaysFromBits, workDaysToBits } from '../../src/core/timing/working.ts';

const NOW = Date.parse('2026-11-30T09:00:00Z');
const HOUR = 3_600_000;
const chase = (part: Partial<Chase> = {}): Chase => ({ ...USUAL_CHASE, ...part });

describe('the chase', () => {
  it('goes after so long, again and again, and never at or past the deadline', () => {
    expect(chasePlan(chase({ hours: 24, every: 12, most: 3 }), NOW, null).dues).toEqual(
      [24, 36, 48].map((hours) => NOW + hours * HOUR),
    );
    expect(chasePlan(chase({ hours: 24, every: 12, most: 3 }), NOW, NOW + 36 * HOUR).dues).toEqual([
      NOW + 24 * HOUR,
    ]);
    expect(chasePlan(null, NOW, null)).toEqual({ dues: [], listMs: null });
  });

  it('counts back from the deadline, not from before everybody was asked', () => {
    const before = chase({ from: 'before', hours: 30, every: 24, most: 2, owners: true });
    expect(chasePlan(before, NOW, NOW + 48 * HOUR)).toEqual({
      dues: [NOW + 18 * HOUR, NOW + 42 * HOUR],
      listMs: NOW + 48 * HOUR,
    });
    expect(chasePlan(before, NOW, NOW + 20 * HOUR).dues).toEqual([NOW + 14 * HOUR]);
    expect(chasePlan(before, NOW, null).dues).toEqual([]);
  });

  it('rises, stays between the asking and the deadline, and is at most so many', () => {
    const any = fc.record({
      from: fc.constantFrom('after' as const, 'before' as const),
      hours: fc.integer({ min: 1, max: 720 }),
      every: fc.integer({ min: 1, max: 720 }),
      most: fc.integer({ min: 1, max: 6 }),
      text: fc.constant(''),
      owners: fc.boolean(),
    });
    fc.assert(
      fc.property(any, fc.option(fc.integer({ min: 1, max: 2000 })), (given, within) => {
        const deadline = within === null ? null : NOW + within * HOUR;
        const { dues, listMs } = chasePlan(given, NOW, deadline);
        expect(dues.length).toBeLessThanOrEqual(given.most);
        dues.forEach((due, i) => {
          expect(due).toBeGreaterThan(dues[i - 1] ?? NOW);
          if (deadline !== null) expect(due).toBeLessThan(deadline);
        });
        if (listMs !== null) expect(listMs).toBeGreaterThan(dues.at(-1) ?? NOW);
      }),
    );
  });
});

describe('an ask', () => {
  it('reads as a phrase of the sentence', () => {
    expect(
      askWords(
        acknowledgement({
          statement: 'I have read the rules.',
          deadline: { wall: '2026-12-04T12:00', zone: 'Europe/London' },
          chase: chase({ most: 2 }),
        }),
        NOW,
      ),
    ).toBe(
      'agree and acknowledge by 12:00 on Friday 4 December in London, chasing those who have not after 1 day, at most twice, 1 day apart',
    );
    expect(
      askWords(
        {
          ...acknowledgement(),
          kind: 'poll',
          poll: { ...EMPTY_POLL, question: 'Which day?', anonymous: true },
        },
        NOW,
      ),
    ).toBe('vote on “Which day?” without their names');
  });

  it('has a deadline that stands where a clock change puts it', () => {
    const at = (wall: string) =>
      deadlineOf(acknowledgement({ deadline: { wall, zone: 'Europe/London' } }), NOW);
    // 28 March 2027, 01:30 does not exist in London and counts as an hour later; 31 October 2027, 01:30 comes twice.
    expect(at('2027-03-28T01:30')).toBe(Date.parse('2027-03-28T01:30:00Z'));
    expect(at('2027-10-31T01:30')).toBe(Date.parse('2027-10-31T00:30:00Z'));
    expect(deadlineOf(acknowledgement({ within: 3 }), NOW)).toBe(NOW + 3 * HOUR);
  });

  it('is refused where it cannot be kept', () => {
    expect(
      askProblems(acknowledgement({ chase: chase({ from: 'before' }) })).map((each) => each.field),
    ).toEqual(['ask.chase']);
    const checkIn = askSchema.parse({ kind: 'check-in', deadline: null, questions: [] });
    expect(askProblems(checkIn).map((each) => each.field)).toEqual(['ask.questions', 'ask.within']);
    // A plan from before there were polls still reads.
    expect(askSchema.parse({ kind: 'acknowledgement', deadline: null })).toEqual(acknowledgement());
  });
});

const QUESTIONS: Question[] = [
  ...USUAL_QUESTIONS,
  { text: 'Mood?', kind: 'choice', part: 'none', options: ['good', 'fair'], needed: false },
  { text: 'Drawers?', kind: 'number', part: 'none', options: [], needed: false },
];

const said = (name: string, part: Partial<Said> = {}): Said => ({
  personId: name.charCodeAt(0),
  name,
  station: null,
  answeredMs: NOW,
  answers: { 0: 'Labels', 1: 'Sedges' },
  blocked: false,
  unblocked: null,
  replies: 0,
  ...part,
});

describe('the kinds of asks', () => {
  const common = { deadline: null, within: null, chase: null, joiners: false };
  const read = (statement: string) => acknowledgement({ statement });
  const poll = (part: Partial<typeof EMPTY_POLL> = {}): Ask => ({
    kind: 'poll',
    ...common,
    poll: { ...EMPTY_POLL, ...part },
  });
  const checkIn: Ask = { kind: 'check-in', ...common, questions: USUAL_QUESTIONS, digestOn: [3] };
  const nothing: Ask = { kind: 'nothing' };

  it('say each of itself what is asked of all', () => {
    const said = (ask: Ask) => ({
      closes: closes(ask),
      days: ofWorkingDays(ask),
      press: answeredByOnePress(ask),
      again: canAskAgain(ask),
      all: closesWhenAll(ask),
      hidden: withoutNames(ask),
      statement: statementOf(ask),
      digest: digestBoards(ask),
    });
    const usual = {
      closes: false,
      days: false,
      press: false,
      again: false,
      all: false,
      hidden: false,
      statement: '',
      digest: [],
    };
    expect(said(nothing)).toEqual(usual);
    expect(said(read(''))).toEqual({ ...usual, press: true, again: true });
    // What one agrees to is read before it is pressed; a few spaces are nothing to agree to.
    expect(said(read('I lock up.'))).toEqual({ ...usual, again: true, statement: 'I lock up.' });
    expect(answeredByOnePress(read('  '))).toBe(true);
    expect(said(poll())).toEqual({ ...usual, closes: true });
    expect(said(poll({ anonymous: true, closesWhenAll: true }))).toEqual({
      ...usual,
      closes: true,
      all: true,
      hidden: true,
    });
    expect(said(checkIn)).toEqual({ ...usual, closes: true, days: true, digest: [3] });
  });

  it('warn where so few are asked that a result without names could never show', () => {
    const fields = (ask: Ask, people: number): string[] => askWarnings(ask, people).map(({ field }) => field);
    expect(fields(poll({ anonymous: true }), 4)).toEqual(['ask.poll.anonymous']);
    expect(fields(poll({ anonymous: true }), 5)).toEqual([]);
    for (const ask of [nothing, read(''), poll(), checkIn]) expect(fields(ask, 1)).toEqual([]);
  });

  it('have the words of their own wherever one is told of', () => {
    const kinds = ['acknowledgement', 'poll', 'check-in'] as const;
    for (const part of ['deed', 'done', 'youDid', 'until', 'offered'] as const)
      expect(new Set(kinds.map((kind) => wordsOfKind(kind)[part])).size).toBe(kinds.length);
    expect(kinds.map((kind) => wordsOfKind(kind).saidAt?.(7) ?? null)).toEqual([null, null, '/check-ins/7']);
  });
});

describe('a check-in', () => {
  it('takes what fits its questions, and says which one is wrong', () => {
    expect(readCheckIn(QUESTIONS, { 0: ' Labels ', 1: 'Sedges', 4: '2,5' })).toEqual({
      answers: { 0: 'Labels', 1: 'Sedges', 4: '2.5' },
      blocked: false,
    });
    expect(readCheckIn(QUESTIONS, { 0: 'a', 1: 'b', 2: 'The printer' })).toMatchObject({ blocked: true });
    const wrong = readCheckIn(QUESTIONS, { 0: 'a', 3: 'grand', 4: 'many' });
    expect('problems' in wrong && wrong.problems.map((each) => each.field)).toEqual([
      'answers.1',
      'answers.3',
      'answers.4',
    ]);
    expect(readCheckIn(QUESTIONS, { 0: 'x'.repeat(1001), 1: 'b' })).toHaveProperty('problems');
  });

  it('offers yesterday’s “next” as today’s “done”, and nothing where there is none', () => {
    expect(prefilled(QUESTIONS, { 0: 'Old', 1: 'Sedges' })).toEqual({ 0: 'Sedges' });
    expect(prefilled(QUESTIONS, null)).toEqual({});
    expect(prefilled([QUESTIONS[1]!], { 0: 'Sedges' })).toEqual({});
  });

  it('puts the blocked on top, the longest waiting first, and those helped back among the others', () => {
    const found = blockedFirst([
      said('Ada'),
      said('Bo', { blocked: true, answeredMs: NOW + 5 }),
      said('Cy', { blocked: true, answeredMs: NOW }),
      said('Di', { blocked: true, unblocked: { by: 'Ada', atMs: NOW } }),
    ]);
    expect(found.map((one) => one.name)).toEqual(['Cy', 'Bo', 'Ada', 'Di']);
  });

  it('is gathered by question, numbers with their sum and mean', () => {
    const all = [
      said('Ada', { answers: { 0: 'x', 3: 'good', 4: '3' } }),
      said('Bo', { answers: { 0: 'y', 3: 'good', 4: '5' } }),
    ];
    const parts = byQuestion(QUESTIONS, all);
    expect(parts[3]!.counts).toEqual([
      { text: 'good', n: 2 },
      { text: 'fair', n: 0 },
    ]);
    expect(parts[4]).toMatchObject({ sum: 8, mean: 4 });
    expect(parts[1]!.answers).toEqual([]);
  });

  it('is put together in a digest: the blocked first, the missing last', () => {
    const text = documentText(
      digestDocument(
        QUESTIONS,
        [said('Ada'), said('Bo', { blocked: true, answers: { 0: 'a', 1: 'b', 2: 'The printer' } })],
        ['Cy'],
      ),
    );
    expect(text).toContain('2 of 3 people checked in.');
    expect(text.indexOf('Bo: The printer')).toBeLessThan(text.indexOf('Ada: Labels'));
    expect(text.trim().endsWith('Not heard from: Cy.')).toBe(true);
    const many = Array.from({ length: 50 }, (_, i) => said(`Person ${i}`));
    expect(documentText(digestDocument(QUESTIONS, many, []))).toContain('… and 10 more');
  });
});

describe('working days', () => {
  it('are kept as bits and come back, and a date knows its day', () => {
    expect(workDaysFromBits(workDaysToBits([7, 1, 2, 3, 4, 4]))).toEqual([1, 2, 3, 4, 7]);
    expect([weekdayOf('2026-11-30'), weekdayOf('2026-12-06')]).toEqual([1, 7]);
  });
});
