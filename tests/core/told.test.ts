import { describe, expect, it } from 'vitest';
import { plainSection } from '../../src/core/content/section.ts';
import { costWords, readingSeconds } from '../../src/core/sends/cost.ts';
import { bestHourWords, hourMap, LEAST_PEOPLE, type HourRow } from '../../src/core/told/hours.ts';
import { monthOf, openedShare, type ToldRow } from '../../src/core/told/month.ts';
import { isoDate, momentWords, nearWords } from '../../src/core/timing/words.ts';
import { ruleWords, WEEKLY } from '../../src/core/timing/rule.ts';
import { approval } from '../../src/core/asks/poll/count/approval.ts';
import { EMPTY_POLL, pollProblems, pollRules } from '../../src/core/asks/poll/poll.ts';
import { suggestionsFor } from '../../src/core/asks/poll/suggest.ts';

const at = (iso: string): number => Date.parse(iso);

describe('the hour that works', () => {
  const row = (part: Partial<HourRow>): HourRow => ({
    zone: 'Europe/London',
    station: 'North',
    hourMs: at('2026-11-25T08:00Z'),
    occurrenceId: 1,
    n: 30,
    soon: 15,
    ...part,
  });

  it('is that of the reader’s own day, wherever they are and whatever the clock did', () => {
    const map = hourMap([
      row({ hourMs: at('2026-11-25T08:00Z') }),
      row({ hourMs: at('2026-07-01T07:00Z'), occurrenceId: 2 }),
      row({ zone: 'Pacific/Auckland', station: 'South', hourMs: at('2026-11-24T19:00Z'), occurrenceId: 3 }),
    ]);
    expect(map.lines[0]?.cells).toEqual([{ hour: 8, people: 30, n: 90, soon: 45 }]);
    expect(map.lines.map((line) => line.name)).toEqual(['All stations', 'North', 'South']);
  });

  it('is told of no fewer than twenty people, however often these few were written to', () => {
    const few = Array.from({ length: 10 }, (_, i) =>
      row({ n: LEAST_PEOPLE - 1, soon: 19, occurrenceId: i + 1 }),
    );
    expect(hourMap(few).lines).toEqual([]);
    // Two stations of few make twenty together, and only together are they told of.
    const together = hourMap([
      row({ n: 12, soon: 6 }),
      row({ n: 12, soon: 6, station: 'South', zone: 'Europe/Lisbon' }),
    ]);
    expect(together.lines.map((line) => line.name)).toEqual(['All stations']);
  });

  it('is proposed only where it clearly stands out', () => {
    const dull = row({ hourMs: at('2026-11-25T15:00Z'), occurrenceId: 2, soon: 14 });
    expect(bestHourWords(hourMap([row({}), dull]))).toBeNull();
    const slow = row({ hourMs: at('2026-11-25T15:00Z'), occurrenceId: 2, n: 60, soon: 6 });
    expect(bestHourWords(hourMap([row({}), slow]))).toBe(
      'Of what came between 08:00 and 09:00 their time, twice as many as usual had been opened within the hour (50 % where 23 % is usual).',
    );
    expect(bestHourWords(hourMap([row({})]))).toBeNull();
  });
});

it('a month is added up by whom, sender, kind and series, the series least opened first', () => {
  const row = (part: Partial<ToldRow>): ToldRow => ({
    occurrenceId: 1,
    title: 'A',
    atMs: 0,
    sender: 'Maud',
    whom: 'everyone',
    series: null,
    importance: 'routine',
    asks: 'nothing',
    byItself: false,
    reached: 100,
    read: 50,
    asked: 0,
    answered: 0,
    seconds: 36,
    ...part,
  });
  const told = monthOf(
    '2026-11',
    [
      row({ series: 'Tray', read: 10 }),
      row({ series: 'Notes', read: 90 }),
      row({ sender: 'Jago', asks: 'poll', asked: 100, answered: 40, importance: 'urgent' }),
    ],
    [],
    false,
  );
  expect(told.all).toMatchObject({
    announcements: 3,
    reached: 300,
    read: 150,
    asked: 100,
    answered: 40,
    hours: 3,
  });
  expect(told.series.map((each) => each.name)).toEqual(['Tray', 'Notes']);
  expect(told.series.map(openedShare)).toEqual([0.1, 0.9]);
  expect(told.kinds.map((each) => each.name)).toEqual(['routine, to be read', 'urgent, poll']);
  expect(told.senders.map((each) => [each.name, each.reached])).toEqual([
    ['Maud', 200],
    ['Jago', 100],
  ]);
});

