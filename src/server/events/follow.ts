import type { ConsumerName } from '../../core/events/consumer.ts';
import { readEvent, type Detail, type EventKind } from '../../core/events/event.ts';
import { transact, type Database } from '../database/connection.ts';
import { setAside, takeUpAgain } from '../aside/store.ts';
import {
  eventsAfter,
  eventsToTryAgain,
  holdAside,
  movePosition,
  placeEvents,
  positions,
  subjectsAside,
  type PlacedEvent,
} from './store.ts';

/**
 * What is done after events, by their kind, in a transaction in which nothing else is done. The id of the event sets apart
 * what is told of it.
 */
export type Handlers = {
  [K in EventKind]?: (trx: Database, detail: Detail<K>, event: number) => Promise<void>;
};

/** Who follows the events, from its own place in their order. */
export interface Consumer {
  /** Its name in `event_positions`, and the kind under which what it fails at is set aside. */
  name: ConsumerName;
  handlers: Handlers;
}

/** Told of an error in following up an event, for the log. */
export type FollowFailed = (error: unknown, consumer: string, event: number) => void;

const AT_ONCE = 200;
/** So many are followed up in one transaction. */
const TOGETHER = 50;

/**
 * Gives new events their place and lets each consumer follow up what it has not: each event once, in order by subject,
 * however many processes do so and wherever one dies, since a consumer moves on in the transaction of what it did. An
 * event that fails is set aside with its reason and tried again; the others go on, but not those of the same subject.
 *
 * @returns how many were placed, followed up or passed by; none where there is nothing left
 */
export async function followEvents(
  db: Database,
  consumers: readonly Consumer[],
  failed: FollowFailed,
): Promise<number> {
  const placed = await placeEvents(db);
  const known = await positions(db);
  // Those that are equally far, as they mostly are, read what comes next together.
  const after = new Map<number, Promise<PlacedEvent[]>>();
  const next = (position: number): Promise<PlacedEvent[]> => {
    const events = after.get(position) ?? eventsAfter(db, position, AT_ONCE);
    after.set(position, events);
    return events;
  };
  const done = await Promise.all(
    consumers.map(async (consumer) => {
      const at = known.get(consumer.name);
      if (!at) throw new Error(`Nobody follows events as “${consumer.name}”`);
      const again = at.again ? await tryAgain(db, consumer, failed) : 0;
      return again + (await follow(db, consumer, at.position, await next(at.position), failed));
    }),
  );
  return placed + done.reduce((sum, each) => sum + each, 0);
}

async function handle(trx: Database, consumer: Consumer, event: PlacedEvent): Promise<void> {
  const { kind, detail } = readEvent(event);
  const handler = consumer.handlers[kind] as
    ((trx: Database, of: typeof detail, event: number) => Promise<void>) | undefined;
  await handler?.(trx, detail, event.id);
}

const concerns = (consumer: Consumer, event: PlacedEvent): boolean =>
  Object.hasOwn(consumer.handlers, event.kind);

/**
 * Follows up events in one transaction, in which the consumer's place moves past them; false where another process is
 * further.
 */
function followTogether(
  db: Database,
  consumer: Consumer,
  from: number,
  events: readonly PlacedEvent[],
): Promise<boolean> {
  const { name } = consumer;
  return transact(db, async (trx) => {
    if (!(await movePosition(trx, name, from, events.at(-1)?.position ?? from))) return false;
    const behind = await subjectsAside(
      trx,
      name,
      events.map(({ subject }) => subject),
    );
    for (const event of events)
      if ((behind.get(event.subject) ?? Infinity) < event.position)
        await setAside(trx, name, event.id, null, new Error('Waits for an earlier one of the same'));
      else await handle(trx, consumer, event);
    return true;
  });
}

/** Follows up an event by itself; where that fails it is set aside, and the consumer's place moves past it all the same. */
async function followAlone(
  db: Database,
  consumer: Consumer,
  from: number,
  event: PlacedEvent,
  failed: FollowFailed,
): Promise<boolean> {
  const { name } = consumer;
  try {
    return await followTogether(db, consumer, from, [event]);
  } catch (error) {
    failed(error, name, event.id);
    return transact(db, async (trx) => {
      if (!(await movePosition(trx, name, from, event.position))) return false;
      await setAside(trx, name, event.id, null, error);
      return true;
    });
  }
}

async function follow(
  db: Database,
  consumer: Consumer,
  from: number,
  events: readonly PlacedEvent[],
  failed: FollowFailed,
): Promise<number> {
  const { name } = consumer;
  let position = from;
  const concerning = events.filter((each) => concerns(consumer, each));
  for (let at = 0; at < concerning.length; at += TOGETHER) {
    const some = concerning.slice(at, at + TOGETHER);
    try {
      // Another process is further: what is left here is its own.
      if (!(await followTogether(db, consumer, position, some))) return 1;
    } catch {
      // One of them fails: each by itself, so that the others go on.
      let from = position;
      for (const event of some) {
        if (!(await followAlone(db, consumer, from, event, failed))) return 1;
        from = event.position;
      }
    }
    position = some.at(-1)?.position ?? position;
  }
  const last = events.at(-1)?.position ?? position;
  if (last > position) await movePosition(db, name, position, last);
  // Also those passed by: there may be more behind them.
  return events.length;
}

async function tryAgain(db: Database, consumer: Consumer, failed: FollowFailed): Promise<number> {
  const { name } = consumer;
  let done = 0;
  for (const event of await eventsToTryAgain(db, name, AT_ONCE)) {
    try {
      done += await transact(db, async (trx) => {
        if (!(await holdAside(trx, name, event.id))) return 0;
        await handle(trx, consumer, event);
        await takeUpAgain(trx, name, event.id);
        return 1;
      });
    } catch (error) {
      failed(error, name, event.id);
      await setAside(db, name, event.id, null, error);
    }
  }
  return done;
}
