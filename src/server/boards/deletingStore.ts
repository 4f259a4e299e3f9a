import { change, rows, type Database } from '../database/connection.ts';

/** Takes posts out with what was done to them: reactions, reports, and that they were read. Nothing may have replied to them. */
async function deletePosts(db: Database, ids: readonly number[]): Promise<void> {
  if (ids.length === 0) return;
  const marks = ids.map(() => '?').join(', ');
  const texts = await rows<{ versionId: number; announcementId: number }>(
    db,
    `SELECT v.id AS versionId, v.announcement_id AS announcementId FROM announcement_versions v
     WHERE v.announcement_id IN (SELECT w.announcement_id FROM posts o JOIN announcement_versions w ON w.id = o.version_id
       WHERE o.id IN (${marks}) AND o.occurrence_id IS NULL)`,
    ids,
  );
  for (const statement of [
    'DELETE FROM post_reads WHERE post_id IN',
    "DELETE FROM reactions WHERE subject = 'post' AND subject_id IN",
    "DELETE FROM follows WHERE subject = 'post' AND subject_id IN",
    "DELETE FROM reports WHERE subject = 'post' AND subject_id IN",
    "DELETE FROM findables WHERE kind = 'post' AND subject_id IN",
    'DELETE FROM posts WHERE id IN',
  ])
    await change(db, `${statement} (${marks})`, ids);
  const gone = async (
    table: 'announcement_versions' | 'announcements',
    of: readonly number[],
  ): Promise<void> => {
    if (of.length > 0)
      await change(db, `DELETE FROM ${table} WHERE id IN (${of.map(() => '?').join(', ')})`, of);
  };
  await gone(
    'announcement_versions',
    texts.map(({ versionId }) => versionId),
  );
  await gone('announcements', [...new Set(texts.map(({ announcementId }) => announcementId))]);
}

/** Deletes a board with its settings and the posts given, which must be all that ever stood on it. */
export async function deleteBoardWith(db: Database, id: number, posts: readonly number[]): Promise<void> {
  await deletePosts(db, posts);
  await change(db, 'DELETE FROM findables WHERE board_id = ?', [id]);
  await change(db, "DELETE FROM follows WHERE subject = 'board' AND subject_id = ?", [id]);
  await change(db, 'DELETE FROM board_marks WHERE board_id = ?', [id]);
  await change(db, 'DELETE FROM boards WHERE id = ?', [id]);
}
