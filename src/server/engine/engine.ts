import { setMaxListeners } from 'node:events';
import type { Logger } from 'pino';
import { readDue } from '../followed/reading.ts';
import { remindOfSessions } from '../calendar/reminding.ts';
import { transact, type Database } from '../database/connection.ts';
import { planAhead } from '../sends/planning.ts';
import { occurrencesByIds, type Occurrence } from '../sends/occurrenceStore.ts';
import type { EngineFigures } from '../metrics.ts';
import { emit } from '../events/store.ts';
import { runAsks } from './askRun.ts';
import { giveUp, reasonOf, takeUpAgain } from '../aside/store.ts';
import { ARRIVAL_WHY, expand, isLostClaim, readWorld, type World } from './expand.ts';
import { MailRun } from './mailRun.ts';
import { NoticeRun, type NoticeWorld } from './noticeRun.ts';
import { notifyArrivals } from '../notices/store.ts';
import { waitingSql } from '../bundling/waiting.ts';
import { audienceContext } from '../groups/directory.ts';
import { HandingOver } from '../gateways/handing.ts';
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
  returnBucket,
  type Bucket,
  type Claimant,
} from './store.ts';
import { DAMAGE_TOLD_DAYS } from '../../core/operating/running.ts';
import { Heartbeat } from '../operating/heartbeat.ts';
import { damagedNodes } from '../operating/damageStore.ts';
import { forgetOld } from '../retention/forgetting.ts';
import { clearUp, upkeep } from './upkeep.ts';
import { dueTimes, glance, type DueKind } from './dueStore.ts';
import { isSleep, takeTurns, type Turn } from './turns.ts';
import { Waking } from './waking.ts';
import { handOverLetters } from './accessRun.ts';
import { confirmSignUps } from './confirmationRun.ts';
import { calculateDue } from '../sheets/calculating.ts';
import { recountRecords } from '../sheets/store.ts';

const HEARTBEAT_MS = 5_000;
const UPKEEP_MS = 30_000;
const CLEAR_UP_MS = 300_000;
/** How often the counts that are kept are held against what they count. */
const COUNT_MS = 3_600_000;
/** How often it is looked for what has been kept long enough; while there is more of it, how long between two pieces. */
const FORGET_MS = 600_000;
const FORGET_MORE_MS = 1000;
const PLAN_MS = 10_000;
const DIGESTS_MS = 20_000;
/** How often it is looked for more to hand over while something is in hand. */
const HANDING_MS = 50;
/** How long it is gathered what happens, unless so much has that there is more to do at once. */
const GATHER_MS = 100;
const EVENTS_IN_A_HURRY = 200;
/** How often at most, and at least, it is looked whether anything happened that automations listen to. */
const WATCH_MS = 500;
const LOOK_MS = 5_000;
/** How long mail is paused where nothing else is said. */
const PAUSE_MS = 500;
const REST_BATCH = 5_000;
const BUCKET_LOOPS = 6;
const BUCKETS_AT_ONCE = 6;
const MAIL_BATCH = 400;
const MOST_ATTEMPTS = 8;

export interface EngineOptions extends Omit<NoticeWorld, 'nowMs'> {
  /** How long a claim holds without renewal, in seconds; after a crash another engine takes over when it ends. */
  bucketLeaseS: number;
  mailLeaseS: number;
  /** Addresses on the internal network that automations may look things up at: origins the operator lists. */
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
  readonly #heartbeat: Heartbeat;
  readonly #name: string;
  readonly #mail: MailRun;
  readonly #notices: NoticeRun;
  readonly #handing: HandingOver;
  readonly #stop = new AbortController();
  readonly #waking: Waking;
  #loops: Promise<unknown> = Promise.resolve();
  #skewMs = 0;
  #mailPaused: string | null = null;

