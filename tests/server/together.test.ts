import { setTimeout as wait } from 'node:timers/promises';
import { describe, expect, it } from 'vitest';
import { Together } from '../../src/server/database/together.ts';

/** Work that takes a moment, and what it was given each time. */
function working(options: { waitMs?: number; most?: number } = {}, refuses: number[] = []) {
  const batches: number[][] = [];
  const underWay = { now: 0, most: 0 };
  const together = new Together<number, string>(async (items) => {
    batches.push([...items]);
    underWay.most = Math.max(underWay.most, ++underWay.now);
    await wait(20);
    underWay.now--;
    if (items.some((item) => refuses.includes(item))) throw new Error(`Not ${items.join(' ')}`);
    return items.map((item) => `done ${item}`);
  }, options);
  return { together, batches, underWay };
}

describe('what is done together', () => {
  it('is done at once where it comes alone, and with all that came meanwhile where it has to wait, one batch after another', async () => {
    const { together, batches, underWay } = working();
    const first = together.add(1);
    await wait(5);
    const others = [2, 3, 4].map((item) => together.add(item));
    expect(await first).toBe('done 1');
    await wait(5);
    const last = together.add(5);
    expect(await Promise.all([...others, last])).toEqual(['done 2', 'done 3', 'done 4', 'done 5']);
    expect(batches).toEqual([[1], [2, 3, 4], [5]]);
    expect(underWay.most).toBe(1);
    expect(together.idle).toBe(true);
    expect(await together.add(6)).toBe('done 6');
  });

  it('is no more than so many in a batch, in the order in which it came', async () => {
    const { together, batches } = working({ most: 2 });
    await Promise.all([1, 2, 3, 4, 5].map((item) => together.add(item)));
    expect(batches).toEqual([[1, 2], [3, 4], [5]]);
  });

  it('fails with its own batch, and those that come after do not', async () => {
    const { together } = working({ most: 2 }, [2]);
    const all = await Promise.allSettled([1, 2, 3].map((item) => together.add(item)));
    expect(all.map(({ status }) => status)).toEqual(['rejected', 'rejected', 'fulfilled']);
    expect(await together.add(4)).toBe('done 4');
  });

  it('waits a moment for others where it is to', async () => {
    const { together, batches } = working({ waitMs: 30 });
    const first = together.add(1);
    await wait(5);
    await Promise.all([first, together.add(2)]);
    expect(batches).toEqual([[1, 2]]);
  });
});
