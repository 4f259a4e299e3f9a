import { afterFailure, type Failure, type Verdict } from '../../core/delivery/retry.ts';
import type { Database } from '../database/connection.ts';
import { failureOf, type MailTransport } from '../mail/transport.ts';
import { reasonOf } from '../aside/store.ts';
import type { Claimant } from './store.ts';
import { claimMail, recordMailOutcome, type ClaimedMail, type MailKey } from './mailStore.ts';
import { MailWriting, type WritingWorld, type Written, type WrittenMail } from './mailWriting.ts';
import { MailOutcomes } from './mailOutcomes.ts';

/** What a batch of mail needs to know of the world. */
export interface MailWorld extends WritingWorld {
  transport: MailTransport;
  /** How many mails are handed over at once. */
  connections: number;
  /** The process is to end. */
  stop?: AbortSignal;
}

/** What came of a batch: the occurrences touched, and why the server could not be reached where that is so. */
export interface BatchResult {
  claimed: number;
  delivered: number;
  failed: number;
  occurrenceIds: number[];
  unreachable: string | null;
}

const NOTHING_WRITTEN: WrittenMail = { letters: [], unwritten: [] };

interface Prepared {
  claimedAt: number;
  letters: Written[];
  /** How many could not be written and are given up. */
  failed: number;
}

const OUT_OF_TURN = { reason: 'Waiting for its turn at the mail server', waitMs: 0, uncounted: true };

/** Why the server could not be reached, found out by one worker and heeded by all. */
class Outage {
  reason: string | null = null;
}

/** Hands mail over, batch by batch. */
export class MailRun {
  readonly #db: Database;
  readonly #world: MailWorld;
  readonly #claimant: Claimant;
  readonly #writing: MailWriting;
  /** The next batch, claimed and written while the one before is on the wire. */
  #ahead: Promise<Prepared> | null = null;
  /** Mail of a claim that failed: whether the database took it is not known. */
  #unsure: readonly MailKey[] = [];
  /** How often in a row the server could not be reached. */
  #unreachableRuns = 0;

  constructor(db: Database, world: MailWorld, claimant: Claimant) {
    this.#db = db;
    this.#world = world;
    this.#claimant = claimant;
    this.#writing = new MailWriting(db, world);
  }

