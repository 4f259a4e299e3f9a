import type { Audience } from '../../core/audience/expression.ts';
import { audienceWords } from '../../core/audience/words.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { unseenIn } from '../audience/naming.ts';
import type { Database } from '../database/connection.ts';
import { audienceNames, audienceContext } from '../groups/directory.ts';
import { planOrNone } from '../sends/store.ts';
import { latestPlans } from './store.ts';

const LOOKED_AT = 40;
const SHOWN = 6;

/** Whom somebody wrote to lately, the latest first, each audience once; without what is not theirs to see any more. */
export async function recentAudiences(
  db: Database,
  actor: Actor,
): Promise<{ words: string; audience: Audience }[]> {
  const found = new Map<string, Audience>();
  for (const plan of await latestPlans(db, actor.id, LOOKED_AT)) {
    const { audience } = planOrNone(plan).plan;
    if (audience && found.size < SHOWN) found.set(JSON.stringify(audience), audience);
  }
  const audiences = [...found.values()];
  const now = await audienceContext(db);
  const [names, unseen] = await Promise.all([
    audienceNames(db, now, audiences),
    Promise.all(audiences.map((audience) => unseenIn(db, actor, [audience]))),
  ]);
  return audiences.flatMap((audience, i) =>
    unseen[i]?.reason === null ? [{ words: audienceWords(audience, names), audience }] : [],
  );
}
