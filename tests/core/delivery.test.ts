import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { byNeed, filled, tallyWords } from '../../src/core/asks/roll.ts';
import { percentile } from '../../src/core/delivery/lateness.ts';
import { afterFailure } from '../../src/core/delivery/retry.ts';

describe('after a failed hand-over', () => {
  it('a refusal is final, and a busy server is tried again with growing waits', () => {
    expect(afterFailure({ kind: 'refused', reason: '550' }, 1, 0, 0)).toEqual({
      outcome: 'failed',
      reason: '550',
    });
    const waits = [1, 2, 3, 4].map((attempts) => {
      const verdict = afterFailure({ kind: 'temporary', reason: '451' }, attempts, 0, 0.999_999);
      return verdict.outcome === 'retry' ? verdict.waitMs : 0;
    });
    expect(waits).toEqual([2000, 4000, 8000, 16_000]);
    expect(afterFailure({ kind: 'temporary', reason: '451' }, 12, 0, 0).outcome).toBe('failed');
  });

  it('an unreachable server never uses up attempts, only time', () => {
    const down = { kind: 'unreachable', reason: 'refused' } as const;
    expect(afterFailure(down, 10_000, 3_600_000, 0).outcome).toBe('retry');
    expect(afterFailure(down, 1, 48 * 3_600_000, 0).outcome).toBe('failed');
  });

  it('waits at least half of the full wait and never longer than it', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('temporary' as const, 'unreachable' as const),
        fc.integer({ min: 1, max: 11 }),
        fc.double({ min: 0, max: 0.999, noNaN: true }),
        (kind, attempts, random) => {
          const verdict = afterFailure({ kind, reason: '' }, attempts, 0, random);
          const full = Math.min(kind === 'unreachable' ? 30_000 : 1_800_000, 1000 * 2 ** attempts);
          if (verdict.outcome !== 'retry') throw new Error('gave up');
          expect(verdict.waitMs).toBeGreaterThanOrEqual(full / 2);
          expect(verdict.waitMs).toBeLessThanOrEqual(full);
        },
      ),
    );
  });
});

describe('figures', () => {
  it('percentiles follow the nearest-rank definition', () => {
    const values = [15, 20, 35, 40, 50];
    expect([0.05, 0.3, 0.4, 0.5, 1].map((share) => percentile(values, share))).toEqual([15, 20, 20, 35, 50]);
    expect(percentile([], 0.5)).toBeNull();
  });

  it('a roll says how full it is, and puts those with most to do first', () => {
    expect(filled({ asked: 0, answered: 0 })).toBe(0);
    expect(tallyWords({ asked: 2000, answered: 1999 }, 'acknowledgement')).toBe(
      '1,999 of 2,000 have acknowledged',
    );
    expect(tallyWords({ asked: 1, answered: 1 }, 'poll')).toBe('The one person asked has voted');
    const rows = [
      { name: 'A', asked: 2, answered: 2, opened: 0 },
      { name: 'B', asked: 4, answered: 1, opened: 0 },
      { name: 'C', asked: 8, answered: 2, opened: 0 },
    ];
    expect(byNeed(rows).map((row) => row.name)).toEqual(['C', 'B', 'A']);
  });
});
