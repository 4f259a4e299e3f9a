import { z } from 'zod';
import { contentProblems } from '../../core/content/announcement.ts';
import { documentHtml } from '../../core/content/html.ts';
import { LATE_MS } from '../../core/delivery/lateness.ts';
import { deadlineOf, dueAt } from '../../core/plan/plan.ts';
import { briefText, sentenceText } from '../../core/plan/sentence.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import type { DeliveryCount, RunSheetRow, SendPage } from '../../core/sends/send.ts';
import type { Need } from '../../core/desk/desk.ts';
import { settledWords } from '../../core/timing/wallTime.ts';
import { openAnnouncement } from '../announcements/service.ts';
import { commit, freezeVersion, reopen, versionById } from '../announcements/store.ts';
import { tallies } from '../asks/store.ts';
import { record } from '../audit/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { publish } from '../outbox/store.ts';
import { topics } from '../outbox/topics.ts';
import { notFound, Problem } from '../problem.ts';
import { forecast, planNames } from './forecast.ts';
import {
  deliveryCounts,
  insertSend,
  latestOccurrence,
  needs,
  occurrenceById,
  occurrencesBetween,
  recallOccurrence,
  retryFailed,
  sendByKey,
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

/**
 * Answers the last question: freezes the draft as it was read and plans it. Nothing leaves before the hold is
 * over. The same key, or a second press in another tab, sends once.
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
  if (draft.state !== 'draft') {
    const going = await latestOccurrence(db, announcementId);
    throw new Problem(409, 'It is on its way already.', { more: { occurrenceId: going?.id ?? null } });
  }
  if (draft.revision !== input.revision)
    throw new Problem(
      409,
      `${draft.savedByName} changed this draft after you read it. Read it again, then send.`,
      {
        more: { revision: draft.revision, savedBy: draft.savedByName, savedMs: draft.savedMs },
      },
    );
  const outlook = await forecast(db, actor, draft.plan, draft.content.importance);
  const errors = [...contentProblems(draft.content), ...outlook.problems];
  if (errors.length > 0) throw new Problem(422, 'It cannot go out yet.', { errors });
  if (outlook.right.outcome === 'denied') throw new Problem(403, outlook.right.reason);

  try {
    return await transact(db, async (trx) => {
      if (!(await commit(trx, announcementId, input.revision)))
        throw new Problem(409, 'It was changed or sent a moment ago. Read it again.');
      const versionId = await freezeVersion(trx, announcementId, draft.savedById, draft.content, 'sent');
      const occurrenceId = await insertSend(trx, {
        announcementId,
        versionId,
        createdBy: actor.id,
        plan: draft.plan,
        key,
        dueMs: dueAt(draft.plan.timing, await databaseNow(trx)),
        deadlineMs: deadlineOf(draft.plan.ask),
      });
      await record(trx, {
        actorId: actor.id,
        action: 'send',
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

/** Takes back what has not begun to go and makes it a draft again; a 409 problem where it is too late. */
export async function takeBack(
  db: Database,
  actor: Actor,
  occurrenceId: number,
): Promise<{ announcementId: number }> {
  const occurrence = await openOccurrence(db, actor, occurrenceId);
  await transact(db, async (trx) => {
    if (!(await recallOccurrence(trx, occurrenceId)))
      throw new Problem(
        409,
        occurrence.state === 'recalled'
          ? 'It was taken back already.'
          : 'It is too late: it has begun to go out.',
      );
    await reopen(trx, occurrence.announcementId);
    await record(trx, {
      actorId: actor.id,
      action: 'take back',
      subject: 'occurrence',
      subjectId: occurrenceId,
    });
    await publish(trx, [topics.desk, topics.occurrence(occurrenceId)]);
  });
  return { announcementId: occurrence.announcementId };
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

async function openOccurrence(db: Database, actor: Actor, id: number): Promise<Occurrence> {
  const found = await occurrenceById(db, id);
  if (!found || decide(actor, { kind: 'see send', authorId: found.createdBy }).outcome === 'denied')
    throw notFound('send');
  return found;
}

const total = (counts: DeliveryCount[], method: string, states: string[]): number =>
  counts
    .filter((row) => row.method === method && states.includes(row.state))
    .reduce((sum, row) => sum + row.n, 0);

/** Occurrences with what became of them, in the order given. */
async function withOutcome(db: Database, actor: Actor, found: Occurrence[]): Promise<RunSheetRow[]> {
  const ids = found.map((occurrence) => occurrence.id);
  const [counts, rolls, names, nowMs] = await Promise.all([
    deliveryCounts(db, ids, LATE_MS),
    tallies(db, ids),
    planNames(db, actor),
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
      dueMs: occurrence.dueMs,
      sentMs: occurrence.sentMs,
      deadlineMs: occurrence.deadlineMs,
      author: occurrence.createdByName,
      sentence: sentenceText(occurrence.plan, names, nowMs),
      brief: briefText(occurrence.plan, names, nowMs),
      failure: occurrence.failure,
      inbox: total(rows, 'inbox', ['delivered']),
      mailed: total(rows, 'mail', ['delivered']),
      waiting: total(rows, 'mail', ['waiting', 'sending']),
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
  return withOutcome(db, actor, await goings(db, actor, fromMs, toMs));
}

/** What goes out in a stretch of time, without what became of it: for the ribbon. */
export function goings(db: Database, actor: Actor, fromMs: number, toMs: number): Promise<Occurrence[]> {
  demandDesk(actor);
  return occurrencesBetween(db, fromMs, toMs, actor.role === 'coordinator' ? null : actor.id);
}

/** Mail that failed or is being tried again, for "Needs you". */
export async function needsYou(db: Database, actor: Actor): Promise<Need[]> {
  demandDesk(actor);
  const found = await needs(db, 14);
  return found.filter(
    (need) => decide(actor, { kind: 'see send', authorId: need.createdBy }).outcome === 'allowed',
  );
}

/** One send: its sentence, what it says, how far it is, and who could not be reached and why. */
export async function sendPage(db: Database, actor: Actor, id: number): Promise<SendPage> {
  const occurrence = await openOccurrence(db, actor, id);
  const [[row], counts, trouble, version] = await Promise.all([
    withOutcome(db, actor, [occurrence]),
    deliveryCounts(db, [id], LATE_MS),
    troubles(db, id, 200),
    versionById(db, occurrence.versionId),
  ]);
  if (!row || !version) throw notFound('send');
  const timing = occurrence.plan.timing;
  return {
    row,
    byline: version.byline,
    html: documentHtml(version.document),
    button: version.button,
    counts: counts.get(id) ?? [],
    troubles: trouble,
    clockNote: timing.kind === 'at' ? settledWords(timing) : null,
  };
}

function demandDesk(actor: Actor): void {
  const decision = decide(actor, { kind: 'see the desk' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

/** The newest send of an announcement that was not taken back, or null. */
export async function occurrenceOf(db: Database, announcementId: number): Promise<number | null> {
  return (await latestOccurrence(db, announcementId))?.id ?? null;
}
