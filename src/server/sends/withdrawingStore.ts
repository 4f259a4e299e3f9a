import { change, rows, type Database } from '../database/connection.ts';

/** What a post of a withdrawn announcement says to its moderators; by this it is known when it is to stand again. */
const WORD = 'The announcement was withdrawn.';

/** Holds an occurrence until the transaction ends; whether it is withdrawn. */
export async function lockOccurrence(db: Database, occurrenceId: number): Promise<boolean> {
  const [row] = await rows<{ withdrawn: number }>(
    db,
    'SELECT withdrawn_at IS NOT NULL AS withdrawn FROM occurrences WHERE id = ? FOR UPDATE',
    [occurrenceId],
  );
  return row?.withdrawn === 1;
}

interface PostOf {
  id: number;
  boardId: number;
}

const postsIn = (db: Database, occurrenceId: number, where: string, bindings: string[]): Promise<PostOf[]> =>
  rows(
    db,
    `SELECT id, board_id AS boardId FROM posts WHERE occurrence_id = ? AND ${where} ORDER BY id FOR UPDATE`,
    [occurrenceId, ...bindings],
  );

/** Marks an occurrence and its chases as withdrawn, hides its posts and closes what it asks without an outcome; gives the posts. */
export async function markWithdrawn(
  db: Database,
  occurrenceId: number,
  by: number,
  note: string,
): Promise<PostOf[]> {
  await change(
    db,
    'UPDATE occurrences SET withdrawn_at = NOW(3), withdrawn_note = ? WHERE id = ? OR chases = ?',
    [note, occurrenceId, occurrenceId],
  );
  await change(
    db,
    `UPDATE asks a JOIN occurrences o ON o.id = a.occurrence_id
     SET a.closed_at = o.withdrawn_at, a.closed_why = 'hand', a.closed_by = ?, a.settled_at = o.withdrawn_at
     WHERE a.occurrence_id = ? AND a.closed_at IS NULL`,
    [by, occurrenceId],
  );
  const posts = await postsIn(db, occurrenceId, "state = 'up'", []);
  await change(
    db,
    "UPDATE posts SET state = 'hidden', decided_by = ?, decided_at = NOW(3), word = ? WHERE occurrence_id = ? AND state = 'up'",
    [by, WORD, occurrenceId],
  );
  return posts;
}

/** The opposite of `markWithdrawn`. What was closed or hidden for another reason stays so. */
export async function markReinstated(db: Database, occurrenceId: number): Promise<PostOf[]> {
  await change(
    db,
    `UPDATE asks a JOIN occurrences o ON o.id = a.occurrence_id
     SET a.closed_at = NULL, a.closed_why = NULL, a.closed_by = NULL, a.settled_at = NULL
     WHERE a.occurrence_id = ? AND a.closed_at = o.withdrawn_at`,
    [occurrenceId],
  );
  await change(
    db,
    'UPDATE occurrences SET withdrawn_at = NULL, withdrawn_note = NULL WHERE id = ? OR chases = ?',
    [occurrenceId, occurrenceId],
  );
  const posts = await postsIn(db, occurrenceId, "state = 'hidden' AND word = ?", [WORD]);
  await change(
    db,
    "UPDATE posts SET state = 'up', decided_by = NULL, decided_at = NULL, word = NULL WHERE occurrence_id = ? AND state = 'hidden' AND word = ?",
    [occurrenceId, WORD],
  );
  return posts;
}
