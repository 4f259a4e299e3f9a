import type { Audience } from '../../core/audience/expression.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { isReadable } from '../../core/audience/groups.ts';
import { includes } from '../../core/audience/includes.ts';
import { factsOf } from '../audience/store.ts';
import { allBoards } from '../boards/store.ts';
import { rows, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';

/** What a link leads to: a title, and a few words of where it is. */
export interface Previewed {
  id: number;
  title: string;
  detail: string;
}

const marks = (ids: readonly unknown[]): string => ids.map(() => '?').join(', ');

/** The boards a person may see, by id. */
async function seenBoards(db: Database, actor: Actor): Promise<Map<number, { name: string; about: string }>> {
  const [boards, now] = await Promise.all([allBoards(db), audienceContext(db)]);
  const groups = boards.flatMap((board): Audience[] =>
    board.groupId === null ? [] : [{ kind: 'group', id: board.groupId }],
  );
  const person = (await factsOf(db, [actor.id], { kind: 'any', of: groups }, now)).get(actor.id);
  return new Map(
    boards.flatMap((board) => {
      const belongs =
        (board.groupId === null && !actor.guest) ||
        (board.groupId !== null &&
          !!person &&
          isReadable({ kind: 'group', id: board.groupId }, now) &&
          includes({ kind: 'group', id: board.groupId }, person, now));
      const rules = { ...board, belongs, moderatorNames: [] };
      return decide(actor, { kind: 'see board', board: rules }).outcome === 'allowed'
        ? [[board.id, { name: board.name, about: board.about }] as const]
        : [];
    }),
  );
}

export async function boardsAt(db: Database, actor: Actor, ids: readonly number[]): Promise<Previewed[]> {
  const seen = await seenBoards(db, actor);
  return ids.flatMap((id) => {
    const board = seen.get(id);
    return board ? [{ id, title: board.name, detail: board.about }] : [];
  });
}

export async function postsAt(db: Database, actor: Actor, ids: readonly number[]): Promise<Previewed[]> {
  const [seen, found] = await Promise.all([
    seenBoards(db, actor),
    rows<{ id: number; boardId: number; title: string; author: string }>(
      db,
      `SELECT o.id, o.board_id AS boardId, v.title, a.name AS author
       FROM posts o JOIN announcement_versions v ON v.id = o.version_id JOIN people a ON a.id = o.author_id
       WHERE o.id IN (${marks(ids)}) AND o.state = 'up'`,
      ids,
    ),
  ]);
  return found.flatMap(({ id, boardId, title, author }) => {
    const board = seen.get(boardId);
    return board ? [{ id, title, detail: `${author}, on ${board.name}` }] : [];
  });
}

/** What came to a person's inbox. */
export function announcementsAt(
  db: Database,
  personId: number,
  ids: readonly number[],
): Promise<Previewed[]> {
  return rows(
    db,
    `SELECT o.id, v.title, v.excerpt AS detail FROM deliveries d JOIN occurrences o ON o.id = d.occurrence_id
       JOIN announcement_versions v ON v.id = o.version_id
     WHERE d.person_id = ? AND d.method = 'inbox' AND d.state = 'delivered' AND d.occurrence_id IN (${marks(ids)})`,
    [personId, ...ids],
  );
}

export function answersAt(db: Database, ids: readonly number[]): Promise<Previewed[]> {
  return rows(
    db,
    `SELECT a.id, a.question AS title, CONCAT('On the shelf, under ', s.name) AS detail
     FROM shelf_answers a JOIN shelf_subjects s ON s.id = a.subject_id
     WHERE a.published_at IS NOT NULL AND a.id IN (${marks(ids)})`,
    ids,
  );
}

/** Series of which an issue came to this person or stands on a board they see; at the desk all of them. */
export async function seriesAt(db: Database, actor: Actor, ids: readonly number[]): Promise<Previewed[]> {
  const boards = [...(await seenBoards(db, actor)).keys()];
  const onBoard = boards.length > 0 ? `x.board_id IN (${marks(boards)})` : 'FALSE';
  return rows(
    db,
    `SELECT s.id, s.name AS title, 'A series' AS detail FROM series s WHERE s.id IN (${marks(ids)}) AND (? OR EXISTS (
       SELECT 1 FROM announcement_versions v JOIN occurrences o ON o.version_id = v.id
       WHERE v.series_id = s.id AND o.state IN ('going out', 'sent') AND (
         EXISTS (SELECT 1 FROM deliveries d WHERE d.occurrence_id = o.id AND d.person_id = ? AND d.method = 'inbox' AND d.state = 'delivered')
         OR EXISTS (SELECT 1 FROM posts x WHERE x.occurrence_id = o.id AND x.state = 'up' AND ${onBoard}))))`,
    [...ids, actor.role !== 'member', actor.id, ...boards],
  );
}
