import { z } from 'zod';
import { deadlineOf } from '../../core/asks/ask.ts';
import type { Passed } from '../../core/plan/buckets.ts';
import { bucketsOnce, isLocal, spanOf, type Plan, type Timing } from '../../core/plan/plan.ts';
import { briefOf } from '../../core/sends/forecast.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { wallTimeSchema, zoneSchema } from '../../core/timing/wallTimeSchema.ts';
import { openAnnouncement } from '../announcements/service.ts';
import { abandon, reopen, setContent } from '../announcements/store.ts';
import { contentOf, versionById } from '../announcements/versionStore.ts';
import { record } from '../audit/store.ts';
import { markSent } from '../engine/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { forecast } from './forecast.ts';
import { planChases } from './chasing.ts';
import { planZones, reachSpan } from './planning.ts';
import { changeSend, currentVersion, lockSend, setSendState } from './store.ts';
import { recallChases } from './chaseStore.ts';
import { holdPlanned, moveBuckets, plannedBuckets, releaseHeld, replaceBuckets } from './bucketStore.ts';
import { recallOccurrence, recallPlanned } from './takingBackStore.ts';
import { latestOccurrence, occurrenceById, type Occurrence } from './occurrenceStore.ts';
import { openOccurrence } from './service.ts';

/**
 * Takes back what has not begun to go; a 409 problem where it is too late. What has not gone at all and goes out once
 * becomes a draft again. Of what has begun, only the rest is taken back.
 */
export async function takeBack(
  db: Database,
  actor: Actor,
  occurrenceId: number,
): Promise<{ announcementId: number | null }> {
  const occurrence = await openOccurrence(db, actor, occurrenceId);
  return transact(db, async (trx) => {
    const recalled = await recallOccurrence(trx, occurrenceId);
    if (recalled === 'nothing')
      throw new Problem(
        409,
        occurrence.state === 'recalled'
          ? 'It was taken back already.'
          : 'It is too late: all of it has gone.',
      );
    if (recalled === 'all of it') await recallChases(trx, occurrenceId, 'What it follows up was taken back.');
    else await markSent(trx, [occurrenceId]);
    const draftAgain =
      recalled === 'all of it' &&
      occurrence.kind === 'send' &&
      occurrence.plan.timing.kind !== 'recurring' &&
      (await reopen(trx, occurrence.announcementId));
    await record(trx, {
      actorId: actor.id,
      action: recalled === 'all of it' ? 'take back' : 'take back the rest',
      subject: 'occurrence',
      subjectId: occurrenceId,
    });
    await emit(trx, 'occurrence.changed', { occurrence: occurrenceId });
    return { announcementId: draftAgain ? occurrence.announcementId : null };
  });
}

/** Pauses a recurring send, lets it go on, or ends it for good. */
export async function changeState(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  step: 'pause' | 'resume' | 'end',
): Promise<void> {
  const { sendId, plan } = await openOccurrence(db, actor, occurrenceId);
  if (plan.timing.kind !== 'recurring') throw new Problem(409, 'It goes out once. Take it back instead.');
  await transact(db, async (trx) => {
    await lockSend(trx, sendId);
    const [from, to] = (
      {
        pause: [['active'], 'paused'],
        resume: [['paused'], 'active'],
        end: [['active', 'paused'], 'ended'],
      } as const
    )[step];
    if (!(await setSendState(trx, sendId, from, to)))
      throw new Problem(409, `It cannot be ${step === 'end' ? 'ended' : `${step}d`}: somebody was quicker.`);
    if (step === 'pause') await holdPlanned(trx, sendId);
    if (step === 'resume') await releaseHeld(trx, sendId);
    if (step === 'end') await recallPlanned(trx, sendId, 'The series of sends was ended.');
    await record(trx, { actorId: actor.id, action: step, subject: 'send', subjectId: sendId });
    await emit(trx, 'occurrence.changed', { occurrence: occurrenceId });
  });
}

export const moveSchema = z.object({
  /** The wall-clock time it is set to: in `zone`, or where each reader is if it goes by readers' clocks. */
  wall: wallTimeSchema,
  zone: zoneSchema,
});

/**
 * Sets what has not begun to another time, with the same checks as editing. What goes out once gets a new plan; of
 * what recurs only this occurrence moves.
 */
