import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  BUNDLE_HOURS,
  BUNDLE_LEAD_MS,
  BUNDLINGS,
  bundleEnd,
  bundleTitle,
  bundlingFor,
  mayWaitFor,
  type Bundleable,
} from '../../src/core/bundling/bundling.ts';
import { together, type Going } from '../../src/core/bundling/together.ts';
import { quietUntil } from '../../src/core/timing/quiet.ts';
import { wallAt } from '../../src/core/timing/wallTime.ts';

const at = (iso: string): number => Date.parse(iso);
const routine: Bundleable = {
  importance: 'routine',
  test: false,
  chase: false,
  deadlineMs: null,
  eventMs: null,
};

describe('a bundle', () => {
  it('goes at the next of its hours on the reader’s own clock, or at once at one of them', () => {
    const london = (iso: string, how: (typeof BUNDLINGS)[number]): string =>
      wallAt(bundleEnd(at(iso), 'Europe/London', how), 'Europe/London');
    expect(london('2026-11-27T08:10Z', 'twice')).toBe('2026-11-27T09:00');
    expect(london('2026-11-27T09:00Z', 'twice')).toBe('2026-11-27T09:00');
    expect(london('2026-11-27T16:00:00.001Z', 'twice')).toBe('2026-11-28T09:00');
    expect(london('2026-07-01T08:10Z', 'three times')).toBe('2026-07-01T13:00');
    expect(london('2026-11-27T23:30Z', 'hourly')).toBe('2026-11-28T00:00');
    expect(bundleEnd(at('2026-11-27T08:10Z'), 'Europe/London', 'as it comes')).toBe(at('2026-11-27T08:10Z'));
    // Ten in the morning in Kathmandu, which is 5 hours and 45 minutes ahead.
    expect(bundleEnd(at('2026-11-27T04:15Z'), 'Asia/Kathmandu', 'hourly')).toBe(at('2026-11-27T04:15Z'));
    // One o’clock does not exist in London on that night: what waits for it goes at two.
    expect(london('2027-03-28T00:20Z', 'hourly')).toBe('2027-03-28T02:00');
  });

  it('never goes before it is due, nor later than a day and the clock’s change after, and always at one of its hours', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: at('2026-01-01T00:00Z'), max: at('2028-01-01T00:00Z') }),
        fc.constantFrom('Europe/London', 'Asia/Kathmandu', 'Australia/Lord_Howe', 'Pacific/Auckland'),
        fc.constantFrom(...BUNDLINGS.filter((each) => BUNDLE_HOURS[each].length > 0)),
        (dueMs, zone, how) => {
          const end = bundleEnd(dueMs, zone, how);
          expect(end).toBeGreaterThanOrEqual(dueMs);
          expect(end - dueMs).toBeLessThanOrEqual(26 * 3_600_000);
          const time = wallAt(end, zone).slice(11);
          // At Lord Howe the clock moves by half an hour, so that a skipped full hour lands on a half.
          expect([...BUNDLE_HOURS[how], '02:30']).toContain(time);
          // What is due at the end of a bundle goes in that bundle.
          expect(bundleEnd(end, zone, how)).toBe(end);
        },
      ),
    );
  });

  it('leaves whoever is in their quiet hours in peace', () => {
    const night = { from: '21:00', to: '07:00' };
    const end = (iso: string, how: (typeof BUNDLINGS)[number], quiet = night): string =>
      wallAt(bundleEnd(at(iso), 'Europe/London', how, quiet), 'Europe/London');
    expect(end('2026-11-27T19:30Z', 'hourly')).toBe('2026-11-27T20:00');
    expect(end('2026-11-27T20:30Z', 'hourly')).toBe('2026-11-28T07:00');
    expect(end('2026-11-27T16:30Z', 'twice', { from: '08:00', to: '12:00' })).toBe('2026-11-28T16:00');
    // The one hour of theirs always lies in them: it goes when they end.
    expect(end('2026-11-27T10:30Z', 'daily', { from: '15:00', to: '17:30' })).toBe('2026-11-27T17:30');
    const hour = fc.integer({ min: 0, max: 23 }).map((each) => `${String(each).padStart(2, '0')}:30`);
    fc.assert(
      fc.property(
        fc.integer({ min: at('2026-01-01T00:00Z'), max: at('2028-01-01T00:00Z') }),
        fc.constantFrom('Europe/London', 'Asia/Kathmandu', 'Australia/Lord_Howe', 'Pacific/Auckland'),
        fc.constantFrom(...BUNDLINGS.filter((each) => BUNDLE_HOURS[each].length > 0)),
        fc.record({ from: hour, to: hour }),
        (dueMs, zone, how, quiet) => {
          const reachesMs = quietUntil(dueMs, zone, quiet);
          const goesMs = bundleEnd(reachesMs, zone, how, quiet);
          expect(goesMs).toBeGreaterThanOrEqual(reachesMs);
          expect(quietUntil(goesMs, zone, quiet)).toBe(goesMs);
        },
      ),
    );
  });

  it('is for routine matter alone, and never makes an answer or an event come too late', () => {
    const end = at('2026-11-27T16:00Z');
    expect(mayWaitFor(routine, end)).toBe(true);
    for (const importance of ['important', 'urgent'] as const)
      expect(mayWaitFor({ ...routine, importance }, end)).toBe(false);
    expect(mayWaitFor({ ...routine, test: true }, end)).toBe(false);
    expect(mayWaitFor({ ...routine, chase: true }, end)).toBe(false);
    for (const field of ['deadlineMs', 'eventMs'] as const) {
      expect(mayWaitFor({ ...routine, [field]: end + BUNDLE_LEAD_MS }, end)).toBe(true);
      expect(mayWaitFor({ ...routine, [field]: end + BUNDLE_LEAD_MS - 1 }, end)).toBe(false);
    }
  });

  it('is as a person chose; else the most frequent of their groups; else as everybody has it', () => {
    const chosen = { own: null, groups: ['daily', 'hourly'] as const, ofAll: 'twice' as const };
    expect(bundlingFor({ ...chosen, own: 'daily' })).toBe('daily');
    expect(bundlingFor(chosen)).toBe('hourly');
    expect(bundlingFor({ ...chosen, groups: ['daily', 'as it comes'] })).toBe('as it comes');
    expect(bundlingFor({ ...chosen, groups: [] })).toBe('twice');
  });

  it('names what is in it, as far as a subject goes', () => {
    expect(bundleTitle(['Rota', 'Lift'])).toBe('2 announcements: Rota · Lift');
    const long = bundleTitle(['A'.repeat(200), 'B']);
    expect(long.length).toBeLessThanOrEqual(110);
    expect(long.endsWith(' …')).toBe(true);
  });
});

