import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  datesAfter,
  neverAfter,
  relay,
  sessionWhenWords,
  type KnownDate,
  type LaidDate,
} from '../../src/core/calendar/dates.ts';
import { dateChangeSchema, sessionSchema } from '../../src/core/calendar/session.ts';
import { comingWords } from '../../src/core/calendar/words.ts';
import { WEEKLY, type Rule } from '../../src/core/timing/rule.ts';

const at = (iso: string): number => Date.parse(iso);
const weekly = (part: Partial<Rule> = {}): Rule => ({ ...WEEKLY, ...part });
const iso = (dates: readonly LaidDate[]): string[] =>
  dates.map((date) => new Date(date.startMs).toISOString().slice(0, 16));

describe('the dates of a session', () => {
  it('keep the hour of their zone across a change of its clock, and none is of the past', () => {
    const when = { wall: '2026-03-05T10:00', zone: 'Europe/London', rule: weekly() };
    expect(iso(datesAfter(when, at('2026-03-19T10:00:00Z')).slice(0, 2))).toEqual([
      '2026-03-26T10:00',
      '2026-04-02T09:00',
    ]);
  });

  it('are one for what happens once, however far ahead, and none once it has begun', () => {
    const once = { wall: '2029-05-01T09:00', zone: 'Asia/Tokyo', rule: null };
    expect(iso(datesAfter(once, at('2026-01-01T00:00:00Z')))).toEqual(['2029-05-01T00:00']);
    expect(datesAfter(once, at('2029-05-01T00:00:00Z'))).toEqual([]);
    expect(neverAfter(once, at('2029-05-01T00:00:00Z'))).toBe(
      'That time has passed. Choose one that is still to come.',
    );
  });

  it('count an hour the clock skips as an hour later', () => {
    const daily = {
      wall: '2026-03-28T02:30',
      zone: 'Europe/Madrid',
      rule: weekly({ freq: 'daily', end: { kind: 'count', count: 3 } }),
    };
    expect(iso(datesAfter(daily, at('2026-03-01T00:00:00Z')))).toEqual([
      '2026-03-28T01:30',
      '2026-03-29T01:30',
      '2026-03-30T00:30',
    ]);
  });

  it('say why there are none', () => {
    const rule = weekly({ end: { kind: 'until', date: '2026-02-01' } });
    expect(neverAfter({ wall: '2026-03-05T10:00', zone: 'UTC', rule }, at('2026-01-01T00:00:00Z'))).toMatch(
      /ends before it begins, so it never takes place/,
    );
    const past = weekly({ end: { kind: 'until', date: '2026-03-20' } });
    expect(
      neverAfter({ wall: '2026-03-05T10:00', zone: 'UTC', rule: past }, at('2026-06-01T00:00:00Z')),
    ).toMatch(/All its dates have passed/);
  });

  it('are read aloud with the clock they are of', () => {
    const nowMs = at('2025-11-01T00:00:00Z');
    expect(
      sessionWhenWords(
        { wall: '2026-12-03T10:00', zone: 'Europe/London', rule: weekly({ weekdays: ['TH'] }) },
        nowMs,
      ),
    ).toBe('every Thursday at 10:00 in London');
    expect(sessionWhenWords({ wall: '2026-12-03T10:00', zone: 'Asia/Tokyo', rule: null }, nowMs)).toBe(
      'on Thursday 3 December 2026 at 10:00 in Tokyo',
    );
  });
});

const DAY = 86_400_000;
const laid = (day: number, hour: number): LaidDate => ({
  meant: `2026-06-${String(day).padStart(2, '0')}T${String(hour).padStart(2, '0')}:00`,
  startMs: at('2026-06-01T00:00:00Z') + (day - 1) * DAY + hour * 3_600_000,
});
const known = (id: number, date: LaidDate, part: Partial<KnownDate> = {}): KnownDate => ({
  ...date,
  id,
  own: false,
  calledOff: false,
  answered: false,
  ...part,
});

