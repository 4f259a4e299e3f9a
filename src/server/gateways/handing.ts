import PQueue from 'p-queue';
import { Webhook } from 'standardwebhooks';
import { RETRY_AFTER_S } from '../../core/gateways/hookOut.ts';
import { transact, type Database } from '../database/connection.ts';
import { Together } from '../database/together.ts';
import { untilRecorded } from '../database/untilRecorded.ts';
import { emit } from '../events/store.ts';
import { notifyPeople } from '../notices/notify.ts';
import { OutsideError, requestOutside } from '../outside/request.ts';
import { reasonOf } from '../aside/store.ts';
import { markSent } from '../engine/store.ts';
import { unseal } from '../sealing.ts';
import { noteSentBody } from './placeStore.ts';
import { placeBody } from './travelling.ts';
import type { Asking } from '../sources/asking.ts';
import {
  claimHandovers,
  countGivenUp,
  endDelivered,
  endHandover,
  giveBackHandovers,
  hookOutById,
  hooksDue,
  setHookOutState,
  type ClaimedHandover,
  type HookOutRow,
} from './outStore.ts';

const TIMEOUT_MS = 10_000;
/** Longer than a try may take. */
const LEASE_S = 30;
/** What has not begun by then is not begun under this claim any more. */
const BEGUN_WITHIN_MS = LEASE_S * 1000 - TIMEOUT_MS - 5_000;
/** So many at once to one address. */
const AT_ONCE = 32;
/** An address that takes all that was claimed within this is quick: twice as much is claimed the next time, up to so many. */
const QUICK_MS = 500;
const MOST_CLAIMED = 512;
/** What was taken is noted together with what else was within this. */
const TOGETHER_MS = 20;
const MOST_ANSWER = 10_000;
/** So many events given up one after another, and it pauses. */
const MOST_GIVEN_UP = 3;

/** What a try came to: the status it was answered, or why there was none. */
interface Tried {
  status: number | null;
  reason: string | null;
}

const WORDS: Record<OutsideError['kind'], string> = {
  inside: 'That address is on the internal network, and the operator does not list it.',
  'too large': '',
  'too slow': 'It did not answer within ten seconds.',
  unreachable: 'It could not be reached',
};

/** The headers by which a receiver knows who sends and that nothing was changed (Standard Webhooks). */
export function signatureHeaders(
  keys: readonly Webhook[],
  id: string,
  atMs: number,
  body: string,
): Record<string, string> {
  return {
    'webhook-id': id,
    'webhook-timestamp': String(Math.floor(atMs / 1000)),
    'webhook-signature': keys.map((key) => key.sign(id, new Date(atMs), body)).join(' '),
  };
}

/** An event as it is handed over: with where it comes from, and the address of its page. */
function eventBody(stored: string, publicUrl: string): string {
  const event = JSON.parse(stored) as { data: { path?: string } };
  const { path = '/', ...data } = event.data;
  return JSON.stringify({
    ...event,
    source: publicUrl,
    data: { ...data, url: new URL(path, publicUrl).href },
  });
}

/** What is handed over: an event, or what an outside place wants of an announcement, which is noted before it is tried. */
async function bodyFor(
  db: Database,
  { hook: { place } }: HookOutRow,
  handover: ClaimedHandover,
  publicUrl: string,
): Promise<string> {
  if (!place) return eventBody(handover.body, publicUrl);
  const body = await placeBody(db, place.template, handover, publicUrl);
  await noteSentBody(db, handover.id, body);
  return body;
}

/** The keys with which what is handed over to a way out is signed: its own and, for a day after a change, that before. */
const keysOf = (hook: HookOutRow, secret: string): Webhook[] =>
  [hook.sealed, ...(hook.before ? [hook.before] : [])].map((sealed) => new Webhook(unseal(secret, sealed)));

