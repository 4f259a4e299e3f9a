import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ageMarks } from '../../src/core/timing/ageMarks.ts';
import { axisMarks } from '../../src/core/timing/axis.ts';
import { dayAround } from '../../src/core/timing/day.ts';
import { isZone, resolveMoment, clockChangeWords, wallAt } from '../../src/core/timing/wallTime.ts';
import { momentSchema } from '../../src/core/timing/wallTimeSchema.ts';
import { dateWords, momentWords, spanWords, timeWords } from '../../src/core/timing/words.ts';

const iso = (wall: string, zone: string): string =>
  new Date(resolveMoment({ wall, zone }).epochMs).toISOString();

describe('an instant from a wall-clock time', () => {
  it('knows offsets of half and quarter hours on both sides of the world', () => {
    expect(iso('2026-12-01T09:00', 'Asia/Kathmandu')).toBe('2026-12-01T03:15:00.000Z');
    expect(iso('2026-12-01T09:00', 'Australia/Adelaide')).toBe('2026-11-30T22:30:00.000Z');
    expect(iso('2026-12-01T09:00', 'Pacific/Honolulu')).toBe('2026-12-01T19:00:00.000Z');
    expect(iso('2026-07-01T09:00', 'Atlantic/Azores')).toBe('2026-07-01T09:00:00.000Z');
  });

  it('reads an hour that the clock skips with the offset before the gap (RFC 5545 3.3.5)', () => {
    // Madrid goes from 02:00 to 03:00 on 29 March 2026.
    const skipped = resolveMoment({ wall: '2026-03-29T02:30', zone: 'Europe/Madrid' });
    expect(new Date(skipped.epochMs).toISOString()).toBe('2026-03-29T01:30:00.000Z');
    expect(skipped).toMatchObject({ hour: 'skipped', wall: '2026-03-29T03:30' });
    expect(clockChangeWords({ wall: '2026-03-29T02:30', zone: 'Europe/Madrid' })).toContain(
      'counts as 03:30',
    );
  });

  it('takes the first of an hour that comes twice (RFC 5545 3.3.5)', () => {
    // Denver goes back from 02:00 to 01:00 on 1 November 2026; 01:30 is first MDT, UTC-6.
    const twice = resolveMoment({ wall: '2026-11-01T01:30', zone: 'America/Denver' });
    expect(new Date(twice.epochMs).toISOString()).toBe('2026-11-01T07:30:00.000Z');
    expect(twice.hour).toBe('repeated');
    expect(clockChangeWords({ wall: '2026-11-01T01:30', zone: 'America/Denver' })).toContain(
      'first one counts',
    );
    expect(clockChangeWords({ wall: '2026-11-01T09:30', zone: 'America/Denver' })).toBeNull();
  });

  it('comes back to the same wall-clock time, but for skipped hours', () => {
    const zones = [
      'Atlantic/Azores',
      'Europe/London',
      'Asia/Kathmandu',
      'Australia/Adelaide',
      'Pacific/Auckland',
    ];
    fc.assert(
      fc.property(
        fc.date({ min: new Date('2020-01-01'), max: new Date('2037-01-01'), noInvalidDate: true }),
        fc.constantFrom(...zones),
        (date, zone) => {
          const wall = date.toISOString().slice(0, 16);
          const settled = resolveMoment({ wall, zone });
          expect(wallAt(settled.epochMs, zone)).toBe(settled.wall);
          if (settled.hour !== 'skipped') expect(settled.wall).toBe(wall);
        },
      ),
    );
  });

  it('tells the wall-clock time that the clocks of a zone show, also in the minutes around a change', () => {
    // London's clocks change at 01:00 UTC, Lord Howe's by half an hour, Apia's left out a day, Casablanca's turn back for a month.
    const zones = [
      'Europe/London',
      'Australia/Lord_Howe',
      'Pacific/Apia',
      'Africa/Casablanca',
      'Asia/Kathmandu',
    ];
    const shown = (ms: number, timeZone: string): string =>
      new Intl.DateTimeFormat('sv-SE', { timeZone, dateStyle: 'short', timeStyle: 'short' })
        .format(ms)
        .replace(' ', 'T');
    const around = [
      ['2026-03-29T01:00Z', 'Europe/London'],
      ['2026-10-25T01:00Z', 'Europe/London'],
      ['2011-12-30T10:00Z', 'Pacific/Apia'],
      ['2026-04-04T15:00Z', 'Australia/Lord_Howe'],
    ] as const;
    for (const [change, zone] of around)
      for (const off of [-60_000, -1, 0, 1, 60_000])
        expect(wallAt(Date.parse(change) + off, zone)).toBe(shown(Date.parse(change) + off, zone));
    fc.assert(
      fc.property(
        fc.integer({ min: Date.parse('1995-01-01'), max: Date.parse('2038-01-01') }),
        fc.constantFrom(...zones),
        (ms, zone) => {
          expect(wallAt(ms, zone)).toBe(shown(ms, zone));
        },
      ),
      { numRuns: 500 },
    );
  });

  it('refuses dates and zones that do not exist', () => {
    expect(momentSchema.safeParse({ wall: '2027-02-29T09:00', zone: 'UTC' }).success).toBe(false);
    expect(momentSchema.safeParse({ wall: '2028-02-29T09:00', zone: 'UTC' }).success).toBe(true);
    expect(momentSchema.safeParse({ wall: '2026-01-01T09:00', zone: 'Europe/Atlantis' }).success).toBe(false);
    expect(isZone('+05:00')).toBe(false);
    expect(isZone("Europe/London'; DROP")).toBe(false);
  });
});

