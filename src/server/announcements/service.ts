import { z } from 'zod';
import { draftContentSchema, type Content, type EarlierText } from '../../core/content/announcement.ts';
import { EMPTY_DOCUMENT } from '../../core/content/document.ts';
import { EMPTY_PLAN, planSchema } from '../../core/plan/plan.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import {
  announcementById,
  deleteDraft,
  earlierTexts,
  drafts,
  freezeVersion,
  insertAnnouncement,
  saveRevision,
  versionById,
  type Announcement,
} from './store.ts';

const EMPTY_CONTENT: Content = {
  title: '',
  byline: '',
  importance: 'routine',
  document: EMPTY_DOCUMENT,
  button: null,
};

function demandDesk(actor: Actor): void {
  const decision = decide(actor, { kind: 'see the desk' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
}

/** Begins an empty draft. */
export async function beginDraft(db: Database, actor: Actor): Promise<number> {
  demandDesk(actor);
  return insertAnnouncement(db, actor.id, EMPTY_CONTENT, EMPTY_PLAN, 'draft');
}

/** The drafts this person may open, the last saved first. */
export async function listDrafts(db: Database, actor: Actor): Promise<Announcement[]> {
  demandDesk(actor);
  return drafts(db, actor.role === 'coordinator' ? null : actor.id, 100);
}

/** One announcement at the desk; a 404 problem where it is not this person's to open. */
export async function openAnnouncement(db: Database, actor: Actor, id: number): Promise<Announcement> {
  const found = await announcementById(db, id);
  if (!found || decide(actor, { kind: 'open draft', authorId: found.authorId }).outcome === 'denied')
    throw notFound('announcement');
  return found;
}

export const saveSchema = z.object({
  content: draftContentSchema,
  plan: planSchema,
  /** The revision this save was made over. */
  revision: z.int().positive(),
  /** Chosen by somebody who was told of the other text: save over it, and keep the other as a version. */
  saveOver: z.boolean().default(false),
});

/**
 * Saves a draft. Somebody who saved meanwhile is never overwritten unseen: the answer is then a 409 problem that
 * says who and when, and carries the revision that saving over them would take. What is saved over is kept.
 *
 * @returns the new revision
 */
export async function saveDraft(
  db: Database,
  actor: Actor,
  id: number,
  input: z.infer<typeof saveSchema>,
): Promise<{ revision: number; savedMs: number }> {
  const before = await openAnnouncement(db, actor, id);
  if (before.state !== 'draft')
    throw new Problem(409, 'It is on its way already. Take it back first to change it.', {
      more: { sent: true },
    });
  await transact(db, async (trx) => {
    if (before.savedById !== actor.id || input.saveOver)
      await freezeVersion(trx, id, before.savedById, before.content, 'overwritten');
    if (await saveRevision(trx, id, input.revision, actor.id, input.content, input.plan)) return;
    throw new Problem(409, `${before.savedByName} saved another text of this draft meanwhile.`, {
      more: { revision: before.revision, savedBy: before.savedByName, savedMs: before.savedMs },
    });
  });
  const after = await openAnnouncement(db, actor, id);
  return { revision: after.revision, savedMs: after.savedMs };
}

/** The texts of a draft that somebody saved over, the latest first. */
export async function listEarlierTexts(db: Database, actor: Actor, id: number): Promise<EarlierText[]> {
  await openAnnouncement(db, actor, id);
  return earlierTexts(db, id);
}

/** One of them in full, to be brought back. */
export async function earlierText(
  db: Database,
  actor: Actor,
  id: number,
  versionId: number,
): Promise<Content> {
  await openAnnouncement(db, actor, id);
  const version = await versionById(db, versionId);
  if (version?.announcementId !== id) throw notFound('text');
  const { title, byline, importance, document, button } = version;
  return { title, byline, importance, document, button };
}

/** Throws a draft away. What has been sent, or taken back from sending, stays. */
export async function discardDraft(db: Database, actor: Actor, id: number): Promise<void> {
  await openAnnouncement(db, actor, id);
  await transact(db, async (trx) => {
    if (!(await deleteDraft(trx, id)))
      throw new Problem(409, 'Only a draft that was never scheduled can be thrown away.');
    await record(trx, { actorId: actor.id, action: 'discard', subject: 'announcement', subjectId: id });
  });
}