it('what reading costs is told in the unit that fits', () => {
  const words = (n: number) =>
    plainSection({
      type: 'doc',
      content: [{ type: 'paragraph', content: [{ type: 'text', text: 'word '.repeat(n).trim() }] }],
    });
  expect(readingSeconds('', [words(400)])).toBe(120);
  expect(readingSeconds('Hello', [])).toBe(15);
  expect(costWords(60, 232)).toBe('about 4 hours of 232 people’s day');
  expect(costWords(15, 1)).toBe('about 1 minute of one person’s day');
  expect(costWords(120, 2400)).toBe('about 10 working days (80 hours) of 2,400 people’s day');
});

it('a moment is told as briefly as it can be, and the whole of it stays to be had', () => {
  const now = at('2026-11-25T12:00Z');
  const near = (iso: string, zone = 'Europe/London') => nearWords(at(iso), zone, now);
  expect(near('2026-11-25T00:00Z')).toBe('today 00:00');
  expect(near('2026-11-24T23:59Z')).toBe('yesterday 23:59');
  expect(near('2026-11-26T09:05Z')).toBe('tomorrow 09:05');
  expect(near('2026-11-28T12:59Z')).toBe('Sat 12:59');
  expect(near('2026-11-20T12:59Z')).toBe('Fri 12:59');
  expect(near('2026-12-02T12:59Z')).toBe('2 Dec 12:59');
  expect(near('2027-01-02T12:59Z')).toBe('2 Jan 2027 12:59');
  // Another day where the reader is.
  expect(near('2026-11-25T12:00Z', 'Pacific/Auckland')).toBe('today 01:00');
  expect(near('2026-11-25T10:00Z', 'Pacific/Auckland')).toBe('yesterday 23:00');
  expect(isoDate(at('2026-11-25T12:00Z'), 'Pacific/Auckland')).toBe('2026-11-26');
  expect(momentWords(at('2026-11-28T12:59Z'), 'Europe/London', now)).toBe('12:59 on Saturday 28 November');
});

it('what recurs says its hour before what is left out of it', () => {
  expect(ruleWords({ ...WEEKLY, except: ['2026-12-14'] }, '2026-12-07T07:40', '07:40 in London')).toBe(
    'every Monday at 07:40 in London, leaving out 14 December 2026',
  );
});

describe('a poll', () => {
  it('is not decided while votes come', () => {
    const votes = { for: 3, against: 2, abstain: 0 };
    expect(approval(votes, 54, 10, 'more than half', true).words).toBe(
      'Not decided yet: 5 of 54 have voted so far, and the quorum is 6.',
    );
    expect(approval(votes, 10, 10, 'more than half', true).words).toMatch(
      /^As it stands it would be carried: 3 for/,
    );
    expect(approval(votes, 54, 10, 'more than half').words).toBe(
      'Not carried: 5 of 54 voted, and the quorum is 6.',
    );
  });

  it('tells how it is decided and who sees one’s choice before one votes', () => {
    expect(
      pollRules({ ...EMPTY_POLL, kind: 'approval', quorum: 40, majority: 'two thirds', anonymous: true }),
    ).toEqual([
      'Carried by two thirds of the votes for and against, where at least 40 % of those asked vote; abstaining counts as voting.',
      'Without names: nobody sees who chose what.',
      expect.stringMatching(/^The result shows/),
    ]);
  });

  it('of two empty options says that they are empty, and offers yes or no wherever the verb stands', () => {
    const options = ['', ''].map((label) => ({ label, at: null }));
    expect(pollProblems({ ...EMPTY_POLL, question: 'Tea?', options }).map((each) => each.detail)).toEqual([
      'Option 1 is empty. Fill it in or take it out.',
    ]);
    const offered = (question: string) => suggestionsFor(question).map((each) => each.name);
    expect(offered('On Friday, can you come?')[0]).toBe('Yes or no');
    expect(offered('Which day can you come?')).not.toContain('Yes or no');
  });
});
