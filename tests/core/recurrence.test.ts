import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { comingIn, neverWords, occurrenceWalls } from '../../src/core/timing/recurrence.ts';
import { ruleSchema, rruleText, ruleWords, WEEKLY, type Rule } from '../../src/core/timing/rule.ts';
import { quietUntil } from '../../src/core/timing/quiet.ts';

const rule = (part: Partial<Rule>): Rule => ({ ...WEEKLY, ...part });
const days = (start: string, part: Partial<Rule>, most: number): string[] =>
  occurrenceWalls(start, rule(part), { most }).map((wall) => wall.slice(0, 10));

/** RFC 5545 section 3.8.5.3 begins all of these on Tuesday 2 September 1997 at 09:00 in New York, unless it says so. */
const START = '1997-09-02T09:00';

describe("RFC 5545's own examples", () => {
  it('daily for ten occurrences', () => {
    expect(days(START, { freq: 'daily', end: { kind: 'count', count: 10 } }, 99)).toEqual(
      Array.from({ length: 10 }, (_, i) => `1997-09-${String(i + 2).padStart(2, '0')}`),
    );
  });

  it('daily until 24 December: the hour stays, whatever the clock does', () => {
    const walls = occurrenceWalls(
      START,
      rule({ freq: 'daily', end: { kind: 'until', date: '1997-12-24' } }),
      {
        most: 999,
      },
    );
    expect(walls).toHaveLength(114);
    expect(walls.at(-1)).toBe('1997-12-24T09:00');
    // "(1997 9:00 AM EDT) September 2-30; October 1-25 (1997 9:00 AM EST) October 26-31 ..."
    const coming = comingIn('America/New_York', walls);
    const moved = coming.filter((each) => each.clockMoved !== 0);
    expect(moved.map((each) => [each.meant.slice(0, 10), each.clockMoved])).toEqual([['1997-10-26', -60]]);
  });

  it('every other day, every ten days five times', () => {
    expect(days(START, { freq: 'daily', every: 2 }, 4)).toEqual([
      '1997-09-02',
      '1997-09-04',
      '1997-09-06',
      '1997-09-08',
    ]);
    expect(days(START, { freq: 'daily', every: 10, end: { kind: 'count', count: 5 } }, 99)).toEqual([
      '1997-09-02',
      '1997-09-12',
      '1997-09-22',
      '1997-10-02',
      '1997-10-12',
    ]);
  });

  it('every other week on Tuesday and Thursday for eight occurrences', () => {
    expect(days(START, { every: 2, weekdays: ['TU', 'TH'], end: { kind: 'count', count: 8 } }, 99)).toEqual([
      '1997-09-02',
      '1997-09-04',
      '1997-09-16',
      '1997-09-18',
      '1997-09-30',
      '1997-10-02',
      '1997-10-14',
      '1997-10-16',
    ]);
  });

  it('monthly on the first Friday, on the last Monday but for its own end, on the last day', () => {
    expect(
      days(
        '1997-09-05T09:00',
        {
          freq: 'monthly',
          monthly: { by: 'position', position: 1, weekday: 'FR' },
          end: { kind: 'count', count: 4 },
        },
        99,
      ),
    ).toEqual(['1997-09-05', '1997-10-03', '1997-11-07', '1997-12-05']);
    expect(
      days(
        '1997-09-01T09:00',
        { freq: 'monthly', monthly: { by: 'position', position: -1, weekday: 'MO' } },
        3,
      ),
    ).toEqual(['1997-09-29', '1997-10-27', '1997-11-24']);
    expect(days(START, { freq: 'monthly', monthly: { by: 'day', day: -1 } }, 3)).toEqual([
      '1997-09-30',
      '1997-10-31',
      '1997-11-30',
    ]);
  });

  it('an invalid date, such as 30 February, is passed over', () => {
    expect(
      days(
        '2007-01-15T09:00',
        { freq: 'monthly', monthly: { by: 'day', day: 30 }, end: { kind: 'count', count: 4 } },
        9,
      ),
    ).toEqual(['2007-01-30', '2007-03-30', '2007-04-30', '2007-05-30']);
  });

  it('leaves out EXDATE after COUNT has counted, and adds RDATE', () => {
    const part: Partial<Rule> = {
      freq: 'daily',
      end: { kind: 'count', count: 4 },
      except: ['1997-09-03'],
      added: ['1997-09-20T11:30'],
    };
    expect(occurrenceWalls(START, rule(part), { most: 99 })).toEqual([
      '1997-09-02T09:00',
      '1997-09-04T09:00',
      '1997-09-05T09:00',
      '1997-09-20T11:30',
    ]);
  });
});