  /** The wait before the next try of a server that could not be reached; null where the last one could. */
  get pauseMs(): number | null {
    if (this.#unreachableRuns === 0) return null;
    const verdict = afterFailure(
      { kind: 'unreachable', reason: '' },
      this.#unreachableRuns,
      0,
      Math.random(),
    );
    return verdict.outcome === 'retry' ? verdict.waitMs : null;
  }

  /** Claims mail and writes its letters. */
  async #prepare(most: number): Promise<Prepared> {
    const claimedAt = Date.now();
    const { claimed, letters, unwritten } = await this.#claim(most);
    if (claimed.length === 0) return { claimedAt, letters: [], failed: 0 };
    // What cannot be written is tried again after a growing wait, and the rest of the batch goes.
    const outcomes = new MailOutcomes(this.#db, this.#claimant.engine);
    let failed = 0;
    for (const [row, error] of unwritten) {
      const failure = {
        kind: 'temporary',
        reason: `The mail could not be written: ${reasonOf(error)}`,
      } as const;
      const verdict = afterFailure(failure, row.attempts, this.#world.nowMs() - row.dueMs, Math.random());
      if (verdict.outcome === 'failed') failed++;
      outcomes.add(
        row,
        verdict.outcome === 'failed'
          ? { state: 'failed', reason: verdict.reason }
          : { state: 'waiting', reason: verdict.reason, waitMs: verdict.waitMs, uncounted: false },
      );
    }
    await outcomes.end();
    return { claimedAt, letters, failed };
  }

  /** Claims mail and writes its letters. Where that fails what was claimed is given back before the next claim, not at the end of its own. */
  async #claim(most: number): Promise<{ claimed: readonly ClaimedMail[] } & WrittenMail> {
    await this.#giveBack(this.#unsure);
    this.#unsure = [];
    let found: readonly MailKey[] = [];
    try {
      const claimed = await claimMail(this.#db, this.#claimant, most, (keys) => (found = keys));
      return { claimed, ...(claimed.length > 0 ? await this.#writing.write(claimed) : NOTHING_WRITTEN) };
    } catch (error) {
      this.#unsure = found;
      throw error;
    }
  }

  #giveBack(keys: readonly MailKey[]): Promise<void> {
    return recordMailOutcome(this.#db, this.#claimant.engine, keys, { state: 'waiting', ...OUT_OF_TURN });
  }

  /** Gives back what was claimed ahead, when the engine stops. */
  async release(): Promise<void> {
    const ahead = this.#ahead;
    this.#ahead = null;
    const rows = (await ahead?.catch(() => undefined))?.letters.flatMap(([of]) => of) ?? [];
    await this.#giveBack([...rows, ...this.#unsure]);
  }

  /**
   * Hands a batch of mail over and writes what became of each. While one batch is on the wire the next is claimed and
   * written. A server that is down is tried with a single mail.
   */
  async batch(most: number): Promise<BatchResult> {
    // Taken before it is waited for: a claim that failed must not be met again at every turn.
    const ahead = this.#ahead;
    this.#ahead = null;
    const { claimedAt, letters, failed } = await (ahead ??
      this.#prepare(this.#unreachableRuns > 0 ? 1 : most));
    const rowsOf = letters.flatMap(([of]) => of);
    const result: BatchResult = {
      claimed: letters.length,
      delivered: 0,
      failed,
      occurrenceIds: [...new Set(rowsOf.map((row) => row.occurrenceId))],
      unreachable: null,
    };
    if (letters.length === 0) return result;
    if (letters.length >= most && this.#unreachableRuns === 0) {
      this.#ahead = this.#prepare(most);
      // Its failure is met when it is waited for.
      this.#ahead.catch(() => undefined);
    }

    const down = new Outage();
    const outcomes = new MailOutcomes(this.#db, this.#claimant.engine, this.#world.stop);
    const queue = [...letters];
    const worker = async (): Promise<void> => {
      for (let next = queue.shift(); next; next = queue.shift()) {
        await outcomes.room();
        const [of, mail] = next;
        const record = (outcome: Parameters<MailOutcomes['add']>[1]): void =>
          of.forEach((row) => outcomes.add(row, outcome));
        // A claim has an end. What did not get its turn in the first third of it goes back in line unsent.
        const turnOver = Date.now() - claimedAt > (this.#claimant.seconds * 1000) / 3;
        if (turnOver || down.reason !== null) {
          record({
            state: 'waiting',
            ...OUT_OF_TURN,
            ...(down.reason === null ? {} : { reason: down.reason }),
          });
          continue;
        }
        try {
          await this.#world.transport.send(mail);
          this.#unreachableRuns = 0;
          result.delivered += of.length;
          record({ state: 'delivered' });
        } catch (error) {
          const failure = failureOf(error);
          const verdict = this.#judge(failure, of, down);
          if (verdict.outcome === 'failed') {
            result.failed += of.length;
            record({ state: 'failed', reason: verdict.reason });
          } else
            record({
              state: 'waiting',
              reason: verdict.reason,
              waitMs: verdict.waitMs,
              uncounted: failure.kind === 'unreachable',
            });
        }
      }
    };
    await Promise.all(Array.from({ length: this.#world.connections }, worker));
    await outcomes.end();
    result.unreachable = down.reason;
    return result;
  }

  #judge(failure: Failure, of: readonly ClaimedMail[], down: Outage): Verdict {
    if (failure.kind === 'unreachable' && down.reason === null) {
      down.reason = failure.reason;
      this.#unreachableRuns++;
    }
    // What goes together is given up together: with the one that was tried most and has waited longest.
    const attempts =
      failure.kind === 'unreachable' ? this.#unreachableRuns : Math.max(...of.map((row) => row.attempts));
    const sinceMs = Math.min(...of.map((row) => row.dueMs));
    return afterFailure(failure, attempts, this.#world.nowMs() - sinceMs, Math.random());
  }
}
