import { expect, it } from 'vitest';
import { MOST_A_MINUTE, POINTS_A_MINUTE, pointsOfCall } from '../../src/core/gateways/limits.ts';

it('a minute has room for as many calls as a way in is set to, and for not one more', () => {
  for (let perMinute = 1; perMinute <= MOST_A_MINUTE; perMinute++)
    expect(Math.floor(POINTS_A_MINUTE / pointsOfCall(perMinute))).toBe(perMinute);
});