describe('what comes together', () => {
  const going = (dueMs: number, part: Partial<Bundleable> = {}): Going => ({
    what: { ...routine, ...part },
    dues: [{ zone: '', dueMs }],
  });
  const morning = going(at('2026-11-27T10:00Z'));
  const noon = going(at('2026-11-27T12:00Z'));
  const urgent = going(at('2026-11-27T12:00Z'), { importance: 'urgent' });

  it('counts as one thing, and what does not wait counts by itself', () => {
    const found = together(
      morning,
      [noon, urgent],
      [
        { zone: 'Europe/London', quiet: null, bundling: 'daily', gets: [true, true], people: 5 },
        { zone: 'Europe/London', quiet: null, bundling: 'daily', gets: [false, true], people: 2 },
        { zone: 'Europe/London', quiet: null, bundling: 'as it comes', gets: [true, true], people: 3 },
        // For them the hour between the two is one of a bundle.
        { zone: 'Europe/London', quiet: null, bundling: 'hourly', gets: [true, false], people: 4 },
      ],
    );
    expect(found.waits).toEqual({
      people: 7,
      firstMs: at('2026-11-27T16:00Z'),
      lastMs: at('2026-11-27T16:00Z'),
    });
    expect(found.withOthers).toEqual([{ other: 0, people: 5 }]);
    expect(found.load).toEqual([
      { things: 3, people: 3 },
      { things: 2, people: 11 },
    ]);
  });

  it('is told by the clock of each reader', () => {
    const found = together(
      morning,
      [noon],
      [
        { zone: 'Europe/London', quiet: null, bundling: 'twice', gets: [true], people: 1 },
        { zone: 'Pacific/Auckland', quiet: null, bundling: 'twice', gets: [true], people: 1 },
      ],
    );
    expect(found.waits).toMatchObject({ firstMs: at('2026-11-27T16:00Z'), lastMs: at('2026-11-27T20:00Z') });
    expect(found.load).toEqual([{ things: 1, people: 2 }]);
  });
});
