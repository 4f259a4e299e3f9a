import type { GatewayChoices } from '../../core/gateways/choices.ts';
import { moderates, type Actor } from '../../core/rights/decide.ts';
import { boardsSeenBy } from '../boards/service.ts';
import type { Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { allSenders } from '../senders/store.ts';

/** What gateways can be made from, as one person may use it: moderators see their boards, coordinators everything. */
export async function gatewayChoices(
  db: Database,
  actor: Actor,
  takesMail: boolean,
): Promise<GatewayChoices> {
  const all = actor.role === 'coordinator';
  const [boards, now, senders] = await Promise.all([
    boardsSeenBy(db, actor),
    audienceContext(db),
    allSenders(db),
  ]);
  return {
    boards: boards
      .filter((board) => !board.archived && (all || moderates(actor, board.rules)))
      .map(({ id, name, rules }) => ({ id, name, gateways: rules.gateways })),
    groups: all
      ? [...now.groups.values()]
          .map(({ id, name }) => ({ id, name }))
          .sort((a, b) => a.name.localeCompare(b.name))
      : [],
    senders,
    takesMail,
  };
}