describe('hard dates', () => {
  it('29 February every year is every fourth, and the 31st skips short months', () => {
    expect(days('2024-02-29T08:00', { freq: 'yearly' }, 3)).toEqual([
      '2024-02-29',
      '2028-02-29',
      '2032-02-29',
    ]);
    expect(days('2026-01-31T08:00', { freq: 'monthly', monthly: { by: 'day', day: 31 } }, 4)).toEqual([
      '2026-01-31',
      '2026-03-31',
      '2026-05-31',
      '2026-07-31',
    ]);
  });

  it('says why a rule never comes', () => {
    expect(
      neverWords('2026-02-10T09:00', rule({ freq: 'monthly', every: 12, monthly: { by: 'day', day: 31 } })),
    ).toMatch(/no such date/);
    expect(neverWords(START, rule({ end: { kind: 'until', date: '1997-09-01' } }))).toMatch(
      /ends before it begins/,
    );
    expect(
      neverWords(START, rule({ freq: 'daily', end: { kind: 'count', count: 1 }, except: ['1997-09-02'] })),
    ).toMatch(/Every date of it is left out/);
    expect(neverWords(START, rule({}))).toBeNull();
  });

  it('marks the clock changes of both hemispheres', () => {
    const walls = occurrenceWalls('2026-09-24T02:30', rule({ freq: 'daily' }), { most: 14 });
    const nz = comingIn('Pacific/Auckland', walls).filter(
      (each) => each.hour !== 'ordinary' || each.clockMoved !== 0,
    );
    expect(nz.map((each) => [each.meant, each.hour, each.wall])).toEqual([
      ['2026-09-27T02:30', 'skipped', '2026-09-27T03:30'],
    ]);
    const london = comingIn('Europe/London', ['2026-10-24T01:30', '2026-10-25T01:30', '2026-10-26T01:30']);
    expect(london.map((each) => [each.hour, each.clockMoved])).toEqual([
      ['ordinary', 0],
      ['repeated', 0],
      ['ordinary', -60],
    ]);
  });

  it('refuses more than ten thousand times', () => {
    const asked = (count: number) => ruleSchema.safeParse({ ...WEEKLY, end: { kind: 'count', count } });
    expect(asked(10_001).success).toBe(false);
    expect(asked(10_000).success).toBe(true);
    expect(
      occurrenceWalls(START, rule({ freq: 'daily', end: { kind: 'count', count: 10_000 } }), {
        most: 10_000,
      }),
    ).toHaveLength(10_000);
  });
});

const anyRule = fc.record({
  freq: fc.constantFrom('daily' as const, 'weekly' as const, 'monthly' as const, 'yearly' as const),
  every: fc.integer({ min: 1, max: 5 }),
  weekdays: fc.uniqueArray(fc.constantFrom('MO' as const, 'WE' as const, 'SU' as const)),
  monthly: fc.oneof(
    fc.constant(null),
    fc.constantFrom(-1, 1, 15, 29, 30, 31).map((day) => ({ by: 'day' as const, day })),
    fc
      .constantFrom(-1, 1, 5)
      .map((position) => ({ by: 'position' as const, position, weekday: 'TH' as const })),
  ),
  end: fc.constantFrom(
    { kind: 'never' as const },
    { kind: 'count' as const, count: 7 },
    { kind: 'until' as const, date: '2027-03-30' },
  ),
  except: fc.subarray(['2026-11-23', '2026-12-31', '2027-01-06']),
  added: fc.subarray(['2026-12-25T10:00', '2027-01-06T09:00']),
});

