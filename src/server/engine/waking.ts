import { DUE_KINDS, type DueKind, type DueTimes, type Glance } from './dueStore.ts';

/** How often it is looked whether anything happened while nothing does, and what is due for a while after something was done. */
const IDLE_MS = 400;
const BUSY_MS = 60;
/** What is due is looked at so often though nothing happened: not all that comes due is told of as an event. */
const FULL_MS = 2_000;
const BUSY_FOR_MS = 1_000;
/** A loop that waits takes a turn so often in any case: whatever was not foreseen is done then. */
const AT_LEAST_EVERY_MS = 120_000;
const AFTER_FAILURE_MS = 1_000;
/** Between two looks it is waited at least so long. */
const LEAST_MS = 10;
const NOTHING = (): void => undefined;

type Waiter = () => void;

/**
 * Wakes the loops of an engine when what they wait for is due. One statement tells of all of them; what is due at an instant
 * to come wakes its loop at that instant, and what is new is seen within the time between two looks. While nothing happens a
 * cheaper one tells only that.
 */
export class Waking {
  readonly #read: () => Promise<DueTimes>;
  readonly #glance: () => Promise<Glance>;
  readonly #signal: AbortSignal;
  readonly #failed: (error: unknown) => void;
  readonly #waiters = new Map<DueKind | 'place', Set<Waiter>>();
  readonly #timers = new Map<DueKind, NodeJS.Timeout>();
  #busyUntil = 0;
  #place = -1;
  /** When what is due is to be looked at again though nothing happened. */
  #fullAt = 0;
  /** Cuts the sleep between two looks short. */
  #cutShort = NOTHING;

  constructor(
    read: () => Promise<DueTimes>,
    glance: () => Promise<Glance>,
    signal: AbortSignal,
    failed: (error: unknown) => void,
  ) {
    this.#read = read;
    this.#glance = glance;
    this.#signal = signal;
    this.#failed = failed;
    signal.addEventListener('abort', () => this.#end());
  }

  /** The place of the last event, as of the last look; -1 before the first. */
  get place(): number {
    return this.#place;
  }

  /** Looks again and again until it is stopped. */
  async run(): Promise<void> {
    while (!this.#signal.aborted) {
      let wait = AFTER_FAILURE_MS;
      try {
        if (await this.#somethingHappened()) await this.#look();
        wait = performance.now() < this.#busyUntil ? BUSY_MS : IDLE_MS;
      } catch (error) {
        this.#failed(error);
      }
      await this.#sleep(wait);
    }
  }

  async #somethingHappened(): Promise<boolean> {
    const atMs = performance.now();
    if (atMs < this.#busyUntil || atMs >= this.#fullAt) return true;
    const { place, more } = await this.#glance();
    return more || place !== this.#place;
  }

  async #look(): Promise<void> {
    const { nowMs, place, due } = await this.#read();
    this.#fullAt = performance.now() + FULL_MS;
    for (const kind of DUE_KINDS) this.#meet(kind, due[kind], nowMs);
    if (place === this.#place) return;
    this.#place = place;
    this.#wake('place');
  }

  /** Says that something was done: more may have become due by it, so it is looked soon, and more often for a while. */
  stir(): void {
    this.#busyUntil = performance.now() + BUSY_FOR_MS;
    this.#cutShort();
  }

  /**
   * Until something of a kind is due, or something happened (`place`); at the longest two minutes, and not once it is stopped.
   *
   * @param mostMs the longest wait
   */
  wait(kind: DueKind | 'place', mostMs = AT_LEAST_EVERY_MS): Promise<void> {
    if (this.#signal.aborted) return Promise.resolve();
    return new Promise((resolve) => {
      const waiters = this.#waiters.get(kind) ?? new Set();
      this.#waiters.set(kind, waiters);
      const wake = (): void => {
        clearTimeout(timer);
        waiters.delete(wake);
        resolve();
      };
      const timer = setTimeout(wake, mostMs);
      waiters.add(wake);
    });
  }

  #meet(kind: DueKind, dueMs: number | null, nowMs: number): void {
    clearTimeout(this.#timers.get(kind));
    if (dueMs === null) return;
    if (dueMs <= nowMs) {
      this.#wake(kind);
      return;
    }
    // What is further off than the next look is met by that one.
    if (dueMs - nowMs > FULL_MS * 2) return;
    const met = (): void => {
      this.#busyUntil = Math.max(this.#busyUntil, performance.now() + BUSY_MS * 4);
      this.#wake(kind);
      this.#cutShort();
    };
    // A millisecond more: a timer may end a little early, and what is not quite due is not taken.
    this.#timers.set(kind, setTimeout(met, dueMs - nowMs + 1));
  }

  #wake(kind: DueKind | 'place'): void {
    for (const wake of [...(this.#waiters.get(kind) ?? [])]) wake();
  }

  #sleep(ms: number): Promise<void> {
    if (this.#signal.aborted) return Promise.resolve();
    return new Promise((resolve) => {
      const end = (): void => {
        this.#cutShort = NOTHING;
        resolve();
      };
      const timer = setTimeout(end, ms);
      this.#cutShort = () => {
        this.#cutShort = NOTHING;
        clearTimeout(timer);
        // Not to nothing: what is done in a hurry is looked at together.
        setTimeout(end, this.#signal.aborted ? 0 : Math.min(ms, LEAST_MS));
      };
    });
  }

  #end(): void {
    for (const timer of this.#timers.values()) clearTimeout(timer);
    this.#cutShort();
    for (const kind of this.#waiters.keys()) this.#wake(kind);
  }
}