export async function move(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  { wall, zone }: z.infer<typeof moveSchema>,
): Promise<{ dueMs: number; warnings: string[] }> {
  const occurrence = await openOccurrence(db, actor, occurrenceId);
  if (occurrence.state === 'going out' && isLocal(occurrence.plan.timing))
    return moveRest(db, actor, occurrence, wall);
  if (occurrence.state !== 'scheduled')
    throw new Problem(409, 'It is too late to move it: it has begun to go out.');
  if (occurrence.chases !== null)
    throw new Problem(409, 'A chase goes when its ask says. Change the ask, or take this one back.');
  const local = isLocal(occurrence.plan.timing);
  const timing: Timing = local
    ? { kind: 'local', wall, passed: passedOf(occurrence.plan.timing) }
    : { kind: 'at', wall, zone };
  const recurring = occurrence.plan.timing.kind === 'recurring';
  const version = await versionById(db, occurrence.versionId);
  if (!version) throw notFound('send');
  const plan: Plan = { ...occurrence.plan, timing };
  const outlook = await forecast(db, actor, plan, briefOf(version));
  const errors = outlook.problems.filter((problem) => /^(timing|ask)/.test(problem.field));
  if (errors.length > 0) throw new Problem(422, errors[0]?.detail ?? 'It cannot be moved there.', { errors });
  return transact(db, async (trx) => {
    const send = await lockSend(trx, occurrence.sendId);
    if (!send || send.state === 'ended') throw new Problem(409, 'It has ended meanwhile.');
    const zones = await planZones(trx, plan, await audienceContext(trx));
    const buckets = bucketsOnce(timing, version.event, zones.all, await databaseNow(trx));
    const span = reachSpan(buckets, zones);
    if (!span) throw new Problem(422, 'Nothing of it would go out then.');
    const moved = await replaceBuckets(trx, occurrenceId, {
      buckets,
      ...span,
      deadlineMs: deadlineOf(plan.ask, span.lastMs),
      movedTo: recurring ? wall : null,
    });
    if (!moved) throw new Problem(409, 'It is too late to move it: it has begun to go out.');
    await planChases(trx, send, occurrenceId, {
      lastMs: span.lastMs,
      deadlineMs: deadlineOf(plan.ask, span.lastMs),
    });
    if (!recurring) await changeSend(trx, send.id, send.versionId, plan);
    await record(trx, {
      actorId: actor.id,
      action: 'move',
      subject: 'occurrence',
      subjectId: occurrenceId,
      detail: { to: wall, zone: local ? 'their time' : zone },
    });
    await emit(trx, 'occurrence.changed', { occurrence: occurrenceId });
    return { dueMs: span.firstMs, warnings: outlook.warnings.map((warning) => warning.detail) };
  });
}

/**
 * Sets what has not gone yet of a send going round the world to another hour of those readers' clocks. What has gone is as
 * it is; for whom that hour has passed already gets it as the plan says for hours that have passed.
 */
async function moveRest(
  db: Database,
  actor: Actor,
  occurrence: Occurrence,
  wall: string,
): Promise<{ dueMs: number; warnings: string[] }> {
  return transact(db, async (trx) => {
    const left = await plannedBuckets(trx, occurrence.id);
    if (left.length === 0) throw new Problem(409, 'It is too late to move it: all of it has gone.');
    const timing = { kind: 'local' as const, wall, passed: passedOf(occurrence.plan.timing) };
    const zones = left.map((bucket) => bucket.zone);
    const buckets = bucketsOnce(timing, null, zones, await databaseNow(trx));
    const span = spanOf(buckets);
    if (!span) throw new Problem(422, 'Nothing of it would go out then. Choose a later hour.');
    await moveBuckets(trx, occurrence.id, buckets);
    await record(trx, {
      actorId: actor.id,
      action: 'move the rest',
      subject: 'occurrence',
      subjectId: occurrence.id,
      detail: { to: wall, zone: 'their time' },
    });
    await emit(trx, 'occurrence.changed', { occurrence: occurrence.id });
    return { dueMs: span.firstMs, warnings: [] };
  });
}

const passedOf = (timing: Timing): Passed =>
  timing.kind === 'local' || timing.kind === 'recurring' ? timing.passed : 'not';

/**
 * Opens what was sent for a change: the plan and text of a recurring send from its next occurrence on, or a correction
 * of what has gone. Gives the announcement, which is a draft until that is confirmed or left undone.
 */
export async function openForChange(
  db: Database,
  actor: Actor,
  occurrenceId: number,
  what: 'change' | 'correct',
): Promise<{ announcementId: number }> {
  const occurrence = await openOccurrence(db, actor, occurrenceId);
  if (what === 'change' && (occurrence.plan.timing.kind !== 'recurring' || occurrence.sendState === 'ended'))
    throw new Problem(409, 'It goes out once. Take it back to change it.');
  if (occurrence.chases !== null)
    throw new Problem(409, 'It is a chase. Open what it follows up, and change that.');
  if (what === 'correct' && occurrence.state !== 'sent' && occurrence.state !== 'going out')
    throw new Problem(409, 'It has not gone yet. Take it back to change it.');
  await transact(db, async (trx) => {
    const opened = await reopen(trx, occurrence.announcementId, {
      revises: what === 'change' ? occurrence.sendId : null,
      corrects: what === 'correct' ? occurrenceId : null,
    });
    if (!opened) throw new Problem(409, 'It is being changed already. Find it among the drafts.');
    // A correction begins from what those readers have, which of what recurs may be an older text.
    const version = what === 'correct' ? await versionById(trx, occurrence.versionId) : undefined;
    if (version) await setContent(trx, occurrence.announcementId, contentOf(version));
    await record(trx, {
      actorId: actor.id,
      action: what === 'change' ? 'open for change' : 'open for correction',
      subject: 'occurrence',
      subjectId: occurrenceId,
    });
  });
  return { announcementId: occurrence.announcementId };
}

/** Leaves a change or a correction undone. */
export async function leaveUnchanged(db: Database, actor: Actor, announcementId: number): Promise<void> {
  const draft = await openAnnouncement(db, actor, announcementId);
  const occurrence =
    draft.corrects !== null
      ? await occurrenceById(db, draft.corrects)
      : await latestOccurrence(db, announcementId);
  const version = occurrence && (await versionById(db, occurrence.versionId));
  if (!occurrence || !version) throw notFound('send');
  const current = await versionById(db, await currentVersion(db, occurrence.sendId));
  if (!(await abandon(db, announcementId, contentOf(current ?? version), occurrence.plan)))
    throw new Problem(409, 'It is not being changed any more.');
}