describe('a day on the ribbon', () => {
  it('has 23 hours when the clock goes forward and 25 when it goes back', () => {
    const day = (instant: string, zone: string) => dayAround(Date.parse(instant), zone);
    const spring = day('2026-03-29T12:00Z', 'Europe/London');
    expect(spring.hours).toHaveLength(23);
    expect(spring.hours.map((hour) => hour.label)).not.toContain('01');
    const autumn = day('2026-10-25T12:00Z', 'Europe/London');
    expect(autumn.hours.filter((hour) => hour.label === '01')).toHaveLength(2);
    expect(autumn.endMs - autumn.startMs).toBe(25 * 3_600_000);
    // Auckland is a day ahead of an instant that is still yesterday in Honolulu.
    expect(day('2026-12-01T11:30Z', 'Pacific/Auckland').date).toBe('2026-12-02');
    expect(dayAround(Date.parse('2026-12-01T11:30Z'), 'Pacific/Honolulu', -1).date).toBe('2026-11-30');
  });
});

describe('times in words', () => {
  it('are told in the zone asked for, with the year where it is another', () => {
    const at = Date.parse('2026-12-31T23:05:07Z');
    expect(timeWords(at, 'UTC', true)).toBe('23:05:07');
    expect(momentWords(at, 'Asia/Kathmandu', at)).toBe('04:50 on Friday 1 January');
    expect(dateWords(at, 'UTC', Date.parse('2027-03-01T00:00Z'))).toBe('Thursday 31 December 2026');
    expect([spanWords(400), spanWords(12_000), spanWords(300_000), spanWords(4 * 3_600_000)]).toEqual([
      '0.4 s',
      '12 s',
      '5 min',
      '4 h',
    ]);
  });
});

describe('an axis of time', () => {
  const words = (from: string, to: string, zone: string): string[] =>
    axisMarks(Date.parse(from), Date.parse(to), zone).map((ms) => new Date(ms).toISOString().slice(5, 16));

  it('is marked at round times and midnights of the reader’s clock, also across its change', () => {
    expect(words('2026-11-25T09:00Z', '2026-11-28T06:35Z', 'Europe/London')).toEqual([
      '11-25T12:00',
      '11-26T00:00',
      '11-26T12:00',
      '11-27T00:00',
      '11-27T12:00',
      '11-28T00:00',
    ]);
    expect(words('2026-11-30T09:02Z', '2026-11-30T09:31Z', 'Asia/Kathmandu')).toEqual([
      '11-30T09:05',
      '11-30T09:10',
      '11-30T09:15',
      '11-30T09:20',
      '11-30T09:25',
      '11-30T09:30',
    ]);
    // The clock is put forward at one: midnight is at 00:00 before, and at 23:00 after.
    expect(words('2026-03-27T12:00Z', '2026-04-01T12:00Z', 'Europe/London')).toEqual([
      '03-28T00:00',
      '03-29T00:00',
      '03-29T23:00',
      '03-30T23:00',
      '03-31T23:00',
    ]);
    expect(words('2026-11-30T09:01Z', '2026-11-30T09:02Z', 'UTC')).toEqual([]);
  });

  it('has two to eight marks within its ends, in their order, whatever it spans', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: Date.UTC(2020, 0), max: Date.UTC(2040, 0) }),
        fc.double({ min: Math.log(12), max: Math.log(60 * 24 * 365 * 6), noNaN: true }),
        fc.constantFrom('Europe/London', 'Australia/Lord_Howe', 'Asia/Kathmandu', 'America/Denver', 'UTC'),
        (fromMs, minutes, zone) => {
          const toMs = fromMs + Math.round(Math.exp(minutes) * 60_000);
          const marks = axisMarks(fromMs, toMs, zone);
          expect(marks.length).toBeGreaterThanOrEqual(2);
          expect(marks.length).toBeLessThanOrEqual(8);
          expect(marks).toEqual([...new Set(marks)].sort((a, b) => a - b));
          expect(marks.every((at) => at >= fromMs && at <= toMs)).toBe(true);
        },
      ),
    );
  });

  it('of ages is marked at round ones from 0 on, eight at the most', () => {
    expect(ageMarks(7 * 1440)).toEqual([0, 1440, 2880, 4320, 5760, 7200, 8640, 10_080]);
    expect(ageMarks(95)).toEqual([0, 15, 30, 45, 60, 75, 90]);
    expect(ageMarks(0)).toEqual([0]);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 5_000_000 }), (to) => {
        const marks = ageMarks(to);
        expect(marks.length).toBeLessThanOrEqual(8);
        expect(marks.length).toBeGreaterThanOrEqual(2);
        expect(marks.at(-1)).toBeLessThanOrEqual(to);
      }),
    );
  });
});
