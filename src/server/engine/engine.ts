import { setMaxListeners } from 'node:events';
import type { Logger } from 'pino';
import { nextReminder } from '../calendar/dateStore.ts';
import { readDue } from '../followed/reading.ts';
import { remindOfSessions } from '../calendar/reminding.ts';
import { transact, type Database } from '../database/connection.ts';
import { planAhead } from '../sends/planning.ts';
import { occurrencesByIds, type Occurrence } from '../sends/occurrenceStore.ts';
import type { EngineFigures } from '../metrics.ts';
import { emit } from '../events/store.ts';
import { nextAskDue } from '../asks/askStore.ts';
import { runAsks } from './askRun.ts';
import { giveUp, reasonOf, takeUpAgain } from '../aside/store.ts';
import { ARRIVAL_WHY, expand, isLostClaim, readWorld, type World } from './expand.ts';
import { MailRun } from './mailRun.ts';
import { NoticeRun, type NoticeWorld } from './noticeRun.ts';
import { nextBundle, nextNotice, tellArrivals, type NoticeMethod } from '../notices/store.ts';
import { waitingSql } from '../bundling/waiting.ts';
import { circumstances } from '../groups/directory.ts';
import { HandingOver } from '../gateways/handing.ts';
import { nextHandover } from '../gateways/outStore.ts';
import { nextRunTry } from '../automations/runStore.ts';
import { readDueSheets } from '../sheets/following/reading.ts';
import { runAutomations } from '../automations/running.ts';
import { Watch } from '../automations/watching.ts';
import { CONSUMERS } from '../events/consumers.ts';
import { followEvents } from '../events/follow.ts';
import {
  claimBuckets,
  endRest,
  failBucket,
  markSent,
  nextBucketDue,
  nextRestEnd,
  returnBucket,
  type Bucket,
  type Claimant,
} from './store.ts';
import { Beating } from '../operating/beating.ts';
import { forgetOld } from '../retention/forgetting.ts';
import { upkeep } from './upkeep.ts';
import { nextMailTry } from './mailStore.ts';
import { nextLetterTry } from '../database/letterClaims.ts';
import { handOverLetters } from './accessRun.ts';
import { confirmSignUps } from './confirmationRun.ts';

/** Longest sleep: new work due sooner than this after it was made cannot be missed, since every send is held longer. */
const LONGEST_SLEEP_MS = 500;
const BEAT_MS = 3_000;
const UPKEEP_MS = 15_000;
/** How often it is looked for what has been kept long enough; while there is more of it, how long between two pieces. */
const FORGET_MS = 600_000;
const FORGET_MORE_MS = 1000;
const PLAN_MS = 10_000;
const DIGESTS_MS = 20_000;
/** How long at most an event waits to be followed up while there is nothing else to do. */
const EVENTS_MS = 100;
/** How often it is looked for more to hand over while something is in hand. */
const HANDING_MS = 50;
/** How often it is looked whether anything happened that automations listen to. */
const WATCH_MS = 500;
/** How often it is looked whether somebody signed up from outside, or is to be told of it again. */
const CONFIRM_MS = 2_000;
/** How often it is looked whether a calendar elsewhere is to be read. */
const CALENDARS_MS = 5_000;
/** How often it is looked whether a record sheet is to be read from its source. */
const SHEETS_MS = 2_000;
const REST_BATCH = 5_000;
const BUCKET_LOOPS = 6;
const BUCKETS_AT_ONCE = 6;
const MAIL_BATCH = 400;
const MOST_ATTEMPTS = 8;

export interface EngineOptions extends Omit<NoticeWorld, 'nowMs'> {
  /** How long a claim holds without renewal, in seconds; after a crash another engine takes over when it ends. */
  bucketLeaseS: number;
  mailLeaseS: number;
  /** Addresses inside the house that automations may look things up at: origins the operator lists. */
  inside?: readonly string[];
}

/**
 * The clockwork: expands what comes due and hands over mail. Any number may run against one database. It goes by
 * the database's clock, stops cleanly, and may be killed at any point.
 */
