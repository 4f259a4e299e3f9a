import { Webhook } from 'standardwebhooks';
import { RETRY_AFTER_S } from '../../core/gateways/hookOut.ts';
import { transact, type Database } from '../database/connection.ts';
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
  hookOutById,
  hooksDue,
  setHookOutState,
  type ClaimedHandover,
  type HookOutRow,
} from './outStore.ts';

const TIMEOUT_MS = 10_000;
/** Longer than a try may take. */
const LEASE_S = 30;
/** So many at once to one address. */
const AT_ONCE = 32;
/** What was taken is noted together with what else was within this, so that a quick address is not held up by each note. */
const TOGETHER_MS = 10;
const MOST_ANSWER = 10_000;
/** So many events given up one after another, and it pauses. */
const MOST_GIVEN_UP = 3;

/** What a try came to: the status it was answered, or why there was none. */
interface Tried {
  status: number | null;
  reason: string | null;
}

const WORDS: Record<OutsideError['kind'], string> = {
  inside: 'That address is inside the house, and the operator does not list it.',
  'too large': '',
  'too slow': 'It did not answer within ten seconds.',
  unreachable: 'It could not be reached',
};

/** The headers by which a receiver knows who sends and that nothing was changed (Standard Webhooks). */
export function signatureHeaders(
  secrets: readonly string[],
  id: string,
  atMs: number,
  body: string,
): Record<string, string> {
  return {
    'webhook-id': id,
    'webhook-timestamp': String(Math.floor(atMs / 1000)),
    'webhook-signature': secrets
      .map((secret) => new Webhook(secret).sign(id, new Date(atMs), body))
      .join(' '),
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

async function tryOne(
  db: Database,
  hook: HookOutRow,
  handover: ClaimedHandover,
  passing: Passing,
): Promise<Tried> {
  let body: string;
  try {
    body = await bodyFor(db, hook, handover, passing.publicUrl);
  } catch (error) {
    return { status: null, reason: `It could not be written: ${reasonOf(error)}` };
  }
  const secrets = [hook.sealed, ...(hook.before ? [hook.before] : [])].map((sealed) =>
    unseal(passing.asking.secret, sealed),
  );
  try {
    const { status } = await requestOutside(hook.hook.url, {
      method: 'POST',
      headers: {
        'content-type': hook.hook.place ? 'application/json' : 'application/cloudevents+json',
        'user-agent': 'Clear-Bell',
        ...signatureHeaders(secrets, handover.eventKey, Date.now(), body),
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
    about: `hook-paused:${hook.id}:${Date.now()}`,
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

/** Gathers what is to be noted for a moment, and notes it in one statement. */
class Together<T> {
  readonly #note: (items: readonly T[]) => Promise<void>;
  #gathered: T[] = [];
  #noted: Promise<void> | null = null;

  constructor(note: (items: readonly T[]) => Promise<void>) {
    this.#note = note;
  }

  /** Resolves once it is noted. */
  add(item: T): Promise<void> {
    this.#gathered.push(item);
    this.#noted ??= new Promise((resolve, reject) => {
      setTimeout(() => {
        const items = this.#gathered;
        this.#gathered = [];
        this.#noted = null;
        this.#note(items).then(resolve, reject);
      }, TOGETHER_MS);
    });
    return this.#noted;
  }
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
  readonly #delivered = new Together<{ id: number; status: number }>((taken) =>
    untilRecorded(() => endDelivered(this.#db, this.#engine, taken), { stop: this.#passing.stop }),
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

  /** Hands over what is due for one address, some at once, until nothing is. */
  async #serve(id: number): Promise<void> {
    for (;;) {
      const hook = await hookOutById(this.#db, id);
      if (hook?.state !== 'on') return;
      const claimed = await claimHandovers(this.#db, id, this.#engine, LEASE_S, AT_ONCE);
      if (claimed.length === 0) return;
      await Promise.all(claimed.map((handover) => this.#handOver(hook, handover)));
      await emit(this.#db, 'hook.handed over', { hook: id });
      const carried = [...new Set(claimed.flatMap(({ occurrenceId }) => occurrenceId ?? []))];
      await markSent(this.#db, carried);
      for (const occurrence of carried) await emit(this.#db, 'occurrence.changed', { occurrence });
    }
  }

  async #handOver(hook: HookOutRow, handover: ClaimedHandover): Promise<void> {
    const { status, reason } = await tryOne(this.#db, hook, handover, this.#passing);
    if (reason === null) {
      await this.#delivered.add({ id: handover.id, status: status ?? 200 });
      if (handover.occurrenceId !== null) this.#counted('delivered');
      if (hook.failures > 0) await countGivenUp(this.#db, hook.id, false);
      return;
    }
    const note = (trx: Database, state: 'waiting' | 'failed', waitS: number | null): Promise<boolean> =>
      endHandover(trx, handover.id, this.#engine, { state, status, reason, waitS });
    const waitS = RETRY_AFTER_S[handover.attempts - 1];
    if (status !== 410 && waitS !== undefined) {
      await note(this.#db, 'waiting', waitS);
      return;
    }
    await transact(this.#db, async (trx) => {
      if (status === 410) {
        if (await note(trx, 'waiting', 0))
          await pause(trx, hook, 'It answered 410: nobody listens there any more.');
        return;
      }
      if (!(await note(trx, 'failed', null))) return;
      if (handover.occurrenceId !== null) this.#counted('failed');
      const failures = await countGivenUp(trx, hook.id, true);
      if (failures >= MOST_GIVEN_UP)
        await pause(
          trx,
          hook,
          `${failures} events in a row were given up after two days. The last: ${reason}`,
        );
    });
  }
}
