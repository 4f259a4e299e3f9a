import { deadlineOf } from '../../core/asks/ask.ts';
import { comingOccurrences } from '../../core/plan/coming.ts';
import { isLocal } from '../../core/plan/plan.ts';
import type { Actor } from '../../core/rights/decide.ts';
import type { ComingLine } from '../../core/sends/send.ts';
import { record } from '../audit/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { audienceContext } from '../groups/directory.ts';
import { Problem } from '../problem.ts';
import { holdPlanned } from './bucketStore.ts';
import { planChases } from './chasing.ts';
import { comingWritten, putBackSkipped, writtenAs } from './comingStore.ts';
import { insertOccurrence } from './occurrenceStore.ts';
import { planZones, reachSpan } from './planning.ts';
import { openOccurrence } from './service.ts';
import { lockSend } from './store.ts';

/** So many of what recurs are listed ahead. */
const SHOWN = 20;

/** What of a recurring send is still to come, in order: as it is written, and beyond that as its rule gives it. */
export async function comingOf(db: Database, actor: Actor, occurrenceId: number): Promise<ComingLine[]> {
  const { sendId, plan, sendState } = await openOccurrence(db, actor, occurrenceId);
  const { timing } = plan;
  if (timing.kind !== 'recurring' || sendState === 'ended') return [];
  const [written, now, nowMs] = await Promise.all([
    comingWritten(db, sendId, SHOWN),
    audienceContext(db),
    databaseNow(db),
  ]);
  const zones = await planZones(db, plan, now);
  const known = new Set(written.map((each) => each.recursAt));
  const local = isLocal(timing);
  const computed = comingOccurrences(timing, zones.all, nowMs, { most: SHOWN + 1 }).flatMap(
    ({ recursAt, buckets }): ComingLine[] => {
      const span = reachSpan(buckets, zones);
      if (!span || known.has(recursAt)) return [];
      return [
        {
          occurrenceId: null,
          recursAt,
          dueMs: span.firstMs,
          endsMs: span.lastMs,
          localWall: local ? recursAt : null,
          skipped: false,
          moved: false,
        },
      ];
    },
  );
  const lines = written.map(({ id, recursAt, dueMs, endsMs, movedTo, skipped }): ComingLine => ({
    occurrenceId: id,
    recursAt,
    dueMs,
    endsMs,
    localWall: local ? (movedTo ?? recursAt) : null,
    skipped: skipped === 1,
    moved: movedTo !== null,
  }));
  return [...lines, ...computed].sort((a, b) => a.dueMs - b.dueMs).slice(0, SHOWN);
}

/**
 * Writes one of what recurs before its turn, so that it can be skipped or moved; gives its id. Where it is written already,
 * that one's.
 *
 * @param recursAt the wall-clock time its rule gives
 * @throws 404 where the rule gives no such one that is still to come
 */
export async function writeOne(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  recursAt: string,
): Promise<{ occurrenceId: number }> {
  const { sendId } = await openOccurrence(db, actor, occurrenceId);
  return transact(db, async (trx) => {
    const send = await lockSend(trx, sendId);
    if (!send || send.state === 'ended' || send.plan.timing.kind !== 'recurring')
      throw new Problem(409, 'It does not recur any more.');
    const known = await writtenAs(trx, sendId, recursAt);
    if (known !== null) return { occurrenceId: known };
    const zones = await planZones(trx, send.plan, await audienceContext(trx));
    const nowMs = await databaseNow(trx);
    const found = comingOccurrences(send.plan.timing, zones.all, nowMs, { most: SHOWN + 1 }).find(
      (each) => each.recursAt === recursAt,
    );
    const span = found && reachSpan(found.buckets, zones);
    if (!found || !span) throw new Problem(404, 'Its rule gives none at that time that is listed here.');
    const deadlineMs = deadlineOf(send.plan.ask, span.lastMs);
    const id = await insertOccurrence(trx, {
      sendId,
      versionId: send.versionId,
      recursAt,
      buckets: found.buckets,
      ...span,
      deadlineMs,
    });
    if (id === null) throw new Problem(409, 'Somebody else planned it at this moment. Try again.');
    await planChases(trx, send, id, { lastMs: span.lastMs, deadlineMs });
    if (send.state === 'paused') await holdPlanned(trx, sendId);
    await emit(trx, 'send.planned', { occurrence: id });
    return { occurrenceId: id };
  });
}

/**
 * Undoes the skipping of one of what recurs.
 *
 * @throws 409 where it was not skipped, where its hour has passed, or the series has ended
 */
export async function putBack(db: Database, actor: Actor, occurrenceId: number): Promise<void> {
  const occurrence = await openOccurrence(db, actor, occurrenceId);
  if (occurrence.recursAt === '' || occurrence.state !== 'recalled')
    throw new Problem(409, 'It was not skipped.');
  await transact(db, async (trx) => {
    const send = await lockSend(trx, occurrence.sendId);
    if (!send || send.state === 'ended') throw new Problem(409, 'It does not recur any more.');
    if (!(await putBackSkipped(trx, occurrenceId)))
      throw new Problem(409, 'It is too late: the hour it was planned for has come.');
    await planChases(trx, send, occurrenceId, {
      lastMs: occurrence.endsMs,
      deadlineMs: occurrence.deadlineMs,
    });
    if (send.state === 'paused') await holdPlanned(trx, send.id);
    await record(trx, {
      actorId: actor.id,
      action: 'put back',
      subject: 'occurrence',
      subjectId: occurrenceId,
    });
    await emit(trx, 'occurrence.changed', { occurrence: occurrenceId });
  });
}
