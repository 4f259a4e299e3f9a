import type { Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { visibleBoard, type BoardForReader } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { hookInByKey, type HookInRow } from './inStore.ts';

/** A way in as of one moment: who answers for it, and where it posts. */
export interface Moment {
  hook: HookInRow;
  /** Nothing where they have left. */
  owner: Actor | undefined;
  /** Its board, or why its owner may not see it; nothing where it is for something else, or its owner has left. */
  board: BoardForReader | Problem | undefined;
}

async function read(db: Database, addressKey: string): Promise<Moment | undefined> {
  const hook = await hookInByKey(db, addressKey);
  if (!hook) return undefined;
  const owner = await actorOf(db, hook.ownerId);
  const { target } = hook.hook;
  if (!owner || target.kind !== 'board') return { hook, owner, board: undefined };
  const board = await visibleBoard(db, owner, target.boardId).catch((error: unknown) => {
    if (error instanceof Problem) return error;
    throw error;
  });
  return { hook, owner, board };
}

/** The readings of one address: the one under way, and the one that begins after it. */
interface Readings {
  current: Promise<unknown>;
  next: Promise<Moment | undefined> | undefined;
}

const readings = new WeakMap<Database, Map<string, Readings>>();

/**
 * The way in of an address as it is now. Messages that come at once are answered by one reading, which begins after each of them came:
 * so none of them is taken by what held before it.
 */
export function momentOf(db: Database, addressKey: string): Promise<Moment | undefined> {
  const ofDatabase = readings.get(db) ?? new Map<string, Readings>();
  readings.set(db, ofDatabase);
  const mine = ofDatabase.get(addressKey) ?? { current: Promise.resolve(), next: undefined };
  ofDatabase.set(addressKey, mine);
  if (mine.next) return mine.next;
  const next = mine.current.then(() => {
    // Whoever comes from here on waits for the one after.
    mine.next = undefined;
    return read(db, addressKey);
  });
  mine.next = next;
  const over = next
    .catch(() => undefined)
    .then(() => {
      if (mine.current === over) ofDatabase.delete(addressKey);
    });
  mine.current = over;
  return next;
}
