import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { DUE_KINDS, type DueKind, type DueTimes, type Glance } from '../../src/server/engine/dueStore.ts';
import { Waking } from '../../src/server/engine/waking.ts';

/** A database that says what is due, and counts how often it is asked. */
class Says {
  due = Object.fromEntries(DUE_KINDS.map((kind) => [kind, null])) as DueTimes['due'];
  place = 1;
  more = false;
  asked = 0;
  glanced = 0;
  away = false;
  readonly #beganMs = performance.now();
  nowMs(): number {
    return 1_000_000 + performance.now() - this.#beganMs;
  }
  read = (): Promise<DueTimes> => {
    this.asked++;
    if (this.away) return Promise.reject(new Error('away'));
    return Promise.resolve({ nowMs: this.nowMs(), place: this.place, due: { ...this.due } });
  };
  glance = (): Promise<Glance> => {
    this.glanced++;
    if (this.away) return Promise.reject(new Error('away'));
    return Promise.resolve({ place: this.place, more: this.more });
  };
}

let says: Says;
let stop: AbortController;
let errors: unknown[];
let waking: Waking;
let woken: string[];
const waits = (kind: DueKind | 'place', mostMs?: number): void => {
  void waking.wait(kind, mostMs).then(() => woken.push(kind));
};

beforeEach(() => {
  vi.useFakeTimers({
    toFake: ['setTimeout', 'clearTimeout', 'performance'],
    now: 0,
  });
  says = new Says();
  stop = new AbortController();
  errors = [];
  woken = [];
  waking = new Waking(says.read, says.glance, stop.signal, (error) => errors.push(error));
  void waking.run();
});
afterEach(async () => {
  stop.abort();
  await vi.advanceTimersByTimeAsync(100);
  vi.useRealTimers();
});

describe('an engine that waits', () => {
  it('is woken for what is due and for nothing else, and asks little while nothing happens', async () => {
    waits('mail');
    waits('asks');
    await vi.advanceTimersByTimeAsync(10_000);
    expect(woken).toEqual([]);
    expect(says.asked).toBeLessThan(7);
    expect(says.glanced).toBeLessThan(30);
    says.due.mail = says.nowMs();
    says.place = 2;
    await vi.advanceTimersByTimeAsync(500);
    expect(woken).toEqual(['mail']);
  });

  it('sees within two seconds what came due without any event, and at once what an event has not found its place for', async () => {
    waits('access letters');
    await vi.advanceTimersByTimeAsync(10_000);
    says.due['access letters'] = says.nowMs();
    await vi.advanceTimersByTimeAsync(2_500);
    expect(woken).toEqual(['access letters']);
    waits('events');
    says.due.events = says.nowMs();
    says.more = true;
    await vi.advanceTimersByTimeAsync(410);
    expect(woken).toEqual(['access letters', 'events']);
  });

  it('wakes at the instant that is known beforehand, and not before it', async () => {
    await vi.advanceTimersByTimeAsync(1);
    says.due.buckets = says.nowMs() + 2_345;
    waits('buckets');
    await vi.advanceTimersByTimeAsync(2_344);
    expect(woken).toEqual([]);
    await vi.advanceTimersByTimeAsync(5);
    expect(woken).toEqual(['buckets']);
  });

  it('looks again soon after something was done, and wakes all who wait for the same', async () => {
    waits('buckets');
    waits('buckets');
    await vi.advanceTimersByTimeAsync(50);
    says.due.buckets = says.nowMs();
    waking.stir();
    await vi.advanceTimersByTimeAsync(60);
    expect(woken).toEqual(['buckets', 'buckets']);
    const before = says.asked;
    await vi.advanceTimersByTimeAsync(10_000);
    // A second of looking often, then as before.
    expect(says.asked - before).toBeLessThan(60);
  });

  it('tells who waits for anything at all that something happened', async () => {
    await vi.advanceTimersByTimeAsync(10);
    waits('place', 5_000);
    await vi.advanceTimersByTimeAsync(1_000);
    expect(woken).toEqual([]);
    says.place = 2;
    await vi.advanceTimersByTimeAsync(500);
    expect(woken).toEqual(['place']);
    expect(waking.place).toBe(2);
  });

  it('has a turn taken after a while whatever the database says, goes on when it was away, and holds nobody once stopped', async () => {
    waits('rest');
    waits('automations', 500);
    says.away = true;
    await vi.advanceTimersByTimeAsync(3_000);
    expect(woken).toEqual(['automations']);
    expect(errors.length).toBeGreaterThan(1);
    says.away = false;
    await vi.advanceTimersByTimeAsync(120_000);
    expect(woken).toEqual(['automations', 'rest']);
    waits('events');
    stop.abort();
    await vi.advanceTimersByTimeAsync(1);
    await waking.wait('mail');
    expect(woken).toEqual(['automations', 'rest', 'events']);
  });
});
