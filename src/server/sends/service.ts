import { z } from 'zod';
import { deadlineOf } from '../../core/asks/ask.ts';
import { contentProblems } from '../../core/content/announcement.ts';
import { fillFor, sectionsHtml } from '../../core/content/html.ts';
import { LATE_MS } from '../../core/delivery/lateness.ts';
import type { Passed } from '../../core/plan/buckets.ts';
import { comingOccurrences } from '../../core/plan/coming.ts';
import { bucketsOnce, EMPTY_PLAN, isLocal, type Plan, type Timing } from '../../core/plan/plan.ts';
import { briefText, sentenceText } from '../../core/plan/sentence.ts';
import { briefOf, type Forecast } from '../../core/sends/forecast.ts';
import { numbered } from '../../core/series/series.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import type { DeliveryCount, RunSheetRow, SendPage } from '../../core/sends/send.ts';
import type { Need } from '../../core/desk/desk.ts';
import { audienceWords } from '../../core/audience/words.ts';
import { settledWords, wallTimeSchema, zoneSchema } from '../../core/timing/wallTime.ts';
import { list } from '../../core/words.ts';
import { demandDesk } from '../accounts/demand.ts';
import { openAnnouncement } from '../announcements/service.ts';
import {
  abandon,
  commit,
  contentOf,
  freezeVersion,
  insertAnnouncement,
  reopen,
  setContent,
  versionById,
  type Announcement,
} from '../announcements/store.ts';
import { tellsWhoVoted } from '../asks/secrecy.ts';
import { tallies } from '../asks/store.ts';
import { record } from '../audit/store.ts';
import { markSent } from '../engine/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { circumstances } from '../groups/directory.ts';
import { publish } from '../outbox/store.ts';
import { topics } from '../outbox/topics.ts';
import { notFound, Problem } from '../problem.ts';
import { forecast, planNames } from './forecast.ts';
import { takeNumber } from '../series/store.ts';
import { addressIn } from '../uploads/address.ts';
import { planChases } from './chasing.ts';
import { planOnce, planRecurring, planZones, reachSpan, type PlanZones } from './planning.ts';
import {
  bucketsOf,
  changeSend,
  currentVersion,
  deletePlanned,
  deliveryCounts,
  giveMovedText,
  holdPlanned,
  insertOccurrence,
  insertSend,
  latestOccurrence,
  lockSend,
  needs,
  occurrenceById,
  occurrencesBetween,
  occurrencesByIds,
  recurringBeyond,
  plannedOf,
  recallChases,
  recallOccurrence,
  recallPlanned,
  releaseHeld,
  replaceBuckets,
  retryFailed,
  sendByKey,
  setSendState,
  troubles,
  type Occurrence,
} from './store.ts';

export const confirmSchema = z.object({
  /** The revision that was read when the last question was answered. */
  revision: z.int().positive(),
});

export interface Confirmed {
  occurrenceId: number;
}

