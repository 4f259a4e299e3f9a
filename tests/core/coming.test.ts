import { acknowledgement } from '../../src/core/asks/acknowledgement/acknowledgement.ts';
import { describe, expect, it } from 'vitest';
import { bucketsAt } from '../../src/core/plan/buckets.ts';
import { comingOccurrences } from '../../src/core/plan/coming.ts';
import {
  bucketsOnce,
  EMPTY_PLAN,
  planProblems,
  planWarnings,
  spanOf,
  type Plan,
} from '../../src/core/plan/plan.ts';
import { sentenceText } from '../../src/core/plan/sentence.ts';
import { dueToReader } from '../../src/core/sends/rehearsal.ts';
import { WEEKLY } from '../../src/core/timing/rule.ts';

const ZONES = [
  'Asia/Kathmandu',
  'Australia/Adelaide',
  'Europe/London',
  'Pacific/Auckland',
  'Pacific/Honolulu',
];
const NOW = Date.parse('2026-11-24T10:00:00Z');
const iso = (ms: number): string => new Date(ms).toISOString().slice(0, 16);
const names = {
  group: () => 'Vault keyholders',
  station: () => undefined,
  person: () => undefined,
  occurrence: () => undefined,
  board: () => undefined,
  outside: () => undefined,
};

describe('a wall-clock time where each reader is', () => {
  it('goes round the world from the east, with half and quarter hours', () => {
    const buckets = bucketsAt('2026-11-25T09:00', null, ZONES, {}, NOW);
    expect(buckets.map((bucket) => [bucket.zone, iso(bucket.dueMs)])).toEqual([
      ['Pacific/Auckland', '2026-11-24T20:00'],
      ['Australia/Adelaide', '2026-11-24T22:30'],
      ['Asia/Kathmandu', '2026-11-25T03:15'],
      ['Europe/London', '2026-11-25T09:00'],
      ['Pacific/Honolulu', '2026-11-25T19:00'],
    ]);
  });

  it('does what was chosen where the hour has passed', () => {
    const at = (passed: 'at once' | 'next day' | 'not') =>
      bucketsAt('2026-11-24T09:30', null, ['Asia/Kathmandu', 'Pacific/Honolulu'], { passed }, NOW);
    expect(at('at once').map((b) => [b.zone, b.pastHour, iso(b.dueMs)])).toEqual([
      ['Asia/Kathmandu', 'at once', '2026-11-24T10:00'],
      ['Pacific/Honolulu', 'as planned', '2026-11-24T19:30'],
    ]);
    expect(at('next day').map((b) => [b.zone, b.pastHour, iso(b.dueMs)])).toEqual([
      ['Pacific/Honolulu', 'as planned', '2026-11-24T19:30'],
      ['Asia/Kathmandu', 'next day', '2026-11-25T03:45'],
    ]);
    expect(spanOf(at('not'))).toEqual({
      firstMs: Date.parse('2026-11-24T19:30:00Z'),
      lastMs: Date.parse('2026-11-24T19:30:00Z'),
    });
  });

  it('reaches a reader at their zone’s bucket, with the last one where theirs has none, and after their rest', () => {
    const buckets = bucketsAt('2026-11-25T06:30', null, ['Europe/London', 'Pacific/Auckland'], {}, NOW);
    const due = (zone: string, quiet: { from: string; to: string } | null, waits = true) => {
      const { dueMs } = dueToReader(buckets, { zone, quiet }, null, waits);
      return dueMs === null ? null : iso(dueMs);
    };
    expect(due('Pacific/Auckland', null)).toBe('2026-11-24T17:30');
    expect(due('Pacific/Auckland', { from: '21:00', to: '07:00' })).toBe('2026-11-24T18:00');
    expect(due('Pacific/Auckland', { from: '21:00', to: '07:00' }, false)).toBe('2026-11-24T17:30');
    expect(due('America/Denver', null)).toBe('2026-11-25T06:30');
  });
});

