import { change, rows, transact, type Database } from '../database/connection.ts';
import { makeUnfindable } from '../search/indexStore.ts';
import { noteLoose } from './looseUploads.ts';
import { keepAnswerCounts, keepDeliveryCounts } from './keptStore.ts';
import { draftIsOld, postIsOld } from './store.ts';

/** How many rows one statement takes away, so that none holds others up for long. */
const PIECE = 5000;

/** Deletes what a condition says of a table, a piece at a time. */
async function deleteAll(db: Database, from: string, bindings: readonly unknown[]): Promise<number> {
  let n = 0;
  for (;;) {
    const gone = await change(db, `DELETE FROM ${from} LIMIT ${PIECE}`, bindings);
    n += gone;
    if (gone < PIECE) return n;
  }
}

/** Forgets to whom a going-out went, once what it came to is written down; gives how many deliveries are gone. */
export async function forgetDeliveries(db: Database, occurrenceId: number): Promise<number> {
  await transact(db, (trx) => keepDeliveryCounts(trx, occurrenceId));
  await deleteAll(db, 'hook_deliveries WHERE occurrence_id = ?', [occurrenceId]);
  return deleteAll(db, 'deliveries WHERE occurrence_id = ?', [occurrenceId]);
}

/** Forgets who answered an ask and what they said, once what it came to is written down; gives how many answers are gone. */
export async function forgetAnswers(db: Database, occurrenceId: number): Promise<number> {
  await transact(db, (trx) => keepAnswerCounts(trx, occurrenceId));
  const said = await rows<{ id: number }>(db, 'SELECT id FROM check_ins WHERE occurrence_id = ?', [
    occurrenceId,
  ]);
  for (const { id } of said) await makeUnfindable(db, 'check-in', id);
  for (const table of ['check_in_replies', 'check_in_answers', 'check_ins', 'earlier_answers'])
    await deleteAll(db, `${table} WHERE occurrence_id = ?`, [occurrenceId]);
  // Of the roll last: by it what is left to forget is found again.
  return deleteAll(db, 'roll WHERE occurrence_id = ?', [occurrenceId]);
}

/** What an announcement says, and the replies to a post of it, where it has one, as it is kept. */
async function textsOf(db: Database, postId: number | null, announcementId: number): Promise<string[]> {
  const found = await rows<{ text: string | null }>(
    db,
    `SELECT content AS text FROM announcements WHERE id = ?
     UNION ALL SELECT body FROM announcement_versions WHERE announcement_id = ?
     UNION ALL SELECT document FROM replies WHERE post_id = ? UNION ALL SELECT files FROM replies WHERE post_id = ?
     UNION ALL SELECT e.document FROM earlier_replies e JOIN replies y ON y.id = e.reply_id WHERE y.post_id = ?`,
    [announcementId, announcementId, postId, postId, postId],
  );
  return found.flatMap(({ text }) => text ?? []);
}

/** Forgets what somebody was told of what stands at a path: it holds its first words. */
const forgetNotices = (trx: Database, path: string): Promise<number> =>
  change(trx, 'DELETE FROM notices WHERE path = ? OR path LIKE ? OR path LIKE ?', [
    path,
    `${path}#%`,
    `${path}?%`,
  ]);

/** Forgets a draft with all that hangs on it; false where somebody went on with it by now. */
export function forgetDraft(db: Database, id: number, days: number): Promise<boolean> {
  return transact(db, async (trx) => {
    if (!(await draftIsOld(trx, id, days))) return false;
    await noteLoose(trx, await textsOf(trx, null, id));
    await forgetNotices(trx, `/write/${id}`);
    await change(trx, 'DELETE FROM announcements WHERE id = ?', [id]);
    return true;
  });
}

/** Forgets a post with all that hangs on it; false where it is held back by now. */
export function forgetPost(
  db: Database,
  { id, announcementId }: { id: number; announcementId: number },
  days: number,
): Promise<boolean> {
  return transact(db, async (trx) => {
    if (!(await postIsOld(trx, id, days))) return false;
    const replies = (await rows<{ id: number }>(trx, 'SELECT id FROM replies WHERE post_id = ?', [id])).map(
      (reply) => reply.id,
    );
    for (const reply of replies) await makeUnfindable(trx, 'reply', reply);
    await makeUnfindable(trx, 'post', id);
    await noteLoose(trx, await textsOf(trx, id, announcementId));
    const subjects = [['post', id] as const, ...replies.map((reply) => ['reply', reply] as const)];
    for (const [subject, subjectId] of subjects)
      for (const table of ['reactions', 'reports'])
        await change(trx, `DELETE FROM ${table} WHERE subject = ? AND subject_id = ?`, [subject, subjectId]);
    await change(trx, "DELETE FROM follows WHERE subject = 'post' AND subject_id = ?", [id]);
    await change(trx, 'DELETE FROM post_reads WHERE post_id = ?', [id]);
    await change(trx, 'UPDATE hook_calls SET post_id = NULL WHERE post_id = ?', [id]);
    await forgetNotices(trx, `/posts/${id}`);
    await change(trx, 'DELETE FROM replies WHERE post_id = ?', [id]);
    await change(trx, 'DELETE FROM posts WHERE id = ?', [id]);
    // Its text, where nothing else says it: an announcement can stand on several boards.
    const held = await rows(
      trx,
      `SELECT 1 FROM posts q JOIN announcement_versions v ON v.id = q.version_id WHERE v.announcement_id = ?
       UNION ALL SELECT 1 FROM sends WHERE announcement_id = ? LIMIT 1`,
      [announcementId, announcementId],
    );
    if (held.length === 0) await change(trx, 'DELETE FROM announcements WHERE id = ?', [announcementId]);
    return true;
  });
}
