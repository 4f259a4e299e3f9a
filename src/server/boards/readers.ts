import type { Audience } from '../../core/audience/expression.ts';
import { isReadable } from '../../core/audience/groups.ts';
import type { AudienceContext } from '../../core/audience/includes.ts';
import { countPeople } from '../audience/store.ts';
import type { Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { allBoards } from './store.ts';

/** How many belong to at least one of some groups, each person once; null is the group of everybody. */
export async function countReaders(
  db: Database,
  groupIds: readonly (number | null)[],
  now: AudienceContext,
): Promise<number> {
  const groups = groupIds.map((id): Audience => (id === null ? { kind: 'everyone' } : { kind: 'group', id }));
  const known = groups.filter((group) => isReadable(group, now));
  return known.length === 0 ? 0 : countPeople(db, { kind: 'any', of: known }, now);
}

/** How many belong to at least one of some boards, named by their ids, as things are now. */
export async function readersOfBoards(db: Database, boardIds: readonly number[]): Promise<number> {
  if (boardIds.length === 0) return 0;
  const [boards, now] = await Promise.all([allBoards(db), audienceContext(db)]);
  const chosen = boards.filter((board) => boardIds.includes(board.id));
  return countReaders(
    db,
    chosen.map((board) => board.groupId),
    now,
  );
}
