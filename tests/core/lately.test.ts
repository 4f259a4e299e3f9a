import { expect, it } from 'vitest';
import { latelyWords } from '../../src/core/desk/lately.ts';
import { eveningBefore } from '../../src/core/timing/evening.ts';

it.each([
  ['2026-11-30T08:00:00Z', 'Europe/London', '2026-11-27T18:00:00.000Z'],
  ['2026-11-29T12:00:00Z', 'Europe/London', '2026-11-27T18:00:00.000Z'],
  ['2026-12-02T08:00:00Z', 'Europe/London', '2026-12-01T18:00:00.000Z'],
  // It is Tuesday there already, and the evening before was Monday’s.
  ['2026-11-30T12:00:00Z', 'Pacific/Auckland', '2026-11-30T05:00:00.000Z'],
  // The clock was put forward in between.
  ['2026-03-30T08:00:00Z', 'Europe/London', '2026-03-27T18:00:00.000Z'],
] as const)('the evening before %s in %s is %s', (now, zone, evening) =>
  expect(new Date(eveningBefore(Date.parse(now), zone)).toISOString()).toBe(evening),
);

it('tells only what there is', () => {
  const none = { sinceMs: 0, ran: 1, told: 1, notFound: 0, failed: 0, paused: 0 };
  expect(latelyWords(none)).toBe('1 run of an automation, 1 person told');
  expect(latelyWords({ ...none, ran: 4, told: 61, notFound: 2, failed: 1, paused: 1 })).toBe(
    '4 runs of automations, 61 people told, 2 not found, 1 failed, 1 paused',
  );
});