/** What keeps a draft from going out, or nothing; with what its plan would do. */
async function demandSendable(db: Database, actor: Actor, draft: Announcement): Promise<Forecast> {
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
  const outlook = await demandSendable(db, actor, draft);

  try {
    return await transact(db, async (trx) => {
      const now = await circumstances(trx);
      const zones = await planZones(trx, draft.plan, now);
      const versionId = await freeze(trx, draft, input.revision);
      const occurrenceId =
        draft.revises === null
          ? await planNew(trx, actor, draft, versionId, key, zones)
          : await planAnew(trx, draft.revises, draft, versionId, zones);
      await record(trx, {
        actorId: actor.id,
        action: draft.revises === null ? 'send' : 'change send',
        subject: 'occurrence',
        subjectId: occurrenceId,
        detail: { people: outlook.people, boards: outlook.boards.length },
      });
      await publish(trx, [topics.desk]);
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
async function planAnew(
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
    await publish(trx, [topics.desk, topics.occurrence(occurrenceId)]);
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
    await publish(trx, [topics.desk, topics.occurrence(occurrenceId)]);
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
    const zones = await planZones(trx, plan, await circumstances(trx));
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
    await publish(trx, [topics.desk, topics.occurrence(occurrenceId)]);
    return { dueMs: span.firstMs, warnings: outlook.warnings.map((warning) => warning.detail) };
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

/** Sends its author a copy of a draft by every method, marked as a test; nobody else gets it. */
export async function sendTest(
  db: Database,
  actor: Actor,
  announcementId: number,
  key: string,
): Promise<Confirmed> {
  const draft = await openAnnouncement(db, actor, announcementId);
  const known = await sendByKey(db, actor.id, key);
  if (known) return known;
  const errors = contentProblems(draft.content);
  if (errors.length > 0) throw new Problem(422, 'It cannot be sent yet, not even as a test.', { errors });
  const plan: Plan = { ...EMPTY_PLAN, audience: { kind: 'person', id: actor.id } };
  return transact(db, async (trx) => {
    // A copy of its own, so that the draft can still be thrown away.
    const content = { ...draft.content, issue: null };
    const copyId = await insertAnnouncement(trx, actor.id, content, plan, 'committed');
    const versionId = await freezeVersion(trx, copyId, actor.id, content, 'sent');
    const id = await insertSend(trx, {
      announcementId: copyId,
      versionId,
      createdBy: actor.id,
      plan,
      key,
      kind: 'test',
    });
    const occurrenceId = await planOnce(trx, { id, versionId, plan }, null, { all: [], reached: [] });
    await record(trx, {
      actorId: actor.id,
      action: 'send test',
      subject: 'announcement',
      subjectId: announcementId,
    });
    return { occurrenceId };
  });
}

/** Tries failed mail of a send again. */
export async function retry(db: Database, actor: Actor, occurrenceId: number): Promise<{ again: number }> {
  await openOccurrence(db, actor, occurrenceId);
  return transact(db, async (trx) => {
    const again = await retryFailed(trx, occurrenceId);
    if (again > 0) {
      await record(trx, {
        actorId: actor.id,
        action: 'retry',
        subject: 'occurrence',
        subjectId: occurrenceId,
        detail: { again },
      });
      await publish(trx, [topics.desk, topics.occurrence(occurrenceId)]);
    }
    return { again };
  });
}

/** One occurrence at the desk; a 404 problem where it is not this person's to see. */
export async function openOccurrence(db: Database, actor: Actor, id: number): Promise<Occurrence> {
  const found = await occurrenceById(db, id);
  if (!found || decide(actor, { kind: 'see send', authorId: found.createdBy }).outcome === 'denied')
    throw notFound('send');
  return found;
}

const total = (counts: DeliveryCount[], method: string, states: string[]): number =>
  counts
    .filter((row) => row.method === method && states.includes(row.state))
    .reduce((sum, row) => sum + row.n, 0);

function localWallOf({ plan, recursAt, movedTo }: Occurrence): string | null {
  const { timing } = plan;
  if (timing.kind === 'local') return timing.wall;
  if (timing.kind !== 'recurring' || timing.zone !== null) return null;
  return movedTo ?? recursAt;
}

const recursOf = ({ plan, sendState, recursAt, movedTo }: Occurrence): RunSheetRow['recurs'] =>
  plan.timing.kind === 'recurring' ? { state: sendState, at: recursAt, moved: movedTo !== null } : null;

/** Occurrences with what became of them, in the order given. */
async function withOutcome(db: Database, actor: Actor, found: Occurrence[]): Promise<RunSheetRow[]> {
  const ids = found.map((occurrence) => occurrence.id);
  const [counts, rolls, names, nowMs] = await Promise.all([
    deliveryCounts(db, ids, LATE_MS),
    tallies(db, ids),
    planNames(
      db,
      actor,
      found.map((each) => each.plan),
    ),
    databaseNow(db),
  ]);
  return found.map((occurrence) => {
    const rows = counts.get(occurrence.id) ?? [];
    const worst = rows.map((row) => row.worstLateMs).filter((late) => late !== null);
    return {
      occurrenceId: occurrence.id,
      announcementId: occurrence.announcementId,
      title: occurrence.title,
      importance: occurrence.importance,
      state: occurrence.state,
      sendId: occurrence.sendId,
      kind: occurrence.kind,
      chases: occurrence.chases,
      asks: occurrence.asked.kind,
      recurs: recursOf(occurrence),
      local: isLocal(occurrence.plan.timing),
      dueMs: occurrence.dueMs,
      endsMs: occurrence.endsMs,
      correctedMs: occurrence.correctedMs,
      correction: occurrence.correction,
      sentMs: occurrence.sentMs,
      deadlineMs: occurrence.deadlineMs,
      author: occurrence.createdByName,
      whom: occurrence.plan.audience ? audienceWords(occurrence.plan.audience, names) : '',
      boards: occurrence.plan.boards.flatMap((id) => names.board(id) ?? []),
      localWall: localWallOf(occurrence),
      projectedFrom: null,
      movable:
        occurrence.state === 'scheduled' &&
        occurrence.kind === 'send' &&
        occurrence.plan.timing.kind !== 'now',
      sentence: sentenceText(occurrence.plan, names, nowMs),
      brief: briefText(occurrence.plan, names, nowMs),
      failure: occurrence.failure,
      inbox: total(rows, 'inbox', ['delivered']),
      mailed: total(rows, 'mail', ['delivered']),
      waiting: total(rows, 'mail', ['waiting', 'sending']),
      resting: total(rows, 'inbox', ['resting']),
      failed: total(rows, 'mail', ['failed']),
      worstLateMs: worst.length > 0 ? Math.max(...worst) : null,
      roll: rolls.get(occurrence.id) ?? null,
    };
  });
}

/** What goes out from one instant to before another, in order, with what became of it. */
export async function runSheet(
  db: Database,
  actor: Actor,
  fromMs: number,
  toMs: number,
): Promise<RunSheetRow[]> {
  const [rows, beyond] = await Promise.all([
    goings(db, actor, fromMs, toMs).then((found) => withOutcome(db, actor, found)),
    projected(db, actor, fromMs, toMs),
  ]);
  return [...rows, ...beyond].sort((a, b) => a.dueMs - b.dueMs);
}

/** What recurs, beyond what is planned of it: as its rule gives it, without rows of its own yet. */
async function projected(db: Database, actor: Actor, fromMs: number, toMs: number): Promise<RunSheetRow[]> {
  const sends = await recurringBeyond(db, toMs, actor.role === 'coordinator' ? null : actor.id);
  if (sends.length === 0) return [];
  const [known, now] = await Promise.all([
    occurrencesByIds(
      db,
      sends.map((send) => send.occurrenceId),
    ),
    circumstances(db),
  ]);
  const rows = await withOutcome(db, actor, [...known.values()]);
  const found = await Promise.all(
    sends.map(async ({ occurrenceId, plannedUntilMs }) => {
      const occurrence = known.get(occurrenceId);
      const row = rows.find((each) => each.occurrenceId === occurrenceId);
      if (!occurrence || !row || occurrence.plan.timing.kind !== 'recurring') return [];
      const zones = await planZones(db, occurrence.plan, now);
      const after = Math.max(plannedUntilMs, fromMs - DAY_MS);
      return comingOccurrences(occurrence.plan.timing, zones.all, after, {
        untilMs: toMs,
        most: 100,
      }).flatMap(({ recursAt, buckets }, i): RunSheetRow[] => {
        const span = reachSpan(buckets, zones);
        if (!span || span.firstMs < plannedUntilMs || span.lastMs < fromMs) return [];
        return [
          {
            ...row,
            occurrenceId: -(occurrence.sendId * 1000 + i),
            projectedFrom: occurrenceId,
            state: 'scheduled',
            dueMs: span.firstMs,
            endsMs: span.lastMs,
            sentMs: null,
            deadlineMs: null,
            failure: null,
            correctedMs: null,
            correction: null,
            recurs: { state: 'active', at: recursAt, moved: false },
            localWall: null,
            movable: false,
            inbox: 0,
            mailed: 0,
            waiting: 0,
            resting: 0,
            failed: 0,
            worstLateMs: null,
            roll: null,
          },
        ];
      });
    }),
  );
  return found.flat();
}

const DAY_MS = 86_400_000;

/** What goes out in a stretch of time, without what became of it: for the ribbon. */
export function goings(db: Database, actor: Actor, fromMs: number, toMs: number): Promise<Occurrence[]> {
  demandDesk(actor);
  return occurrencesBetween(db, fromMs, toMs, actor.role === 'coordinator' ? null : actor.id);
}

/** Mail that failed or is being tried again, for "Needs you". */
export async function needsYou(db: Database, actor: Actor): Promise<Need[]> {
  demandDesk(actor);
  return needs(db, 14, actor.role === 'coordinator' ? null : actor.id);
}

/** One send: its sentence, what it says, how far it is, and who could not be reached and why. */
export async function sendPage(db: Database, actor: Actor, id: number): Promise<SendPage> {
  const occurrence = await openOccurrence(db, actor, id);
  const [[row], counts, trouble, version, buckets] = await Promise.all([
    withOutcome(db, actor, [occurrence]),
    deliveryCounts(db, [id], LATE_MS),
    tellsWhoVoted(db, occurrence).then((secret) => (secret ? [] : troubles(db, id, 200))),
    versionById(db, occurrence.versionId),
    bucketsOf(db, id),
  ]);
  if (!row || !version) throw notFound('send');
  const timing = occurrence.plan.timing;
  return {
    row,
    byline: version.byline,
    html: sectionsHtml(version.sections, fillFor(null), {
      kind: 'page',
      level: 3,
      address: addressIn('version', version.id),
    }),
    button: version.button,
    event: version.event,
    buckets,
    counts: counts.get(id) ?? [],
    troubles: trouble,
    clockNote: timing.kind === 'at' ? settledWords(timing) : null,
  };
}

/** The newest send of an announcement that was not taken back, or null. */
export async function occurrenceOf(db: Database, announcementId: number): Promise<number | null> {
  return (await latestOccurrence(db, announcementId))?.id ?? null;
}
