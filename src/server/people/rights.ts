import type { RightsPage } from '../../core/rights/words.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { allBoards, allModerators } from '../boards/store.ts';
import type { Database } from '../database/connection.ts';
import { Problem } from '../problem.ts';
import { editorsWithReach, peopleInRole } from './rightsStore.ts';

/** Who has which rights; for coordinators. */
export async function rightsPage(db: Database, actor: Actor): Promise<RightsPage> {
  if (decide(actor, { kind: 'look after people' }).outcome === 'denied')
    throw new Problem(403, 'Only a coordinator gives and takes roles.');
  const [coordinators, editors, boards, moderators] = await Promise.all([
    peopleInRole(db, 'coordinator'),
    editorsWithReach(db),
    allBoards(db),
    allModerators(db),
  ]);
  return {
    coordinators,
    editors,
    boards: boards
      .filter((board) => !board.archived)
      .map(({ id, name }) => ({
        id,
        name,
        moderators: moderators.filter((each) => each.boardId === id).map((each) => each.name),
      })),
  };
}
