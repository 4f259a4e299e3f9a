import type { z } from 'zod';
import type { commentSchema, DraftComment } from '../../core/desk/comment.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { openAnnouncement } from '../announcements/service.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { commentsOn, insertComment, markComment } from './store.ts';

/** The comments on a draft this person may open. */
export async function listComments(
  db: Database,
  actor: Actor,
  announcementId: number,
): Promise<DraftComment[]> {
  await openAnnouncement(db, actor, announcementId);
  return commentsOn(db, announcementId);
}

export async function comment(
  db: Database,
  actor: Actor,
  announcementId: number,
  input: z.infer<typeof commentSchema>,
): Promise<DraftComment[]> {
  await openAnnouncement(db, actor, announcementId);
  await transact(db, async (trx) => {
    const id = await insertComment(trx, { announcementId, authorId: actor.id, ...input });
    await record(trx, {
      actorId: actor.id,
      action: 'comment',
      subject: 'announcement',
      subjectId: announcementId,
      detail: { comment: id },
    });
    await emit(trx, 'draft.commented', { announcement: announcementId });
  });
  return commentsOn(db, announcementId);
}

/** Settles a comment, or opens it again. Doing it twice is doing it once. */
export async function setCommentSettled(
  db: Database,
  actor: Actor,
  announcementId: number,
  commentId: number,
  settled: boolean,
): Promise<DraftComment[]> {
  await openAnnouncement(db, actor, announcementId);
  await transact(db, async (trx) => {
    if (await markComment(trx, announcementId, commentId, settled, actor.id))
      await emit(trx, 'draft.commented', { announcement: announcementId });
  });
  return commentsOn(db, announcementId);
}
