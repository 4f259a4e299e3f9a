import { expect, it } from 'vitest';
import { clashingZones, type Due } from '../../src/core/load/clash.ts';

const HOUR = 3_600_000;
const everybody = (hour: number): Due[] => [{ zone: '', dueMs: hour * HOUR }];
/** Nine o'clock where each reader is, on a day that begins at hour 0 in UTC. */
const local: Due[] = [
  { zone: 'Pacific/Auckland', dueMs: -4 * HOUR },
  { zone: 'Europe/London', dueMs: 9 * HOUR },
  { zone: 'America/Denver', dueMs: 16 * HOUR },
];

it('two for everybody clash everywhere or nowhere', () => {
  expect(clashingZones(everybody(9), everybody(10), 2 * HOUR)).toBe('all');
  expect(clashingZones(everybody(9), everybody(11), 2 * HOUR)).toEqual([]);
});

it('one by readers’ clocks clashes only where its hour is near', () => {
  expect(clashingZones(local, everybody(10), 2 * HOUR)).toEqual(['Europe/London']);
  expect(clashingZones(everybody(2), local, 2 * HOUR)).toEqual([]);
});

it('two by readers’ clocks clash zone by zone', () => {
  const later = local.map((due) => ({ ...due, dueMs: due.dueMs + HOUR }));
  expect(clashingZones(local, later, 2 * HOUR)).toHaveLength(3);
  // Half past four in the afternoon UTC is near Denver's nine, but these are Auckland's readers.
  expect(clashingZones([{ zone: 'Pacific/Auckland', dueMs: 16 * HOUR }], local, 2 * HOUR)).toEqual([]);
});
