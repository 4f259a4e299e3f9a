import type { BoardMember, BoardMembersPage } from '../../core/boards/reading.ts';
import type { Sql } from '../audience/sql.ts';
import { rows, type Database } from '../database/connection.ts';
import { nameHolds } from '../people/matching.ts';

/**
 * Those who belong to a board or look after it, by name, page by page; and how many they are in all.
 *
 * @param belongs who belongs to it, as a condition over `people p`
 * @param letters what their name holds; empty for all
 */
export async function boardMembersPage(
  db: Database,
  boardId: number,
  belongs: Sql,
  letters: string,
  after: { name: string; id: number } | null,
  most: number,
): Promise<BoardMembersPage> {
  const moderates = `EXISTS (SELECT 1 FROM board_moderators m WHERE m.board_id = ? AND m.person_id = p.id)`;
  const here = "p.standing <> 'left' AND p.linked_to IS NULL";
  const who = `${here} AND ((${belongs.sql}) OR ${moderates})`;
  const named = nameHolds(letters);
  const [found, [counted]] = await Promise.all([
    rows<Omit<BoardMember, 'moderates' | 'belongs'> & { moderates: number; belongs: number }>(
      db,
      `SELECT p.id, p.shown_name AS name, s.name AS station, ${moderates} AS moderates, (${belongs.sql}) AS belongs
       FROM people p LEFT JOIN stations s ON s.id = p.station_id
       WHERE ${who} AND ${named.sql} ${after ? 'AND (p.name > (SELECT q.name FROM people q WHERE q.id = ?) OR (p.name = (SELECT q.name FROM people q WHERE q.id = ?) AND p.id > ?))' : ''}
       ORDER BY p.name, p.id LIMIT ?`,
      [
        boardId,
        ...belongs.bindings,
        ...belongs.bindings,
        boardId,
        ...named.bindings,
        ...(after ? [after.id, after.id, after.id] : []),
        most + 1,
      ],
    ),
    rows<{ n: number }>(db, `SELECT COUNT(*) AS n FROM people p WHERE ${who}`, [
      ...belongs.bindings,
      boardId,
    ]),
  ]);
  const page = found.slice(0, most);
  const last = page.at(-1);
  return {
    count: counted?.n ?? 0,
    members: page.map((row) => ({ ...row, moderates: row.moderates === 1, belongs: row.belongs === 1 })),
    next: found.length > most && last ? { name: last.name, id: last.id } : null,
  };
}
