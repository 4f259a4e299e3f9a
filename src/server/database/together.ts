import { setTimeout as wait } from 'node:timers/promises';

/**
 * Does things together: one batch after another, each with all that was asked for while the one before was at work. What comes
 * alone is done at once, unless it is to wait a moment for others.
 */
export class Together<T, R = void> {
  readonly #work: (items: readonly T[]) => Promise<readonly R[]>;
  readonly #waitMs: number;
  readonly #most: number;
  #gathered: { item: T; done: (result: R) => void; failed: (error: unknown) => void }[] = [];
  #atWork: Promise<void> | null = null;

  /**
   * @param work gives what came of each item, in their order; where it fails, all of them fail with it
   * @param options.waitMs so long each batch waits for more
   * @param options.most so many are done in one batch
   */
  constructor(
    work: (items: readonly T[]) => Promise<readonly R[]>,
    { waitMs = 0, most = Number.POSITIVE_INFINITY }: { waitMs?: number; most?: number } = {},
  ) {
    this.#work = work;
    this.#waitMs = waitMs;
    this.#most = most;
  }

  /** Nothing is asked for, and nothing is at work. */
  get idle(): boolean {
    return this.#atWork === null && this.#gathered.length === 0;
  }

  /** Resolves with what came of it once its batch is done. */
  add(item: T): Promise<R> {
    return new Promise((done, failed) => {
      this.#gathered.push({ item, done, failed });
      this.#atWork ??= this.#through();
    });
  }

  async #through(): Promise<void> {
    while (this.#gathered.length > 0) {
      // All that is asked for at the same moment is one batch, also the first.
      await (this.#waitMs > 0 ? wait(this.#waitMs) : Promise.resolve());
      const batch = this.#gathered.splice(0, this.#most);
      try {
        const results = await this.#work(batch.map(({ item }) => item));
        for (const [at, { done }] of batch.entries()) done(results[at] as R);
      } catch (error) {
        for (const { failed } of batch) failed(error);
      }
    }
    // At once, so that whoever waited for the last finds it idle.
    this.#atWork = null;
  }
}