export class Engine {
  readonly #db: Database;
  readonly #log: Logger;
  readonly #figures: EngineFigures;
  readonly #options: EngineOptions;
  readonly #beating: Beating;
  readonly #name: string;
  readonly #mail: MailRun;
  readonly #notices: NoticeRun;
  readonly #handing: HandingOver;
  readonly #stop = new AbortController();
  #loops: Promise<unknown> = Promise.resolve();
  #skewMs = 0;
  #mailPaused: string | null = null;

  constructor(db: Database, log: Logger, figures: EngineFigures, options: EngineOptions) {
    this.#db = db;
    this.#beating = new Beating(db, 'engine');
    this.#name = this.#beating.name;
    this.#log = log;
    this.#figures = figures;
    this.#options = options;
    this.#mail = new MailRun(
      db,
      { ...options, nowMs: () => this.#nowMs() },
      { engine: this.#name, seconds: options.mailLeaseS },
    );
    this.#handing = new HandingOver(
      db,
      this.#name,
      { asking: { secret: options.secret, inside: options.inside ?? [] }, publicUrl: options.publicUrl },
      (error, hook) => this.#log.error({ err: error, hook }, 'a way out could not be served'),
      (outcome) => this.#figures.deliveries.inc({ method: 'outside', outcome }),
    );
    this.#notices = new NoticeRun(db, { ...options, nowMs: () => this.#nowMs() }, options.mailLeaseS);
  }

