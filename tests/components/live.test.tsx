import { act, render } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { useLive } from '../../src/ui/useLive.ts';
import { liveAddresses, tellLive } from './page.ts';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

/** Lets a page's time go on, with all that is then due. */
const later = (ms: number): Promise<unknown> => act(() => vi.advanceTimersByTimeAsync(ms));

describe('an open page', () => {
  it('is told what happened since it was made also by the stream that takes the place of its first', async () => {
    function Part({ topic }: { topic: string }): null {
      useLive([topic], () => undefined);
      return null;
    }
    const page = render(<Part topic="arrivals" />);
    await later(1_000);
    // A part that wakes later than the others shows what the page came with, and has been told nothing since.
    page.rerender(
      <>
        <Part topic="arrivals" />
        <Part topic="automations" />
      </>,
    );
    await later(1_000);
    const [address, ...more] = liveAddresses();
    expect(more).toEqual([]);
    const { searchParams } = new URL(address ?? '', 'http://page.test');
    expect(searchParams.getAll('topic')).toEqual(['arrivals', 'automations']);
    expect(Number(searchParams.get('age'))).toBeGreaterThan(0);
  });

  it('fetches at most once a second however much changes, and once more for what changed last', async () => {
    const fetched = vi.fn();
    function Page(): null {
      useLive(['roll:7'], fetched);
      return null;
    }
    render(<Page />);
    await later(1_000);
    expect(tellLive('roll:7')).toBe(true);
    for (let i = 0; i < 40; i++) {
      tellLive('roll:7');
      await later(100);
    }
    // Within four seconds: at once, and then each second.
    expect(fetched.mock.calls.length).toBeGreaterThanOrEqual(4);
    expect(fetched.mock.calls.length).toBeLessThanOrEqual(5);
    const before = fetched.mock.calls.length;
    tellLive('roll:7');
    await later(5_000);
    expect(fetched.mock.calls.length).toBe(before + 1);
    await later(5_000);
    expect(fetched.mock.calls.length).toBe(before + 1);
  });

  it('does not fetch while it waits for the last, and does once that has come if more has changed', async () => {
    const come: (() => void)[] = [];
    const fetched = vi.fn(() => new Promise<void>((resolve) => come.push(resolve)));
    function Page(): null {
      useLive(['board:3'], fetched);
      return null;
    }
    const { unmount } = render(<Page />);
    await later(1_000);
    expect(tellLive('board:3')).toBe(true);
    await later(10_000);
    expect(fetched).toHaveBeenCalledTimes(1);
    for (let i = 0; i < 10; i++) {
      tellLive('board:3');
      await later(2_000);
    }
    expect(fetched).toHaveBeenCalledTimes(1);
    // A server that took so long is not asked again at once.
    come.shift()?.();
    await later(9_000);
    expect(fetched).toHaveBeenCalledTimes(1);
    await later(1_500);
    expect(fetched).toHaveBeenCalledTimes(2);
    // Nothing changed since: that it has come is no reason to fetch again.
    come.shift()?.();
    await later(20_000);
    expect(fetched).toHaveBeenCalledTimes(2);
    tellLive('board:3');
    unmount();
    await later(10_000);
    expect(fetched).toHaveBeenCalledTimes(2);
  });
});