async function tryOne(
  db: Database,
  hook: HookOutRow,
  keys: readonly Webhook[],
  handover: ClaimedHandover,
  passing: Passing,
): Promise<Tried> {
  let body: string;
  try {
    body = await bodyFor(db, hook, handover, passing.publicUrl);
  } catch (error) {
    return { status: null, reason: `It could not be written: ${reasonOf(error)}` };
  }
  try {
    const { status } = await requestOutside(hook.hook.url, {
      method: 'POST',
      headers: {
        'content-type': hook.hook.place ? 'application/json' : 'application/cloudevents+json',
        'user-agent': 'Clear-Bell',
        ...signatureHeaders(keys, handover.eventKey, Date.now(), body),
      },
      body,
      inside: passing.asking.inside,
      timeoutMs: TIMEOUT_MS,
      most: MOST_ANSWER,
    });
    if (status >= 200 && status < 300) return { status, reason: null };
    return { status, reason: `It answered ${status}.` };
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    // It answered at length: that it took it is all that counts.
    if (error.kind === 'too large') return { status: 200, reason: null };
    return {
      status: null,
      reason: error.kind === 'unreachable' ? `${WORDS.unreachable}: ${error.message}` : WORDS[error.kind],
    };
  }
}

/** Stops telling an address, and says so to whoever looks after it. What happens meanwhile waits for it. */
async function pause(trx: Database, hook: HookOutRow, why: string): Promise<void> {
  if (!(await setHookOutState(trx, hook.id, 'paused', why))) return;
  await notifyPeople(trx, [hook.ownerId], {
    kind: 'outcome',
    title: `“${hook.hook.name}” is not told any more`,
    text: why,
    path: `/gateways/out/${hook.id}`,
    why: 'You look after this way out.',
    dedupeKey: `hook-paused:${hook.id}:${Date.now()}`,
  });
  await emit(trx, 'hook.changed', { hook: hook.id, way: 'out' });
}

export interface Passing {
  asking: Asking;
  /** The address the application is reached by: the source of its events. */
  publicUrl: string;
  /** The process is to end. */
  stop?: AbortSignal;
}

/**
 * Hands events over to outside addresses: side by side, so that a slow one holds up no other.
 *
 * `counted` is told what became of each announcement that travels to an outside place.
 */
