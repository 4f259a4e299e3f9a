import type { Database } from '../database/connection.ts';
import { untilRecorded } from '../database/untilRecorded.ts';
import { settleMail, type ClaimedMail } from './mailStore.ts';

type Outcome = Parameters<typeof settleMail>[3];

/**
 * Gathers what became of mails and writes it soon after, many in one statement. A mail that was handed over but not
 * yet written when the process is killed goes again, with the same Message-ID: this is how little that can be. While the
 * database is away it is held until it can be written.
 */
export class Settlements {
  static readonly #soonMs = 40;
  static readonly #most = 200;
  readonly #db: Database;
  readonly #engine: string;
  #gathered: [ClaimedMail, Outcome][] = [];
  #timer: NodeJS.Timeout | undefined;
  #writing: Promise<void> = Promise.resolve();
  readonly #stop: AbortSignal | undefined;
  #held = false;

  constructor(db: Database, engine: string, stop?: AbortSignal) {
    this.#stop = stop;
    this.#db = db;
    this.#engine = engine;
  }

  add(row: ClaimedMail, outcome: Outcome): void {
    this.#gathered.push([row, outcome]);
    if (this.#gathered.length >= Settlements.#most) this.#flush();
    else this.#timer ??= setTimeout(() => this.#flush(), Settlements.#soonMs);
  }

  #flush(): void {
    clearTimeout(this.#timer);
    this.#timer = undefined;
    const gathered = this.#gathered;
    this.#gathered = [];
    const alike = new Map<string, { outcome: Outcome; rows: ClaimedMail[] }>();
    for (const [row, outcome] of gathered) {
      const key = JSON.stringify(outcome);
      const group = alike.get(key) ?? { outcome, rows: [] };
      group.rows.push(row);
      alike.set(key, group);
    }
    this.#writing = this.#writing.then(async () => {
      for (const { outcome, rows } of alike.values())
        await untilRecorded(() => settleMail(this.#db, this.#engine, rows, outcome), {
          waiting: () => (this.#held = true),
          stop: this.#stop,
        });
      this.#held = false;
    });
    this.#writing.catch(() => undefined);
  }

  /** Waits while what is gathered cannot be written: no more is handed over than can be held. */
  async room(): Promise<void> {
    if (this.#held) await this.#writing;
  }

  /** Writes what is left and waits until all is written. */
  async end(): Promise<void> {
    this.#flush();
    await this.#writing;
  }
}
