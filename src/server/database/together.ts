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

/** What is done together is what comes to one database under one key; each key goes by itself, and is forgotten once nothing waits. */
export class TogetherByKey<T, R = void> {
  readonly #ofDatabases = new WeakMap<object, Map<string, Together<T, R>>>();
  readonly #most: number;

  /** @param options.most so many are done in one batch */
  constructor({ most }: { most: number }) {
    this.#most = most;
  }

  /**
   * @param work does what comes under this key; that of whoever asked while nothing was at work is taken for all until it is done
   * @returns what came of the item, as `Together` does
   */
  async add(
    db: object,
    key: string,
    item: T,
    work: (items: readonly T[]) => Promise<readonly R[]>,
  ): Promise<R> {
    const ofDatabase = this.#ofDatabases.get(db) ?? new Map<string, Together<T, R>>();
    this.#ofDatabases.set(db, ofDatabase);
    const together = ofDatabase.get(key) ?? new Together<T, R>(work, { most: this.#most });
    ofDatabase.set(key, together);
    try {
      return await together.add(item);
    } finally {
      if (together.idle && ofDatabase.get(key) === together) ofDatabase.delete(key);
    }
  }
}
