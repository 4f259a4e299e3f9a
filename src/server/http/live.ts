import { sessionsAlive } from '../accounts/store.ts';
import { topicsOf } from '../../core/events/event.ts';
import { eventsById, recentIds } from '../events/store.ts';
import { appContext } from './appContext.ts';

const POLL_MS = 300;
/** How far back each look goes: a transaction that takes longer than this to commit shows at the next change only. */
const LOOK_BACK_S = 5;
const KEEP_ALIVE_MS = 20_000;
/** More at once than this, as a list of people brought in, is not read one by one: all topics are told. */
const MOST_READ = 2_000;

/** As many of what happened before a page could listen are read for it, and as far back; more, and all topics are told. */
const MOST_LOOKED_BACK = 300;
const LOOKED_BACK_MS = 10 * 60_000;

/** How often it is looked whether the sessions of open streams still hold, in milliseconds; of many, so many at each look. */
const SESSIONS_MS = 1_000;
const SESSIONS_AT_ONCE = 500;
/** So many streams are told at once, then it is waited: each has its page ask for something, and thousands asking at one moment hold up all. */
const TOLD_AT_ONCE = 50;
const TOLD_MS = 250;

interface Listener {
  /** The session it listens in, by the hash of its token. */
  session: Buffer;
  topics: readonly string[];
  /** Told of those of its topics that changed. */
  changed: (topics: Iterable<string>) => void;
  /** The session is over: nothing more is told. */
  over: () => void;
}

/**
 * One look at what happened lately for all listeners of this process, and none while nobody listens. Ids may commit out of
 * order, so each look covers the last seconds and what was told already is left out.
 */
class EventWatch {
  readonly #listeners = new Set<Listener>();
  #told = new Set<number>();
  #running = false;
  #looked: Promise<void> = Promise.resolve();
  #sessionsAt = 0;
  /** Those whose session is still to be looked at, of this time round. */
  #toLookAt: Listener[] = [];
  /** Those that are to be told, the longest waiting first, each with what of its topics changed. */
  readonly #toTell = new Map<Listener, Set<string>>();
  #telling = false;

  /** Ends the streams of sessions that are over: signed out, run out, or of somebody who has left. */
  async #endOver(): Promise<void> {
    if (this.#toLookAt.length === 0) {
      if (Date.now() - this.#sessionsAt < SESSIONS_MS) return;
      this.#sessionsAt = Date.now();
      this.#toLookAt = [...this.#listeners];
    }
    const listeners = this.#toLookAt.splice(0, SESSIONS_AT_ONCE);
    const alive = await sessionsAlive(
      appContext().db,
      listeners.map((listener) => listener.session),
    );
    for (const listener of listeners) if (!alive.has(listener.session.toString('hex'))) listener.over();
  }

  listen(listener: Listener): () => void {
    this.#listeners.add(listener);
    if (!this.#running) this.#looked = new Promise((resolve) => void this.#run(resolve));
    return () => {
      this.#listeners.delete(listener);
      this.#toTell.delete(listener);
    };
  }

  /**
   * Has all be told who listen to what changed, or everybody of everything where that is null: at once where few listen to it, so
   * that a desk does not wait for thousands who are told of something else.
   */
  #changed(topics: ReadonlySet<string> | null): void {
    const listening = new Map<string, Listener[]>();
    for (const listener of this.#listeners)
      for (const topic of listener.topics)
        if (topics?.has(topic) ?? true) {
          const those = listening.get(topic);
          if (those) those.push(listener);
          else listening.set(topic, [listener]);
        }
    for (const [topic, those] of listening)
      for (const listener of those)
        if (those.length <= TOLD_AT_ONCE) listener.changed([topic]);
        else this.#toTell.set(listener, (this.#toTell.get(listener) ?? new Set()).add(topic));
    if (!this.#telling) void this.#tell();
  }

  async #tell(): Promise<void> {
    this.#telling = true;
    while (this.#toTell.size > 0) {
      for (const [listener, topics] of [...this.#toTell].slice(0, TOLD_AT_ONCE)) {
        this.#toTell.delete(listener);
        listener.changed(topics);
      }
      if (this.#toTell.size > 0) await new Promise((resolve) => setTimeout(resolve, TOLD_MS));
    }
    this.#telling = false;
  }

  /** Once this is there, all that happens later is told to those who listen now. */
  get looked(): Promise<void> {
    return this.#looked;
  }

  async #run(looked: () => void): Promise<void> {
    this.#running = true;
    const { db, log } = appContext();
    let first = true;
    while (this.#listeners.size > 0) {
      try {
        const found = await recentIds(db, LOOK_BACK_S);
        const fresh = found.filter((id) => !this.#told.has(id));
        this.#told = new Set(found);
        if (!first && fresh.length > 0) {
          const topics =
            fresh.length > MOST_READ ? null : new Set((await eventsById(db, fresh)).flatMap(topicsOf));
          this.#changed(topics);
        }
        first = false;
        looked();
        await this.#endOver();
      } catch (error) {
        log.warn({ err: error }, 'looking at what happened failed');
      }
      await new Promise((resolve) => setTimeout(resolve, POLL_MS));
    }
    this.#running = false;
  }
}

const watch = new EventWatch();

/** The topics that changed lately; null where so much happened that all of them may have. */
async function changedWithin(ms: number): Promise<ReadonlySet<string> | null> {
  if (ms > LOOKED_BACK_MS) return null;
  const { db } = appContext();
  const ids = await recentIds(db, Math.ceil(ms / 1000) + 1, MOST_LOOKED_BACK + 1);
  return ids.length > MOST_LOOKED_BACK ? null : new Set((await eventsById(db, ids)).flatMap(topicsOf));
}

/**
 * A stream of server-sent events, one for each of these topics when something of it changed, until the session ends in
 * which it was opened; then one last event `over`.
 *
 * @param ageMs how long ago the page was asked for: what changed since, before it could listen, is told at once
 */
export function liveStream(
  wanted: readonly string[],
  session: Buffer,
  signal: AbortSignal,
  ageMs = 0,
): Response {
  const encoder = new TextEncoder();
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const say = (text: string): void => {
        try {
          controller.enqueue(encoder.encode(text));
        } catch {
          end();
        }
      };
      const stopListening = watch.listen({
        session,
        topics: wanted,
        changed: (topics) => {
          for (const topic of topics) say(`event: changed\ndata: ${topic}\n\n`);
        },
        over: () => {
          say('event: over\ndata: over\n\n');
          end();
        },
      });
      const keepAlive = setInterval(() => say(': still here\n\n'), KEEP_ALIVE_MS);
      const end = (): void => {
        clearInterval(keepAlive);
        stopListening();
        try {
          controller.close();
        } catch {
          // Closed already from the other side.
        }
      };
      signal.addEventListener('abort', end);
      say('retry: 2000\n: listening\n\n');
      if (ageMs > 0)
        void watch.looked
          .then(() => changedWithin(ageMs))
          .then(
            (topics) => {
              for (const topic of wanted)
                if (topics?.has(topic) ?? true) say(`event: changed\ndata: ${topic}\n\n`);
            },
            (error: unknown) => appContext().log.warn({ err: error }, 'looking back failed'),
          );
    },
  });
  return new Response(body, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
  });
}
