import { asksOf } from '../../core/asks/ask.ts';
import { HOLD_MS } from '../../core/plan/plan.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { isOpen } from '../asks/askStore.ts';
import { tallies } from '../asks/store.ts';
import { record } from '../audit/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { Problem } from '../problem.ts';
import { sendOfChases } from './chasing.ts';
import { openOccurrence } from './service.ts';
import { lockSend } from './store.ts';
import { chasesOf, insertChase } from './chaseStore.ts';

/**
 * Chases those who have not answered at once, whatever the plan says; once for each key. It is held for some seconds like
 * any send, and can be taken back until then.
 *
 * @throws 409 where it asks for nothing, is closed, has not gone out, or nobody is missing
 */
export async function chaseNow(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  key: string,
): Promise<{ occurrenceId: number; people: number }> {
  const occurrence = await openOccurrence(db, actor, occurrenceId);
  const ask = asksOf(occurrence.asked);
  if (!ask || occurrence.chases !== null) throw new Problem(409, 'It asks for nothing, so nobody is chased.');
  if (!(await isOpen(db, occurrenceId)))
    throw new Problem(409, 'It is closed, or has not gone out yet: there is nobody to chase.');
  const tally = (await tallies(db, [occurrenceId])).get(occurrenceId);
  const people = tally ? tally.asked - tally.answered : 0;
  if (people === 0) throw new Problem(409, 'Everybody has answered. There is nobody to chase.');
  return transact(db, async (trx) => {
    const send = await lockSend(trx, occurrence.sendId);
    if (!send) throw new Problem(404, 'There is no such send.');
    const before = await chasesOf(trx, occurrenceId);
    const nowMs = await databaseNow(trx);
    const waiting = before.find((chase) => chase.state === 'scheduled' && chase.dueMs <= nowMs + HOLD_MS);
    if (waiting) return { occurrenceId: waiting.occurrenceId, people };
    const chases = await sendOfChases(trx, send, ask, ask.chase?.text ?? '');
    const id = await insertChase(trx, {
      send: chases,
      chases: occurrenceId,
      key: key.replace(/[^0-9a-z]/gi, '').slice(-6),
      dueMs: nowMs + HOLD_MS,
      deadlineMs: occurrence.deadlineMs,
    });
    if (id === null) {
      const again = (await chasesOf(trx, occurrenceId)).at(-1);
      return { occurrenceId: again?.occurrenceId ?? 0, people };
    }
    await record(trx, {
      actorId: actor.id,
      action: 'chase',
      subject: 'occurrence',
      subjectId: occurrenceId,
      detail: { people },
    });
    await emit(trx, 'chase.planned', { occurrence: occurrenceId });
    return { occurrenceId: id, people };
  });
}
