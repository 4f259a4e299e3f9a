import type { Database } from '../database/connection.ts';
import { untilRecorded } from '../database/untilRecorded.ts';
import { recordMailOutcome, type ClaimedMail } from './mailStore.ts';

type Outcome = Parameters<typeof recordMailOutcome>[3];

/**
 * Gathers what became of mails and writes it soon after, many in one statement. A mail that was handed over but not
 * yet written when the process is killed goes again, with the same Message-ID: this is how little that can be. While one
 * statement is on its way what comes is gathered for the next, so that a slow database is never further behind than that;
 * while it is away it is held until it can be written.
 */
export class MailOutcomes {
  static readonly #soonMs = 40;
  /** So many are gathered at most before what hands mails over waits. */
  static readonly most = 200;
  readonly #db: Database;
  readonly #engine: string;
  readonly #stop: AbortSignal | undefined;
  #gathered: [ClaimedMail, Outcome][] = [];
  #timer: NodeJS.Timeout | undefined;
  #writing: Promise<void> | null = null;
  #held = false;

  constructor(db: Database, engine: string, stop?: AbortSignal) {
    this.#stop = stop;
    this.#db = db;
    this.#engine = engine;
  }

  add(row: ClaimedMail, outcome: Outcome): void {
    this.#gathered.push([row, outcome]);
    if (this.#writing) return;
    if (this.#gathered.length >= MailOutcomes.most) this.#begin();
    else this.#timer ??= setTimeout(() => this.#begin(), MailOutcomes.#soonMs);
  }

  #begin(): void {
    clearTimeout(this.#timer);
    this.#timer = undefined;
    if (this.#writing || this.#gathered.length === 0) return;
    // Where it fails whoever waits for the end is told, and what was gathered since is written no more.
    const writing = this.#write().then(() => {
      this.#writing = null;
      this.#begin();
    });
    writing.catch(() => undefined);
    this.#writing = writing;
  }

  async #write(): Promise<void> {
    const alike = new Map<string, { outcome: Outcome; rows: ClaimedMail[] }>();
    for (const [row, outcome] of this.#gathered.splice(0)) {
      const key = JSON.stringify(outcome);
      const group = alike.get(key) ?? { outcome, rows: [] };
      group.rows.push(row);
      alike.set(key, group);
    }
    for (const { outcome, rows } of alike.values())
      await untilRecorded(() => recordMailOutcome(this.#db, this.#engine, rows, outcome), {
        waiting: () => (this.#held = true),
        stop: this.#stop,
      });
    this.#held = false;
  }

  /** Waits while what is gathered cannot be written: no more is handed over than can be held. */
  async room(): Promise<void> {
    while (this.#writing && (this.#held || this.#gathered.length >= MailOutcomes.most)) await this.#writing;
  }

  /** Writes what is left and waits until all is written. */
  async end(): Promise<void> {
    this.#begin();
    while (this.#writing) await this.#writing;
  }
}