describe('a change of times', () => {
  it('moves a date to another hour of its day, with what was said of it', () => {
    const date = known(1, laid(4, 10), { answered: true });
    expect(relay([date], [laid(4, 14), laid(11, 14)])).toMatchObject({
      moved: [{ date: { id: 1 }, to: laid(4, 14) }],
      made: [laid(11, 14)],
      calledOff: [],
    });
  });

  it('moves what happens once to another day, leaves what was put elsewhere by itself, and drops in silence only what nobody spoke of', () => {
    expect(relay([known(1, laid(4, 10), { answered: true })], [laid(9, 10)]).moved).toHaveLength(1);
    expect(relay([known(1, laid(4, 10), { own: true })], [laid(4, 14)])).toMatchObject({
      moved: [],
      kept: [{ id: 1 }],
    });
    const two = [known(1, laid(4, 10)), known(2, laid(11, 10), { answered: true })];
    expect(relay(two, [laid(5, 10), laid(12, 10)])).toMatchObject({
      dropped: [{ id: 1 }],
      calledOff: [{ id: 2 }],
      made: [laid(5, 10), laid(12, 10)],
    });
  });

  it('leaves each date in one place, and each time that is wanted has one date', () => {
    const dates = fc.uniqueArray(
      fc
        .tuple(fc.integer({ min: 1, max: 6 }), fc.constantFrom(9, 10, 14))
        .map(([day, hour]) => laid(day, hour)),
      { selector: (date) => date.meant, maxLength: 10 },
    );
    fc.assert(
      fc.property(
        dates,
        dates,
        fc.array(fc.record({ own: fc.boolean(), calledOff: fc.boolean(), answered: fc.boolean() }), {
          minLength: 10,
          maxLength: 10,
        }),
        (before, wanted, parts) => {
          const all = before.map((date, at_) => known(at_ + 1, date, parts[at_]));
          const relaid = relay(all, wanted);
          const places = [
            ...relaid.kept,
            ...relaid.dropped,
            ...relaid.calledOff,
            ...relaid.moved.map(({ date }) => date),
          ].map((date) => date.id);
          expect(places.sort((a, b) => a - b)).toEqual(all.map((date) => date.id));
          // Nothing that was said is lost without a word.
          expect(relaid.dropped.filter((date) => date.answered)).toEqual([]);
          const times = [...relaid.made, ...relaid.moved.map(({ to }) => to)].map((date) => date.meant);
          expect(new Set(times).size).toBe(times.length);
          for (const meant of times) expect(wanted.some((date) => date.meant === meant)).toBe(true);
          expect(relaid.made.length + relaid.moved.length + relaid.kept.length).toBeGreaterThanOrEqual(
            wanted.length,
          );
        },
      ),
    );
  });
});

describe('what is told of a session', () => {
  const base = {
    title: 'Vault drill',
    text: '',
    wall: '2026-12-03T10:00',
    zone: 'Europe/London',
    minutes: 60,
    place: 'The vault',
    link: '',
    rule: null,
    audience: { kind: 'everyone' },
    capacity: null,
    remindMinutes: null,
  };
  const wrong = (part: object): string[] =>
    sessionSchema.safeParse({ ...base, ...part }).error?.issues.map((issue) => issue.message) ?? [];

  it('is refused by field with the remedy', () => {
    expect(wrong({})).toEqual([]);
    expect(wrong({ title: ' \u200b ' })).toEqual(['Say what it is']);
    expect(wrong({ link: 'javascript:alert(1)' })[0]).toMatch(/no address/);
    expect(wrong({ zone: 'Mars/Base' })[0]).toMatch(/time zone/);
    expect(wrong({ capacity: 0 })).toEqual(['At least one can come']);
    expect(wrong({ remindMinutes: 20_000 })).toEqual(['At most a week before']);
    expect(
      dateChangeSchema.safeParse({ wall: '2026-02-30T10:00', minutes: 60, place: '', link: '', note: '' })
        .success,
    ).toBe(false);
  });

  it('says how many come, of how many, and who waits', () => {
    const date = { coming: 1, perhaps: 0, waiting: 0, capacity: null };
    const words = (part: object) => comingWords({ ...date, ...part } as Parameters<typeof comingWords>[0]);
    expect(words({})).toBe('1 person comes');
    expect(words({ coming: 20, capacity: 20, waiting: 3, perhaps: 2 })).toBe(
      '20 people come of at most 20; 2 perhaps; 3 wait',
    );
    expect(words({ coming: 0, capacity: 4 })).toBe('Nobody has said yes; at most 4 can');
  });
});
