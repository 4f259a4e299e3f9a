import type { Plan } from '../../core/plan/plan.ts';
import type { PlanNames } from '../../core/plan/sentence.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { unseenIn } from '../audience/naming.ts';
import { boardsSeenBy } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import { outsidePlaces } from '../gateways/outStore.ts';
import { audienceNames, audienceContext } from '../groups/directory.ts';

/** The names plans are read aloud with. */
export async function planNames(db: Database, actor: Actor, plans: readonly Plan[]): Promise<PlanNames> {
  const audiences = plans.map((plan) => plan.audience);
  const [now, unseen, boards, places] = await Promise.all([
    audienceContext(db),
    unseenIn(db, actor, audiences),
    boardsSeenBy(db, actor),
    plans.some((plan) => plan.outside.length > 0) ? outsidePlaces(db) : [],
  ]);
  const names = await audienceNames(db, now, audiences, unseen);
  const byId = new Map(boards.map((board) => [board.id, board.name]));
  const placeById = new Map(places.map(({ id, hook }) => [id, hook.name]));
  return { ...names, board: (id) => byId.get(id), outside: (id) => placeById.get(id) };
}