  /** The database's clock, as far as this process knows it. */
  #nowMs(): number {
    return Date.now() - this.#skewMs;
  }

  async start(): Promise<void> {
    // Every loop that sleeps listens.
    setMaxListeners(40, this.#stop.signal);
    const options = this.#options;
    const watch = new Watch(this.#db);
    await this.#beat();
    this.#loops = Promise.all([
      ...Array.from({ length: BUCKET_LOOPS }, () => this.#loop('buckets', () => this.#runBuckets())),
      this.#loop('mail', () => this.#runMail()),
      this.#loop('rest', () => this.#endRest()),
      this.#loop('asks', async () =>
        (await runAsks(this.#db, (error, occurrence) =>
          this.#log.error({ err: error, occurrence }, 'an ask failed'),
        )) > 0
          ? 0
          : this.#until(await nextAskDue(this.#db)),
      ),
      this.#loop('plan', async () => {
        await planAhead(this.#db, (error, send) => this.#log.error({ err: error, send }, 'planning failed'));
        return PLAN_MS;
      }),
      ...(['mail', 'push'] as const).flatMap((method) => [
        this.#loop(`notices by ${method}`, () => this.#tell(method)),
        this.#loop(`digests by ${method}`, async () => {
          await this.#notices.daily(method);
          return DIGESTS_MS;
        }),
      ]),
      this.#loop('bundles by push', async () =>
        (await this.#notices.bundles()) > 0 ? 0 : this.#until(await nextBundle(this.#db)),
      ),
      this.#loop('access letters', async () =>
        (await handOverLetters(this.#db, { ...options, nowMs: () => this.#nowMs() }, options.mailLeaseS)) > 0
          ? 0
          : this.#until(await nextLetterTry(this.#db, 'access_letters')),
      ),
      this.#loop('confirmations of sign-ups', async () =>
        (await confirmSignUps(this.#db, { ...options, nowMs: () => this.#nowMs() }, options.mailLeaseS)) > 0
          ? 0
          : CONFIRM_MS,
      ),
      this.#loop('reminders of sessions', async () =>
        (await remindOfSessions(this.#db)) > 0 ? 0 : this.#until(await nextReminder(this.#db)),
      ),
      this.#loop('calendars that are followed', async () => {
        await readDue(this.#db, options.inside ?? [], (error, followed) =>
          this.#log.error({ err: error, followed }, 'a calendar could not be read'),
        );
        return CALENDARS_MS;
      }),
      this.#loop('record sheets that follow a source', async () => {
        await readDueSheets(
          this.#db,
          { secret: options.secret, inside: options.inside ?? [] },
          (error, sheet) => this.#log.error({ err: error, sheet }, 'a record sheet could not be read'),
        );
        return SHEETS_MS;
      }),
      this.#loop('events', async () =>
        (await followEvents(this.#db, CONSUMERS, (error, consumer, event) =>
          this.#log.error({ err: error, consumer, event }, 'an event could not be followed up'),
        )) > 0
          ? 0
          : EVENTS_MS,
      ),
      this.#loop('automations', () => this.#runAutomations()),
      this.#loop('ways out', async () =>
        (await this.#handing.turn()) > 0 ? HANDING_MS : this.#until(await nextHandover(this.#db)),
      ),
      this.#loop('watch', async () => {
        await watch.look();
        return WATCH_MS;
      }),
      this.#loop('beat', async () => {
        await this.#beat();
        return BEAT_MS;
      }),
      this.#loop('upkeep', async () => {
        await upkeep(this.#db);
        return UPKEEP_MS;
      }),
      this.#loop('forgetting', async () =>
        (await forgetOld(this.#db, (error, kind) =>
          this.#log.error({ err: error, kind }, 'what is old could not be forgotten'),
        ))
          ? FORGET_MORE_MS
          : FORGET_MS,
      ),
    ]);
    this.#log.info({ engine: this.#name }, 'engine started');
  }

  /** Finishes what is in hand, gives up its claims, and ends. */
  async stop(): Promise<void> {
    this.#stop.abort();
    await this.#loops;
    await this.#handing.idle();
    await this.#mail.release().catch(() => undefined);
    this.#options.transport.close();
    await this.#beating.stop();
    this.#log.info({ engine: this.#name }, 'engine stopped');
  }

  /** Runs a turn again and again; a turn says how long to sleep after it. A turn that fails is tried again soon. */
  async #loop(what: string, turn: () => Promise<number>): Promise<void> {
    let failures = 0;
    while (!this.#stop.signal.aborted) {
      let wait: number;
      try {
        wait = await turn();
        failures = 0;
      } catch (error) {
        failures++;
        wait = Math.min(5_000, 200 * 2 ** failures);
        this.#log.error({ err: error, loop: what, wait }, 'turn failed');
      }
      if (wait > 0) await this.#sleep(wait);
    }
  }

  #sleep(ms: number): Promise<void> {
    // A turn that was on its way when the engine was asked to stop sleeps no more after it.
    if (this.#stop.signal.aborted) return Promise.resolve();
    return new Promise((resolve) => {
      const wake = (): void => {
        clearTimeout(timer);
        this.#stop.signal.removeEventListener('abort', wake);
        resolve();
      };
      const timer = setTimeout(wake, ms);
      this.#stop.signal.addEventListener('abort', wake);
    });
  }

  async #beat(): Promise<void> {
    this.#skewMs = await this.#beating.beat(this.#mailPaused);
    this.#figures.skew.set(this.#skewMs / 1000);
  }

  /** Until an instant, but no longer than the longest sleep; never quite zero, so that an early clock cannot spin. */
  #until(dueMs: number | null): number {
    if (dueMs === null) return LONGEST_SLEEP_MS;
    return Math.max(2, Math.min(LONGEST_SLEEP_MS, dueMs - this.#nowMs()));
  }

  /** One turn of one of several loops over buckets, so that a send to everybody holds up none that come due after it. */
  async #runBuckets(): Promise<number> {
    const claimant = { engine: this.#name, seconds: this.#options.bucketLeaseS };
    const claimed = await claimBuckets(this.#db, claimant, BUCKETS_AT_ONCE);
    if (claimed.length === 0) return this.#until(await nextBucketDue(this.#db));
    // Groups and clocks are read once for what is due at this moment.
    const [world, occurrences] = await Promise.all([
      readWorld(this.#db),
      occurrencesByIds(
        this.#db,
        claimed.map((bucket) => bucket.occurrenceId),
      ),
    ]);
    for (const bucket of claimed) {
      const occurrence = occurrences.get(bucket.occurrenceId);
      // What is still in line when the engine is asked to stop is given back at once.
      if (this.#stop.signal.aborted) await returnBucket(this.#db, bucket.id, this.#name, 0);
      else await this.#runBucket(bucket, occurrence, claimant, world);
    }
    return 0;
  }

  async #runBucket(
    bucket: Bucket,
    occurrence: Occurrence | undefined,
    claimant: Claimant,
    world: World,
  ): Promise<void> {
    try {
      if (!occurrence || occurrence.unreadable)
        throw new Error('Its plan cannot be read by this version of Clear Bell');
      const { inbox, mail } = await expand(this.#db, bucket, occurrence, claimant, world);
      const lateMs = this.#nowMs() - bucket.dueMs;
      if (bucket.attempts > 1) await takeUpAgain(this.#db, 'sending', bucket.id);
      this.#figures.lateness.observe(Math.max(0, lateMs) / 1000);
      this.#figures.deliveries.inc({ method: 'inbox', outcome: 'delivered' }, inbox);
      this.#log.info(
        { occurrence: bucket.occurrenceId, inbox, mail, lateMs: Math.round(lateMs) },
        'expanded',
      );
    } catch (error) {
      if (isLostClaim(error)) {
        this.#log.warn({ occurrence: bucket.occurrenceId }, 'another engine took over');
        return;
      }
      this.#log.error({ err: error, occurrence: bucket.occurrenceId }, 'expanding failed');
      if (bucket.attempts < MOST_ATTEMPTS) {
        await returnBucket(this.#db, bucket.id, this.#name, 2 ** bucket.attempts);
        return;
      }
      const reason = `It could not be sent after ${MOST_ATTEMPTS} attempts: ${reasonOf(error)}`;
      await failBucket(this.#db, bucket, this.#name, reason);
      await giveUp(this.#db, 'sending', bucket.id, bucket.occurrenceId, reason);
    }
  }

  /** Does what automations have to do whose time has come. */
  async #runAutomations(): Promise<number> {
    const { secret, inside = [] } = this.#options;
    const taken = await runAutomations(
      this.#db,
      this.#name,
      { secret, inside },
      () => this.#nowMs(),
      (error, run) => this.#log.error({ err: error, run }, 'a run of an automation failed'),
    );
    return taken > 0 ? 0 : this.#until(await nextRunTry(this.#db));
  }

  /** Delivers what waited in inboxes for the end of quiet hours. */
  async #endRest(): Promise<number> {
    // In one transaction: what is delivered is also told of, wherever an engine dies.
    const { delivered, occurrenceIds } = await transact(this.#db, async (trx) => {
      const ended = await endRest(trx, REST_BATCH);
      const [now, occurrences] = await Promise.all([
        circumstances(trx),
        occurrencesByIds(trx, ended.occurrenceIds),
      ]);
      for (const occurrenceId of ended.occurrenceIds) {
        const all = { occurrenceId, after: 0, to: Number.MAX_SAFE_INTEGER };
        const occurrence = occurrences.get(occurrenceId);
        const waits = occurrence ? await waitingSql(trx, occurrence, all, now) : null;
        await tellArrivals(trx, all, ARRIVAL_WHY, { waits });
        await emit(trx, 'occurrence.reached', {
          occurrence: occurrenceId,
          roll: occurrenceId,
          boards: [],
          posted: false,
        });
      }
      return ended;
    });
    if (occurrenceIds.length === 0) return this.#until(await nextRestEnd(this.#db));
    this.#figures.deliveries.inc({ method: 'inbox', outcome: 'delivered' }, delivered);
    if (delivered < REST_BATCH) await markSent(this.#db, occurrenceIds);
    return 0;
  }

  async #tell(method: NoticeMethod): Promise<number> {
    if ((await this.#notices.atOnce(method)) > 0) return 0;
    return this.#until(await nextNotice(this.#db, method));
  }

  async #runMail(): Promise<number> {
    const result = await this.#mail.batch(MAIL_BATCH);
    if (result.unreachable !== null) {
      const wait = this.#mail.pauseMs ?? LONGEST_SLEEP_MS;
      if (this.#mailPaused === null) this.#log.warn({ reason: result.unreachable }, 'mail paused');
      this.#mailPaused = result.unreachable;
      await emit(this.#db, 'mail.handled', { occurrences: result.occurrenceIds });
      return wait;
    }
    if (result.delivered > 0) this.#mailPaused = null;
    if (result.claimed === 0) return this.#until(await nextMailTry(this.#db));
    this.#figures.deliveries.inc({ method: 'mail', outcome: 'delivered' }, result.delivered);
    this.#figures.deliveries.inc({ method: 'mail', outcome: 'failed' }, result.failed);
    if (result.claimed < MAIL_BATCH) await markSent(this.#db, result.occurrenceIds);
    await emit(this.#db, 'mail.handled', { occurrences: result.occurrenceIds });
    return 0;
  }
}