describe('what recurs', () => {
  const timing = {
    kind: 'recurring' as const,
    start: '2026-11-02T09:00',
    zone: null,
    rule: { ...WEEKLY, weekdays: ['TU' as const] },
    passed: 'next day' as const,
  };

  it('begins with the occurrence that still has somebody to reach', () => {
    const [today, next] = comingOccurrences(timing, ZONES, NOW, { most: 2 });
    expect(today?.recursAt).toBe('2026-11-24T09:00');
    expect(today?.buckets.map((bucket) => bucket.pastHour).sort()).toEqual([
      'as planned',
      'next day',
      'next day',
      'next day',
      'next day',
    ]);
    expect(next?.buckets.every((bucket) => bucket.pastHour === 'as planned')).toBe(true);
  });

  it('in one zone leaves out what has passed there', () => {
    const [first] = comingOccurrences({ ...timing, zone: 'Asia/Kathmandu' }, [], NOW, { most: 1 });
    expect(first?.recursAt).toBe('2026-12-01T09:00');
    expect(
      comingOccurrences({ ...timing, zone: 'UTC' }, [], NOW, { most: 99, untilMs: NOW + 21 * 86_400_000 }),
    ).toHaveLength(3);
  });

  it('and the rest of a plan read as they are meant', () => {
    const plan: Plan = { ...EMPTY_PLAN, audience: { kind: 'group', id: 1 }, contacts: true, timing };
    expect(sentenceText(plan, names, NOW)).toBe(
      'To Vault keyholders, by inbox and mail, with their linked contacts copied in, ' +
        'every Tuesday at 09:00 their time, asking for nothing back.',
    );
    const before = { ...plan, contacts: false, timing: { kind: 'before event' as const, minutes: 1440 } };
    expect(sentenceText(before, names, NOW)).toContain('1 day before the event');
    const local = {
      ...plan,
      timing: { kind: 'local' as const, wall: '2026-12-01T09:00', passed: 'not' as const },
    };
    expect(sentenceText(local, names, NOW)).toContain('at 09:00 their time on Tuesday 1 December');
  });
});

describe('what a plan is told of', () => {
  const event = {
    wall: '2026-11-25T09:30',
    zone: 'Europe/London',
    minutes: 60,
    place: 'Here',
    link: '',
    signUp: false,
  };
  const plan = (part: Partial<Plan>): Plan => ({ ...EMPTY_PLAN, audience: { kind: 'everyone' }, ...part });
  const fields = (part: Partial<Plan>, of: typeof event | null = null): string[] =>
    planProblems(plan(part), of, ZONES, NOW).map((problem) => problem.field);

  it('what cannot be', () => {
    expect(fields({ timing: { kind: 'before event', minutes: 15 } })).toEqual(['timing']);
    expect(fields({ timing: { kind: 'before event', minutes: 3 * 1440 } }, event)).toEqual([
      'timing.minutes',
    ]);
    expect(fields({ timing: { kind: 'before event', minutes: 15 } }, event)).toEqual([]);
    expect(fields({ timing: { kind: 'local', wall: '2026-11-20T09:00', passed: 'at once' } })).toEqual([
      'timing.wall',
    ]);
    expect(
      fields({
        audience: null,
        boards: [1],
        timing: { kind: 'local', wall: '2026-12-01T09:00', passed: 'not' },
      }),
    ).toEqual(['timing']);
    const recurring: Plan['timing'] = {
      kind: 'recurring',
      start: '2026-12-01T09:00',
      zone: 'UTC',
      rule: { ...WEEKLY, end: { kind: 'until', date: '2026-11-01' } },
      passed: 'not',
    };
    expect(fields({ timing: recurring })).toEqual(['timing.rule']);
    const ask: Plan['ask'] = acknowledgement({ deadline: { wall: '2026-11-25T12:00', zone: 'UTC' } });
    // Noon in UTC is before nine in Honolulu.
    expect(fields({ timing: { kind: 'local', wall: '2026-11-25T09:00', passed: 'not' }, ask })).toEqual([
      'ask.deadline',
    ]);
  });

  it('what would come after the event it is about, and whose hour has passed', () => {
    const timing: Plan['timing'] = { kind: 'local', wall: '2026-11-25T09:00', passed: 'not' };
    const warnings = planWarnings(
      plan({ timing }),
      { event },
      bucketsOnce(timing, event, ZONES, NOW),
      'Europe/London',
    );
    expect(warnings.map((warning) => warning.detail)).toEqual([
      'In Honolulu it comes only after the event has begun (09:30 on Wednesday 25 November in London).',
    ]);
    const passed: Plan['timing'] = { kind: 'local', wall: '2026-11-24T12:00', passed: 'at once' };
    const told = planWarnings(
      plan({ timing: passed }),
      { event: null },
      bucketsOnce(passed, null, ZONES, NOW),
      'UTC',
    );
    expect(told.map((warning) => warning.detail)).toEqual([
      'The hour has passed in Kathmandu, Adelaide and Auckland: they get it at once.',
    ]);
  });
});
