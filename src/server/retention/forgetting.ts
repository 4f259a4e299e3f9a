import type { KeptKind } from '../../core/retention/kinds.ts';
import type { Database } from '../database/connection.ts';
import { forgetAnswers, forgetDeliveries, forgetDraft, forgetPost } from './forgetStore.ts';
import { deleteLoose } from './looseUploads.ts';
import {
  asksToForget,
  draftsToForget,
  forgetAudit,
  forgetCalls,
  forgetHandovers,
  forgetRuns,
  keptLong,
  occurrencesToForget,
  postsToForget,
} from './store.ts';

/** How many going-outs, asks or posts are taken in one turn, and how many rows of what is only a log. */
const MOST = 20;
const MOST_POSTS = 200;
const MOST_ROWS = 5000;

const FORGET: Readonly<Record<KeptKind, (db: Database, days: number) => Promise<boolean>>> = {
  async deliveries(db, days) {
    const found = await occurrencesToForget(db, days, MOST);
    for (const { id } of found) await forgetDeliveries(db, id);
    return found.length === MOST;
  },
  async answers(db, days) {
    const found = await asksToForget(db, days, MOST);
    for (const { id } of found) await forgetAnswers(db, id);
    return found.length === MOST;
  },
  async posts(db, days) {
    const found = await postsToForget(db, days, MOST_POSTS);
    let gone = 0;
    for (const post of found) if (await forgetPost(db, post, days)) gone++;
    await deleteLoose(db);
    // What is held back by now is not found again; where none of them could go there is nothing to do at once.
    return found.length === MOST_POSTS && gone > 0;
  },
  async drafts(db, days) {
    const found = await draftsToForget(db, days, MOST_POSTS);
    let gone = 0;
    for (const { id } of found) if (await forgetDraft(db, id, days)) gone++;
    await deleteLoose(db);
    return found.length === MOST_POSTS && gone > 0;
  },
  runs: async (db, days) => (await forgetRuns(db, days, MOST_ROWS)) >= MOST_ROWS,
  calls: async (db, days) => (await forgetCalls(db, days, MOST_ROWS)) === MOST_ROWS,
  handovers: async (db, days) => (await forgetHandovers(db, days, MOST_ROWS)) === MOST_ROWS,
  audit: async (db, days) => (await forgetAudit(db, days, MOST_ROWS)) === MOST_ROWS,
};

/**
 * Forgets a piece of what has been kept for as long as was chosen. A kind that fails does not keep the others.
 *
 * @returns whether there is more to forget now
 */
export async function forgetOld(
  db: Database,
  onError: (error: unknown, kind: KeptKind) => void,
): Promise<boolean> {
  let more = false;
  for (const { kind, daysNow } of await keptLong(db)) {
    if (daysNow === null) continue;
    try {
      more = (await FORGET[kind](db, daysNow)) || more;
    } catch (error) {
      onError(error, kind);
    }
  }
  return more;
}
