import { withdrawAll } from '../access/store.ts';
import { endSessionsOf } from '../accounts/store.ts';
import { record } from '../audit/store.ts';
import type { Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { setLeft } from './store.ts';

/**
 * Marks somebody as having left, or as back. Who leaves is out at once: their sessions end and their links let nobody in; what
 * they did stays. Call it in a transaction, and only where somebody who looks after people remains.
 *
 * @param by.actorId who does it; null where a system does that keeps people up to date
 */
export async function moveStanding(
  trx: Database,
  id: number,
  left: boolean,
  by: { actorId: number | null; detail?: Record<string, unknown> },
): Promise<void> {
  if (await setLeft(trx, id, left)) {
    await record(trx, { ...by, action: left ? 'leave' : 'return', subject: 'person', subjectId: id });
    await emit(trx, left ? 'person.left' : 'person.returned', { person: id });
  }
  if (left) {
    await endSessionsOf(trx, id);
    await withdrawAll(trx, id);
  }
}