it('any rule: instants rise, none before its start, and entering it anywhere gives the same ones', () => {
  fc.assert(
    fc.property(anyRule, fc.integer({ min: 0, max: 300 }), (given, skip) => {
      const start = '2026-11-23T09:00';
      const all = occurrenceWalls(start, given, { to: '2028-01-01T00:00', most: 5000 });
      expect([...all].sort()).toEqual(all);
      expect(new Set(all).size).toBe(all.length);
      for (const wall of all) expect(wall >= start).toBe(true);
      for (const date of given.except) expect(all.some((wall) => wall.startsWith(date))).toBe(false);
      const from = new Date(Date.parse(`${start}Z`) + skip * 86_400_000).toISOString().slice(0, 16);
      expect(occurrenceWalls(start, given, { from, to: '2028-01-01T00:00', most: 5000 })).toEqual(
        all.filter((wall) => wall >= from),
      );
      const some = occurrenceWalls(start, given, { from, to: '2028-01-01T00:00', most: 3 });
      expect(some).toEqual(all.filter((wall) => wall >= from).slice(0, 3));
    }),
    { numRuns: 300 },
  );
});

it('reads as it is meant, and writes as the RFC has it', () => {
  expect(ruleWords(rule({ weekdays: ['FR', 'MO'] }), START)).toBe('every Monday and Friday');
  expect(ruleWords(rule({ weekdays: ['MO', 'TU', 'WE', 'TH', 'FR'] }), START)).toBe('every weekday');
  expect(ruleWords(rule({ every: 2 }), START)).toBe('every second week on Tuesday');
  const last = rule({ freq: 'monthly', every: 3, monthly: { by: 'position', position: -1, weekday: 'FR' } });
  expect(ruleWords(last, START)).toBe('on the last Friday of every 3 months');
  expect(rruleText(last)).toBe('FREQ=MONTHLY;INTERVAL=3;BYDAY=-1FR');
  expect(rruleText(rule({ weekdays: ['FR', 'MO'], end: { kind: 'until', date: '2026-12-31' } }))).toBe(
    'FREQ=WEEKLY;BYDAY=MO,FR;UNTIL=20261231T235959',
  );
});

describe('quiet hours', () => {
  const night = { from: '21:00', to: '07:00' };
  const at = (iso: string, zone: string, quiet: typeof night | null = night): string =>
    new Date(quietUntil(Date.parse(iso), zone, quiet)).toISOString();

  it('hold until the morning on the reader’s clock, before and after midnight', () => {
    expect(at('2026-11-24T15:30:00Z', 'Asia/Kathmandu')).toBe('2026-11-25T01:15:00.000Z');
    expect(at('2026-11-24T20:30:00Z', 'Asia/Kathmandu')).toBe('2026-11-25T01:15:00.000Z');
    expect(at('2026-11-25T01:15:00Z', 'Asia/Kathmandu')).toBe('2026-11-25T01:15:00.000Z');
    expect(at('2026-11-24T12:00:00Z', 'Asia/Kathmandu')).toBe('2026-11-24T12:00:00.000Z');
  });

  it('end by the clock of that day when it changes in the night', () => {
    expect(at('2026-03-28T23:00:00Z', 'Europe/London')).toBe('2026-03-29T06:00:00.000Z');
    expect(at('2026-10-24T23:00:00Z', 'Europe/London')).toBe('2026-10-25T07:00:00.000Z');
  });

  it('within one day, and none at all', () => {
    const noon = { from: '12:00', to: '13:30' };
    expect(at('2026-11-24T12:30:00Z', 'UTC', noon)).toBe('2026-11-24T13:30:00.000Z');
    expect(at('2026-11-24T23:30:00Z', 'UTC', null)).toBe('2026-11-24T23:30:00.000Z');
    expect(at('2026-11-24T23:30:00Z', 'UTC', { from: '00:00', to: '00:00' })).toBe(
      '2026-11-24T23:30:00.000Z',
    );
  });
});
