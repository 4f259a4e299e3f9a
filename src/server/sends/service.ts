import { contentProblems } from '../../core/content/announcement.ts';
import { EMPTY_PLAN, type Plan } from '../../core/plan/plan.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { openAnnouncement } from '../announcements/service.ts';
import { insertAnnouncement } from '../announcements/store.ts';
import { freezeVersion } from '../announcements/versionStore.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { planOnce } from './planning.ts';
import { insertSend, sendByKey } from './store.ts';
import { latestOccurrence, occurrenceById, retryFailed, type Occurrence } from './occurrenceStore.ts';
import type { Confirmed } from './confirming.ts';

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

/** Tries what failed of a send again: mail, and outside places that gave up. @throws 409 where it is withdrawn */
export async function retry(db: Database, actor: Actor, occurrenceId: number): Promise<{ again: number }> {
  const { withdrawn } = await openOccurrence(db, actor, occurrenceId);
  if (withdrawn) throw new Problem(409, 'It is withdrawn: nothing of it goes out any more.');
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
      await emit(trx, 'occurrence.changed', { occurrence: occurrenceId });
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

/** The newest send of an announcement that was not taken back, or null. */
export async function occurrenceOf(db: Database, announcementId: number): Promise<number | null> {
  return (await latestOccurrence(db, announcementId))?.id ?? null;
}
