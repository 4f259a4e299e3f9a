import { Readable } from 'node:stream';
import { TAKEOUT_HOURS, type Takeout } from '../../core/organisation/takeout.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireLookingAfterPeople } from '../accounts/require.ts';
import { transact, type Database } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import { organisationArchive } from './takingOut.ts';
import {
  deleteTakeout,
  dropTakeoutParts,
  endTakeout,
  insertTakeout,
  insertTakeoutPart,
  latestTakeout,
  takeoutById,
  takeoutPart,
  notifyTakeout,
  type TakeoutRow,
} from './takeoutStore.ts';

const PART_BYTES = 1_000_000;
const TELL_MS = 500;
/** Long before it would be taken for gone. */
const HEARTBEAT_MS = 10_000;

const shown = ({ id, by, state, done, total, bytes, begunMs, endedMs, why, gone }: TakeoutRow): Takeout => ({
  id,
  by,
  state: gone ? 'failed' : state,
  percent: state === 'ready' ? 100 : total === 0 ? 0 : Math.min(99, Math.floor((100 * done) / total)),
  bytes,
  begunMs,
  untilMs: state === 'ready' && endedMs !== null ? endedMs + TAKEOUT_HOURS * 3_600_000 : null,
  why: gone ? 'The process that made it stopped.' : why,
});

/** The archive that is being made, or was made last; null where there is none. */
export async function latest(db: Database, actor: Actor): Promise<Takeout | null> {
  requireLookingAfterPeople(actor);
  const found = await latestTakeout(db);
  return found ? shown(found) : null;
}

/** The one that this process makes, or made last: another waits until it is over, which it soon is where it was given up. */
let last: Promise<unknown> = Promise.resolve();

/** Makes the archive, and keeps it in parts. Ends early where it is not wanted any more. */
async function make(db: Database, actor: Actor, origin: string, id: number): Promise<void> {
  let [done, total, bytes, n] = [0, 0, 0, 0];
  let held: Uint8Array[] = [];
  let size = 0;
  let [wanted, toldAt] = [true, 0];
  const tell = async (): Promise<void> => {
    toldAt = Date.now();
    wanted = await notifyTakeout(db, id, { done, total, bytes });
  };
  // However long one file takes, it is known that somebody is at it.
  const heartbeat = setInterval(() => void tell().catch(() => undefined), HEARTBEAT_MS);
  let stop = (): Promise<unknown> => Promise.resolve();
  try {
    const { name, body, over } = await organisationArchive(db, actor, origin, (found, of) => {
      done = found;
      total = of;
    });
    const reader = body.getReader();
    stop = async () => {
      // What ended in the middle cannot be given up any more; it is waited for nevertheless, or the next one would be refused.
      await reader.cancel().catch(() => undefined);
      await over;
    };
    const keep = async (): Promise<void> => {
      if (size === 0) return;
      const part = Buffer.concat(held);
      await transact(db, (trx) => insertTakeoutPart(trx, id, n, part));
      n++;
      [held, size] = [[], 0];
    };
    for (;;) {
      const { done: atEnd, value } = await reader.read();
      if (atEnd) break;
      held.push(value);
      size += value.byteLength;
      bytes += value.byteLength;
      if (Date.now() - toldAt > TELL_MS) await tell();
      if (!wanted) return;
      if (size >= PART_BYTES) await keep();
    }
    await keep();
    await endTakeout(db, id, { state: 'ready', name, bytes });
  } catch (error) {
    const why = error instanceof Problem ? error.message : 'Something went wrong on our side.';
    // Given up meanwhile: there was nothing to keep it under, which is no failure.
    if ((await endTakeout(db, id, { state: 'failed', why })) === 0) return;
    await dropTakeoutParts(db, id);
    if (!(error instanceof Problem)) throw error;
  } finally {
    clearInterval(heartbeat);
    // Nothing is read any further, whatever ended it.
    await stop().catch(() => undefined);
  }
}

/**
 * Begins an archive of the organisation, which goes on if the page is left. The one before is deleted.
 *
 * @param failed told of an error that is none of the caller's
 * @returns it, and when it is through: nobody needs to wait for that
 * @throws 403 for all but coordinators; 409 while one is being made
 */
export async function beginTakeout(
  db: Database,
  actor: Actor,
  origin: string,
  failed: (error: unknown) => void,
): Promise<{ takeout: Takeout; through: Promise<void> }> {
  requireLookingAfterPeople(actor);
  const id = await transact(db, (trx) => insertTakeout(trx, actor.id));
  if (id === undefined)
    throw new Problem(409, 'The organisation is being taken out already. Wait until that is through.');
  const through = last.then(() => make(db, actor, origin, id)).catch(failed);
  last = through;
  const found = await takeoutById(db, id);
  if (!found) throw notFound('archive');
  return { takeout: shown(found), through };
}

/** Deletes an archive, or gives up one that is being made. */
export async function dropTakeout(db: Database, actor: Actor, id: number): Promise<void> {
  requireLookingAfterPeople(actor);
  if ((await deleteTakeout(db, id)) === 0) throw notFound('archive');
}

async function* partsOf(db: Database, id: number): AsyncGenerator<Buffer> {
  for (let n = 0; ; n++) {
    const part = await takeoutPart(db, id, n);
    if (!part) return;
    yield part;
  }
}

/** An archive that is ready, to be saved. @throws 404 where there is none, or none that is ready */
export async function takeoutFile(
  db: Database,
  actor: Actor,
  id: number,
): Promise<{ name: string; bytes: number; body: ReadableStream<Uint8Array> }> {
  requireLookingAfterPeople(actor);
  const found = await takeoutById(db, id);
  if (found?.state !== 'ready') throw notFound('archive');
  return {
    name: found.name,
    bytes: found.bytes,
    body: Readable.toWeb(Readable.from(partsOf(db, id))) as ReadableStream<Uint8Array>,
  };
}
