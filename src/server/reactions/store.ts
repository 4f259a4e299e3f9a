import type { Reaction, ReactionCounts } from '../../core/boards/reaction.ts';
import { change, rows, type Database } from '../database/connection.ts';

export type ReactedTo = 'post' | 'reply' | 'occurrence';

/** Gives or takes back a reaction; false where that is how it was. */
export async function setReaction(
  db: Database,
  personId: number,
  to: { subject: ReactedTo; id: number },
  kind: Reaction,
  given: boolean,
): Promise<boolean> {
  const key = [to.subject, to.id, kind, personId];
  const changed = given
    ? await change(
        db,
        `INSERT INTO reactions (subject, subject_id, kind, person_id) VALUES (?, ?, ?, ?)
         ON DUPLICATE KEY UPDATE subject_id = subject_id`,
        key,
      )
    : await change(
        db,
        'DELETE FROM reactions WHERE subject = ? AND subject_id = ? AND kind = ? AND person_id = ?',
        key,
      );
  return changed === 1;
}

/** How often each thing was reacted to, and how by this reader. */
export async function reactionsTo(
  db: Database,
  personId: number,
  subject: ReactedTo,
  ids: readonly number[],
): Promise<Map<number, ReactionCounts>> {
  const counts = new Map<number, ReactionCounts>();
  if (ids.length === 0) return counts;
  const found = await rows<{ id: number; kind: Reaction; n: number; mine: number }>(
    db,
    `SELECT subject_id AS id, kind, COUNT(*) AS n, MAX(person_id = ?) AS mine FROM reactions
     WHERE subject = ? AND subject_id IN (${ids.map(() => '?').join(', ')}) GROUP BY subject_id, kind`,
    [personId, subject, ...ids],
  );
  for (const { id, kind, n, mine } of found)
    counts.set(id, { ...counts.get(id), [kind]: { n, mine: mine === 1 } });
  return counts;
}

/** How often what went out with an occurrence was reacted to: in inboxes and wherever it stands. */
export function reactionsOfOccurrence(
  db: Database,
  occurrenceId: number,
): Promise<{ kind: Reaction; n: number }[]> {
  return rows(
    db,
    `SELECT r.kind, COUNT(DISTINCT r.person_id) AS n FROM (
       SELECT kind, person_id FROM reactions WHERE subject = 'occurrence' AND subject_id = ?
       UNION ALL SELECT k.kind, k.person_id FROM posts o JOIN reactions k ON k.subject = 'post' AND k.subject_id = o.id
         WHERE o.occurrence_id = ?) r
     GROUP BY r.kind`,
    [occurrenceId, occurrenceId],
  );
}