export class HandingOver {
  readonly #db: Database;
  readonly #engine: string;
  readonly #passing: Passing;
  readonly #failed: (error: unknown, hook: number) => void;
  readonly #counted: (outcome: 'delivered' | 'failed') => void;
  readonly #busy = new Map<number, Promise<void>>();
  readonly #delivered = new Together<{ id: number; status: number }>(
    async (taken) => {
      await untilRecorded(() => endDelivered(this.#db, this.#engine, taken), { stop: this.#passing.stop });
      return [];
    },
    { waitMs: TOGETHER_MS },
  );

  constructor(
    db: Database,
    engine: string,
    passing: Passing,
    failed: (error: unknown, hook: number) => void,
    counted: (outcome: 'delivered' | 'failed') => void = () => undefined,
  ) {
    this.#db = db;
    this.#engine = engine;
    this.#passing = passing;
    this.#failed = failed;
    this.#counted = counted;
  }

  /** Begins with every address for which something is due; gives for how many it is at work. */
  async turn(): Promise<number> {
    for (const id of await hooksDue(this.#db))
      if (!this.#busy.has(id))
        this.#busy.set(
          id,
          this.#serve(id)
            .catch((error: unknown) => this.#failed(error, id))
            .finally(() => this.#busy.delete(id)),
        );
    return this.#busy.size;
  }

  /** Waits until nothing is in hand any more. */
  async idle(): Promise<void> {
    await Promise.all(this.#busy.values());
  }

  /** Hands over what is due for one address, some at once, until nothing is; the next are claimed while the last are under way. */
  async #serve(id: number): Promise<void> {
    const queue = new PQueue({ concurrency: AT_ONCE });
    const carried: Promise<void>[] = [];
    const failed: unknown[] = [];
    const all = { taken: true };
    for (let most = AT_ONCE; failed.length === 0 && !this.#passing.stop?.aborted;) {
      const hook = await hookOutById(this.#db, id);
      if (hook?.state !== 'on') break;
      const claimed = await claimHandovers(this.#db, id, this.#engine, LEASE_S, most);
      if (claimed.length === 0) break;
      const claimedMs = performance.now();
      carried.push(
        this.#carry(queue, hook, claimed, claimedMs, all).catch((error: unknown) => void failed.push(error)),
      );
      // The next are claimed before these have all begun, so that the address never waits for a claim.
      await queue.onSizeLessThan(Math.max(1, Math.floor(claimed.length / 2)));
      most =
        all.taken && performance.now() - claimedMs < QUICK_MS
          ? Math.min(MOST_CLAIMED, most * 2)
          : Math.max(AT_ONCE, Math.floor(most / 2));
    }
    await Promise.all(carried);
    if (failed.length > 0) throw failed[0];
  }

  /** Hands over what was claimed together, each as the queue comes to it. */
  async #carry(
    queue: PQueue,
    hook: HookOutRow,
    claimed: readonly ClaimedHandover[],
    claimedMs: number,
    all: { taken: boolean },
  ): Promise<void> {
    const keys = keysOf(hook, this.#passing.asking.secret);
    const notBegun: number[] = [];
    const ended = await Promise.allSettled(
      claimed.map(async (handover) => {
        const tried = await queue.add(async () =>
          this.#passing.stop?.aborted || performance.now() - claimedMs > BEGUN_WITHIN_MS
            ? null
            : tryOne(this.#db, hook, keys, handover, this.#passing),
        );
        if (!tried) notBegun.push(handover.id);
        else if (!(await this.#note(hook, handover, tried))) all.taken = false;
      }),
    );
    if (notBegun.length > 0)
      await untilRecorded(() => giveBackHandovers(this.#db, this.#engine, notBegun), {
        stop: this.#passing.stop,
      });
    for (const each of ended) if (each.status === 'rejected') throw each.reason;
    await emit(this.#db, 'hook.handed over', { hook: hook.id });
    const occurrences = [...new Set(claimed.flatMap(({ occurrenceId }) => occurrenceId ?? []))];
    await markSent(this.#db, occurrences);
    for (const occurrence of occurrences) await emit(this.#db, 'occurrence.changed', { occurrence });
  }

  /** Notes what a try came to; gives whether it was taken. */
  async #note(hook: HookOutRow, handover: ClaimedHandover, { status, reason }: Tried): Promise<boolean> {
    if (reason === null) {
      await this.#delivered.add({ id: handover.id, status: status ?? 200 });
      if (handover.occurrenceId !== null) this.#counted('delivered');
      if (hook.failures > 0) await countGivenUp(this.#db, hook.id, false);
      return true;
    }
    const end = (trx: Database, state: 'waiting' | 'failed', waitS: number | null): Promise<boolean> =>
      endHandover(trx, handover.id, this.#engine, { state, status, reason, waitS });
    const waitS = RETRY_AFTER_S[handover.attempts - 1];
    if (status !== 410 && waitS !== undefined) {
      await end(this.#db, 'waiting', waitS);
      return false;
    }
    await transact(this.#db, async (trx) => {
      if (status === 410) {
        if (await end(trx, 'waiting', 0))
          await pause(trx, hook, 'It answered 410: nobody listens there any more.');
        return;
      }
      if (!(await end(trx, 'failed', null))) return;
      if (handover.occurrenceId !== null) this.#counted('failed');
      const failures = await countGivenUp(trx, hook.id, true);
      if (failures >= MOST_GIVEN_UP)
        await pause(
          trx,
          hook,
          `${failures} events in a row were given up after two days. The last: ${reason}`,
        );
    });
    return false;
  }
}
