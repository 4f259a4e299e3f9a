import { randomBytes } from 'node:crypto';
import { hostname } from 'node:os';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import type { ProcessLine } from '../../core/operating/running.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { MIGRATIONS_KNOWN } from '../database/migrate.ts';
import { heartbeat, signOff } from './processStore.ts';

const EVERY_MS = 5_000;
/** How finely it is measured how long work is held up: each step costs a little, all the time. */
const RESOLUTION_MS = 50;

/** A process that says of itself that it runs, how its clock goes, and how much it holds. */
export class Heartbeat {
  readonly name = `${hostname().slice(0, 40)}-${process.pid}-${randomBytes(3).toString('hex')}`;
  readonly #db: Database;
  readonly #kind: ProcessLine['kind'];
  readonly #startedMs = Date.now();
  readonly #delay = monitorEventLoopDelay({ resolution: RESOLUTION_MS });
  #timer: NodeJS.Timeout | undefined;

  constructor(db: Database, kind: ProcessLine['kind']) {
    this.#db = db;
    this.#kind = kind;
    this.#delay.enable();
  }

  /** Writes that it runs once; gives how far this process's clock is ahead of the database's, in milliseconds. */
  async write(mailPaused: string | null = null): Promise<number> {
    const before = Date.now();
    const theirs = await databaseNow(this.#db);
    const skewMs = (before + Date.now()) / 2 - theirs;
    // Nanoseconds; what it is asked for every 20 ms comes that much late at the least.
    const heldUpMs = Math.max(0, this.#delay.percentile(99) / 1e6 - RESOLUTION_MS);
    this.#delay.reset();
    await heartbeat(this.#db, {
      name: this.name,
      kind: this.#kind,
      host: hostname().slice(0, 64),
      pid: process.pid,
      known: MIGRATIONS_KNOWN,
      startedMs: this.#startedMs - skewMs,
      skewMs,
      rssBytes: process.memoryUsage.rss(),
      heldUpMs: Number.isFinite(heldUpMs) ? heldUpMs : 0,
      mailPaused,
    });
    return skewMs;
  }

  /** Says so every few seconds until it stops; while the database is away nothing is said. */
  start(): void {
    const say = (): void => {
      this.write()
        .catch(() => undefined)
        .finally(() => {
          if (this.#timer !== undefined) this.#timer = setTimeout(say, EVERY_MS).unref();
        });
    };
    this.#timer = setTimeout(say, 0).unref();
  }

  /** Says that it ends. */
  async stop(): Promise<void> {
    clearTimeout(this.#timer);
    this.#timer = undefined;
    this.#delay.disable();
    await signOff(this.#db, this.name).catch(() => undefined);
  }
}
