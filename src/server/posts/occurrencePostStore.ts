import type { PostState } from '../../core/boards/board.ts';
import { change, rows, type Database } from '../database/connection.ts';

/** The parts of a text on some boards, written so that the first part stands above the others. */
async function insertParts(
  db: Database,
  occurrence: { id: number; versionId: number; createdBy: number },
  boards: readonly {
    id: number;
    partSize: number;
    sections: number | null;
    at: Date | null;
    state?: PostState;
  }[],
): Promise<void> {
  // A part that comes on top stands as the others do: where a moderator took them down, it is not up.
  const values = boards.flatMap(({ id, partSize, sections, at, state = 'up' }) => {
    const parts = Math.max(1, Math.ceil((sections ?? 1) / partSize));
    return Array.from(
      { length: parts },
      (_, i) => [id, i + 1, parts, partSize, at, i * 1000, state] as const,
    );
  });
  if (values.length === 0) return;
  await change(
    db,
    `INSERT INTO posts (board_id, part, parts, part_size, version_id, occurrence_id, author_id, posted_at, state)
     VALUES ${values.map(() => '(?, ?, ?, ?, ?, ?, ?, COALESCE(?, NOW(3)) - INTERVAL ? MICROSECOND, ?)').join(', ')}
     ON DUPLICATE KEY UPDATE posts.board_id = posts.board_id`,
    values.flatMap(([board, part, parts, size, at, later, state]) => [
      board,
      part,
      parts,
      size,
      occurrence.versionId,
      occurrence.id,
      occurrence.createdBy,
      at,
      later,
      state,
    ]),
  );
}

/**
 * Puts an occurrence on the boards of its plan, once each, however often it is asked. On a board with a limit of
 * sections it stands in parts; not on one that has been archived since, or that no longer takes what recurs by itself.
 */
export async function postOccurrence(
  db: Database,
  occurrence: { id: number; versionId: number; createdBy: number; plan: { boards: readonly number[] } },
): Promise<void> {
  const { boards } = occurrence.plan;
  if (boards.length === 0) return;
  const found = await rows<{ id: number; partSize: number; sections: number | null; at: null }>(
    db,
    `SELECT b.id, b.section_limit AS partSize, JSON_LENGTH(v.body, '$.sections') AS sections, NULL AS at
     FROM boards b JOIN announcement_versions v ON v.id = ? JOIN occurrences c ON c.id = ? JOIN sends s ON s.id = c.send_id
     WHERE b.archived_at IS NULL AND (b.automations OR NOT s.recurring) AND b.id IN (${boards.map(() => '?').join(', ')})`,
    [occurrence.versionId, occurrence.id, ...boards],
  );
  await insertParts(db, occurrence, found);
}

/** Puts another text in the place of what an occurrence said on its boards, in as many parts as it now takes. */
export async function repostOccurrence(
  db: Database,
  occurrence: { id: number; versionId: number; createdBy: number },
): Promise<void> {
  const found = await rows<{
    id: number;
    partSize: number;
    sections: number | null;
    at: Date;
    state: PostState;
  }>(
    db,
    `SELECT o.board_id AS id, o.state, o.part_size AS partSize, JSON_LENGTH(v.body, '$.sections') AS sections, o.posted_at AS at
     FROM posts o JOIN announcement_versions v ON v.id = ? WHERE o.occurrence_id = ? AND o.part = 1`,
    [occurrence.versionId, occurrence.id],
  );
  for (const { id, partSize, sections } of found) {
    const parts = Math.max(1, Math.ceil((sections ?? 1) / partSize));
    await change(db, 'UPDATE posts SET version_id = ?, parts = ? WHERE occurrence_id = ? AND board_id = ?', [
      occurrence.versionId,
      parts,
      occurrence.id,
      id,
    ]);
    await change(db, 'DELETE FROM posts WHERE occurrence_id = ? AND board_id = ? AND part > ?', [
      occurrence.id,
      id,
      parts,
    ]);
  }
  await insertParts(db, occurrence, found);
}

/** What an occurrence put on boards, once a board, with what is needed to tell of it. */
export function postsOfOccurrence(
  db: Database,
  occurrenceId: number,
): Promise<
  {
    id: number;
    versionId: number;
    authorId: number;
    title: string;
    excerpt: string;
    boardId: number;
    boardName: string;
    groupId: number | null;
  }[]
> {
  return rows(
    db,
    `SELECT o.id, v.id AS versionId, o.author_id AS authorId, v.title, v.excerpt, b.id AS boardId, b.name AS boardName, b.group_id AS groupId
     FROM posts o JOIN announcement_versions v ON v.id = o.version_id JOIN boards b ON b.id = o.board_id
     WHERE o.occurrence_id = ? AND o.part = 1 AND o.state = 'up'`,
    [occurrenceId],
  );
}

/** Where an occurrence stands on boards, each part by itself. */
export function placesOfOccurrence(
  db: Database,
  occurrenceId: number,
): Promise<{ id: number; boardId: number; board: string; part: number; parts: number; state: string }[]> {
  return rows(
    db,
    `SELECT o.id, b.id AS boardId, b.name AS board, o.part, o.parts, o.state FROM posts o JOIN boards b ON b.id = o.board_id
     WHERE o.occurrence_id = ? ORDER BY b.name, o.part`,
    [occurrenceId],
  );
}
