import { z } from 'zod';
import { deadlineOf } from '../../core/asks/ask.ts';
import { contentProblems } from '../../core/content/announcement.ts';
import { comingOccurrences } from '../../core/plan/coming.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { briefOf, type Forecast } from '../../core/sends/forecast.ts';
import { numbered } from '../../core/series/series.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { list } from '../../core/words.ts';
import { openAnnouncement } from '../announcements/service.ts';
import { commit, type Announcement } from '../announcements/store.ts';
import { freezeVersion } from '../announcements/versionStore.ts';
import { record } from '../audit/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { emit } from '../events/store.ts';
import { Problem } from '../problem.ts';
import { forecast } from './forecast.ts';
import { takeNumber } from '../series/store.ts';
import { planChases } from './chasing.ts';
import { planOnce, planRecurring, planZones, reachSpan, type PlanZones } from './planning.ts';
import { changeSend, giveMovedText, insertSend, lockSend, sendByKey } from './store.ts';
import { holdPlanned, plannedOf } from './bucketStore.ts';
import { deletePlanned } from './takingBackStore.ts';
import { insertOccurrence, latestOccurrence } from './occurrenceStore.ts';

export const confirmSchema = z.object({
  /** The revision that was read when the last question was answered. */
  revision: z.int().positive(),
});

export interface Confirmed {
  occurrenceId: number;
}

/** What keeps a draft from going out, or nothing; with what its plan would do. */
async function requireSendable(db: Database, actor: Actor, draft: Announcement): Promise<Forecast> {
  const outlook = await forecast(db, actor, draft.plan, briefOf(draft.content));
  const errors = [...contentProblems(draft.content), ...outlook.problems];
  if (outlook.clearance.length > 0 && draft.review !== 'cleared')
    errors.push({
      field: 'review',
      detail: `${list(outlook.clearance, 'and')} ${outlook.clearance.length === 1 ? 'asks' : 'ask'} for a second person’s clearance. Hand it on for review.`,
    });
  if (errors.length > 0) throw new Problem(422, 'It cannot go out yet.', { errors });
  if (outlook.right.outcome === 'denied') throw new Problem(403, outlook.right.reason);
  return outlook;
}

/** Takes the draft out of drafting and freezes its text with the number of its issue; gives the version's id. */
async function freeze(trx: Database, draft: Announcement, revision: number): Promise<number> {
  if (!(await commit(trx, draft.id, revision, draft.review)))
    throw new Problem(409, 'It was changed or sent a moment ago. Read it again.');
  const { content } = draft;
  const number = content.issue ? await takeNumber(trx, content.issue.seriesId) : null;
  return freezeVersion(
    trx,
    draft.id,
    draft.savedById,
    { ...content, title: numbered(content.title, number) },
    'sent',
    number,
  );
}

/**
 * Answers the last question: freezes the draft as it was read and plans it. Nothing leaves before the hold is
 * over. The same key, or a second press in another tab, sends once. A draft that changes a recurring send gives it its
 * new text and plan; what has gone of it keeps the old.
 *
 * @throws 409 where the draft changed after it was read, 422 with the fields that keep it from going out, 403
 *   where this person may not address these people
 */