  constructor(db: Database, log: Logger, figures: EngineFigures, options: EngineOptions) {
    this.#db = db;
    this.#heartbeat = new Heartbeat(db, 'engine');
    this.#name = this.#heartbeat.name;
    this.#log = log;
    this.#figures = figures;
    this.#options = options;
    this.#mail = new MailRun(
      db,
      { ...options, stop: this.#stop.signal, nowMs: () => this.#nowMs() },
      { engine: this.#name, seconds: options.mailLeaseS },
    );
    this.#handing = new HandingOver(
      db,
      this.#name,
      {
        asking: { secret: options.secret, inside: options.inside ?? [] },
        publicUrl: options.publicUrl,
        stop: this.#stop.signal,
      },
      (error, hook) => this.#log.error({ err: error, hook }, 'a way out could not be served'),
      (outcome) => this.#figures.deliveries.inc({ method: 'outside', outcome }),
    );
    this.#waking = new Waking(
      () => dueTimes(db),
      () => glance(db),
      this.#stop.signal,
      (error) => this.#log.error({ err: error }, 'it could not be looked what is due'),
    );
    this.#notices = new NoticeRun(
      db,
      { ...options, stop: this.#stop.signal, nowMs: () => this.#nowMs() },
      options.mailLeaseS,
    );
  }

  /** The database's clock, as far as this process knows it. */
  #nowMs(): number {
    return Date.now() - this.#skewMs;
  }

  async start(): Promise<void> {
    // Every loop that sleeps listens.
    setMaxListeners(40, this.#stop.signal);
    const db = this.#db;
    const options = this.#options;
    const { secret, inside = [] } = options;
    const letters = { ...options, stop: this.#stop.signal, nowMs: () => this.#nowMs() };
    const failed =
      (what: string, words: string) =>
      (error: unknown, of: unknown): void =>
        this.#log.error({ err: error, [what]: of }, words);
    const watch = new Watch(db);
    await this.#writeHeartbeat();
    this.#loops = Promise.all([
      this.#waking.run(),
      ...Array.from({ length: BUCKET_LOOPS }, (_each, at) =>
        this.#loop('buckets', () => this.#runBuckets(at)),
      ),
      this.#loop('mail', () => this.#runMail()),
      this.#loop('rest', () => this.#endRest()),
      this.#loop('asks', () => runAsks(db, failed('occurrence', 'an ask failed'))),
      ...(['mail', 'push'] as const).flatMap((method) => [
        this.#loop(`notices by ${method}`, () => this.#notices.atOnce(method)),
        this.#every(`digests by ${method}`, DIGESTS_MS, () => this.#notices.daily(method)),
      ]),
      this.#loop('bundles by push', () => this.#notices.bundles()),
      this.#loop('access letters', () => handOverLetters(db, letters, options.mailLeaseS)),
      this.#loop('confirmations of sign-ups', () => confirmSignUps(db, letters, options.mailLeaseS)),
      this.#loop('reminders of sessions', () => remindOfSessions(db)),
      this.#loop('calendars', () => readDue(db, inside, failed('followed', 'a calendar could not be read'))),
      this.#loop('record sheets', async () => {
        const asking = { secret, inside };
        const read = await readDueSheets(db, asking, failed('sheet', 'a record sheet could not be read'));
        await calculateDue(db);
        return read;
      }),
      this.#loop('events', () => this.#followEvents()),
      this.#loop('automations', () =>
        runAutomations(
          db,
          this.#name,
          { secret, inside },
          () => this.#nowMs(),
          failed('run', 'a run of an automation failed'),
        ),
      ),
      this.#loop('ways out', async () => ((await this.#handing.turn()) > 0 ? { sleepMs: HANDING_MS } : 0)),
      this.#every('watch', { orPlace: WATCH_MS }, () => watch.look()),
      this.#every('plan', PLAN_MS, () => planAhead(db, failed('send', 'planning failed'))),
      this.#every('heartbeat', HEARTBEAT_MS, () => this.#writeHeartbeat()),
      this.#every('upkeep', UPKEEP_MS, async () => {
        await upkeep(db);
        this.#figures.damaged.set((await damagedNodes(db, DAMAGE_TOLD_DAYS)).length);
      }),
      this.#every('clearing up', CLEAR_UP_MS, () => clearUp(db)),
      this.#every('counting', COUNT_MS, async () => {
        await recountRecords(db);
      }),
      this.#every('forgetting', FORGET_MS, async () => {
        const forgetting = failed('kind', 'what is old could not be forgotten');
        return (await forgetOld(db, forgetting)) ? { sleepMs: FORGET_MORE_MS } : 0;
      }),
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
    await this.#heartbeat.stop();
    this.#log.info({ engine: this.#name }, 'engine stopped');
  }

  /** Runs a turn whenever something of its kind is due, again at once after one that did something. */
  #loop(kind: DueKind, turn: () => Promise<Turn>): Promise<void> {
    return this.#turns(kind, turn, () => this.#waking.wait(kind));
  }

  /** Runs a turn every so often, or as soon as something happened, but at the least so often. */
  #every(what: string, often: number | { orPlace: number }, turn: () => Promise<unknown>): Promise<void> {
    let seen = -1;
    return this.#turns(
      what,
      async () => {
        seen = this.#waking.place;
        const done = await turn();
        return isSleep(done) ? done : 0;
      },
      async () => {
        if (typeof often === 'number') return this.#sleep(often);
        // What happens in a hurry is looked at together.
        await this.#sleep(often.orPlace);
        if (this.#waking.place === seen) await this.#waking.wait('place', LOOK_MS);
      },
    );
  }

  #turns(what: string, turn: () => Promise<Turn>, rest: () => Promise<void>): Promise<void> {
    return takeTurns(turn, {
      rest,
      sleep: (ms) => this.#sleep(ms),
      stir: () => this.#waking.stir(),
      failed: (err, wait) => this.#log.error({ err, loop: what, wait }, 'turn failed'),
      stop: this.#stop.signal,
    });
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

  async #writeHeartbeat(): Promise<void> {
    this.#skewMs = await this.#heartbeat.write(this.#mailPaused);
    this.#figures.skew.set(this.#skewMs / 1000);
  }

  /** What happens in a hurry, as when a thousand answer, is followed up together: after each turn it is waited a little. */
  async #followEvents(): Promise<Turn> {
    const done = await followEvents(this.#db, CONSUMERS, (error, consumer, event) =>
      this.#log.error({ err: error, consumer, event }, 'an event could not be followed up'),
    );
    if (done === 0 || done >= EVENTS_IN_A_HURRY) return done;
    this.#waking.stir();
    return { sleepMs: GATHER_MS };
  }

  /** One turn of one of several loops over buckets, so that a send to everybody holds up none that come due after it. */
  async #runBuckets(loop: number): Promise<number> {
    // Each loop claims under a name of its own, so that it knows what it holds and is not at work on.
    const claimant = { engine: `${this.#name}/${loop}`, seconds: this.#options.bucketLeaseS };
    const claimed = await claimBuckets(this.#db, claimant, BUCKETS_AT_ONCE);
    if (claimed.length === 0) return 0;
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
      if (this.#stop.signal.aborted) await returnBucket(this.#db, bucket.id, claimant.engine, 0);
      else await this.#runBucket(bucket, occurrence, claimant, world);
    }
    return claimed.length;
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
        await returnBucket(this.#db, bucket.id, claimant.engine, 2 ** bucket.attempts);
        return;
      }
      const reason = `It could not be sent after ${MOST_ATTEMPTS} attempts: ${reasonOf(error)}`;
      await failBucket(this.#db, bucket, claimant.engine, reason);
      await giveUp(this.#db, 'sending', bucket.id, bucket.occurrenceId, reason);
    }
  }

  /** Delivers what waited in inboxes for the end of quiet hours. */
  async #endRest(): Promise<number> {
    // In one transaction: what is delivered is also told of, wherever an engine dies.
    const { delivered, occurrenceIds } = await transact(this.#db, async (trx) => {
      const ended = await endRest(trx, REST_BATCH);
      const [now, occurrences] = await Promise.all([
        audienceContext(trx),
        occurrencesByIds(trx, ended.occurrenceIds),
      ]);
      for (const occurrenceId of ended.occurrenceIds) {
        const all = { occurrenceId, after: 0, to: Number.MAX_SAFE_INTEGER };
        const occurrence = occurrences.get(occurrenceId);
        const waits = occurrence ? await waitingSql(trx, occurrence, all, now) : null;
        await notifyArrivals(trx, all, ARRIVAL_WHY, { waits });
        await emit(trx, 'occurrence.reached', {
          occurrence: occurrenceId,
          roll: occurrenceId,
          boards: [],
          posted: false,
        });
      }
      return ended;
    });
    if (occurrenceIds.length === 0) return 0;
    this.#figures.deliveries.inc({ method: 'inbox', outcome: 'delivered' }, delivered);
    if (delivered < REST_BATCH) await markSent(this.#db, occurrenceIds);
    return occurrenceIds.length;
  }

  async #runMail(): Promise<Turn> {
    const result = await this.#mail.batch(MAIL_BATCH);
    if (result.unreachable !== null) {
      const sleepMs = this.#mail.pauseMs ?? PAUSE_MS;
      if (this.#mailPaused === null) this.#log.warn({ reason: result.unreachable }, 'mail paused');
      this.#mailPaused = result.unreachable;
      await emit(this.#db, 'mail.handled', { occurrences: result.occurrenceIds });
      return { sleepMs };
    }
    if (result.delivered > 0) this.#mailPaused = null;
    if (result.claimed === 0) return 0;
    this.#figures.deliveries.inc({ method: 'mail', outcome: 'delivered' }, result.delivered);
    this.#figures.deliveries.inc({ method: 'mail', outcome: 'failed' }, result.failed);
    if (result.claimed < MAIL_BATCH) await markSent(this.#db, result.occurrenceIds);
    await emit(this.#db, 'mail.handled', { occurrences: result.occurrenceIds });
    return result.claimed;
  }
}
