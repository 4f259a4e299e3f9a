import { CONSUMER_NAMES } from '../../core/events/consumer.ts';
import type { Aside } from '../../core/desk/desk.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound } from '../problem.ts';
import { allAside, takeUpAgain, tryAsideNow, type AsideKind, type AsideRow } from './store.ts';
import { planBucketAgain } from '../engine/store.ts';

const MOST = 50;

const seen = (actor: Actor, row: Pick<AsideRow, 'createdBy'>): boolean =>
  row.createdBy === null
    ? actor.role === 'coordinator'
    : decide(actor, { kind: 'see send', authorId: row.createdBy }).outcome === 'allowed';

/** What of the engine's work is set aside, as far as this person may see the sends it belongs to. */
export async function listAside(db: Database, actor: Actor): Promise<Aside[]> {
  return (await allAside(db, MOST))
    .filter((row) => seen(actor, row))
    .map(({ kind, subjectId, occurrenceId, title, reason, attempts, givenUp, tryMs }) => ({
      kind,
      subjectId,
      occurrenceId,
      title,
      reason,
      attempts,
      tryMs: givenUp === 1 ? null : tryMs,
    }));
}

/**
 * Has something tried again at once that was set aside.
 *
 * @throws 404 where it is not set aside, or is not this person's to see
 */
export async function tryAgain(
  db: Database,
  actor: Actor,
  kind: AsideKind,
  subjectId: number,
): Promise<void> {
  const row = (await allAside(db, 1000)).find((each) => each.kind === kind && each.subjectId === subjectId);
  if (!row || !seen(actor, row)) throw notFound('failure');
  await transact(db, async (trx) => {
    // What is done from a state of its own is found again once it is not set aside; an event has its place behind it.
    const isEvent = CONSUMER_NAMES.some((name) => name === kind);
    if (!(await (isEvent ? tryAsideNow : takeUpAgain)(trx, kind, subjectId))) return;
    if (kind === 'sending') await planBucketAgain(trx, subjectId);
    await record(trx, {
      actorId: actor.id,
      action: kind === 'notice' ? 'put away' : 'try again',
      subject: row.occurrenceId === null ? 'organisation' : 'occurrence',
      subjectId: row.occurrenceId ?? 1,
      detail: { kind },
    });
    await emit(trx, 'work.retried', { occurrence: row.occurrenceId });
  });
}