export async function confirmSend(
  db: Database,
  actor: Actor,
  announcementId: number,
  input: z.infer<typeof confirmSchema>,
  key: string,
): Promise<Confirmed> {
  const draft = await openAnnouncement(db, actor, announcementId);
  const known = await sendByKey(db, actor.id, key);
  if (known) return known;
  if (draft.state === 'template') throw new Problem(409, 'A template is not sent. Start a draft from it.');
  if (draft.state !== 'draft') {
    const going = await latestOccurrence(db, announcementId);
    throw new Problem(409, 'It is on its way already.', { more: { occurrenceId: going?.id ?? null } });
  }
  if (draft.corrects !== null) throw new Problem(409, 'This is a correction. Publish it as one.');
  if (draft.revision !== input.revision)
    throw new Problem(
      409,
      `${draft.savedByName} changed this draft after you read it. Read it again, then send.`,
      {
        more: { revision: draft.revision, savedBy: draft.savedByName, savedMs: draft.savedMs },
      },
    );
  const outlook = await requireSendable(db, actor, draft);

  try {
    return await transact(db, async (trx) => {
      const now = await audienceContext(trx);
      const zones = await planZones(trx, draft.plan, now);
      const versionId = await freeze(trx, draft, input.revision);
      const occurrenceId =
        draft.revises === null
          ? await planNew(trx, actor, draft, versionId, key, zones)
          : await replan(trx, draft.revises, draft, versionId, zones);
      await record(trx, {
        actorId: actor.id,
        action: draft.revises === null ? 'send' : 'change send',
        subject: 'occurrence',
        subjectId: occurrenceId,
        detail: { people: outlook.people, boards: outlook.boards.length },
      });
      await emit(trx, 'send.planned', { occurrence: occurrenceId });
      return { occurrenceId };
    });
  } catch (error) {
    // The other of two presses won while this one was under way.
    const won = await sendByKey(db, actor.id, key);
    if (won) return won;
    throw error;
  }
}

async function planNew(
  trx: Database,
  actor: Actor,
  { id: announcementId, plan, content }: Announcement,
  versionId: number,
  key: string,
  zones: PlanZones,
): Promise<number> {
  const id = await insertSend(trx, { announcementId, versionId, createdBy: actor.id, plan, key });
  if (plan.timing.kind !== 'recurring') return planOnce(trx, { id, versionId, plan }, content.event, zones);
  const [first] = await planRecurring(trx, { id, versionId, plan }, zones);
  return first ?? farAway(trx, { id, versionId, plan }, zones);
}

/** What begins beyond the horizon gets its first occurrence at once, so that it can be seen and taken back. */
async function farAway(
  trx: Database,
  send: { id: number; versionId: number; plan: Plan },
  zones: PlanZones,
): Promise<number> {
  const { timing } = send.plan;
  const [first] =
    timing.kind === 'recurring'
      ? comingOccurrences(timing, zones.all, await databaseNow(trx), { most: 1 })
      : [];
  const span = first && reachSpan(first.buckets, zones);
  if (!first || !span)
    throw new Problem(422, 'It would never go out again.', {
      errors: [
        { field: 'timing.rule', detail: 'Nothing of it is still to come. Choose a later start or end.' },
      ],
    });
  const id = await insertOccurrence(trx, {
    sendId: send.id,
    versionId: send.versionId,
    recursAt: first.recursAt,
    buckets: first.buckets,
    ...span,
    deadlineMs: deadlineOf(send.plan.ask, span.lastMs),
  });
  if (id !== null)
    await planChases(trx, send, id, {
      lastMs: span.lastMs,
      deadlineMs: deadlineOf(send.plan.ask, span.lastMs),
    });
  return id ?? 0;
}

/** Gives a recurring send its new text and plan, from the next occurrence on. */
async function replan(
  trx: Database,
  sendId: number,
  { plan }: Announcement,
  versionId: number,
  zones: PlanZones,
): Promise<number> {
  const send = await lockSend(trx, sendId);
  if (!send || send.state === 'ended') throw new Problem(409, 'This send has ended. Send it as a new one.');
  if (plan.timing.kind !== 'recurring')
    throw new Problem(422, 'It recurs, and its new plan does not.', {
      errors: [
        { field: 'timing', detail: 'End it and send a new one, or choose a rule by which it recurs.' },
      ],
    });
  await deletePlanned(trx, sendId);
  await changeSend(trx, sendId, versionId, plan);
  // What was moved by hand stays where it was put, and says and asks what the others do.
  for (const moved of await giveMovedText(trx, sendId, versionId))
    await planChases(trx, { id: sendId, versionId, plan }, moved.id, {
      lastMs: moved.endsMs,
      deadlineMs: moved.deadlineMs,
    });
  const [first] = await planRecurring(trx, { id: sendId, versionId, plan }, zones);
  if (send.state === 'paused') await holdPlanned(trx, sendId);
  const [standing] = first === undefined ? await plannedOf(trx, sendId) : [];
  return first ?? standing?.id ?? farAway(trx, { id: sendId, versionId, plan }, zones);
}
