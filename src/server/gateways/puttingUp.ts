import type { Actor } from '../../core/rights/decide.ts';
import type { BoardForReader } from '../boards/service.ts';
import { transact, type Database } from '../database/connection.ts';
import { TogetherByKey } from '../database/together.ts';
import { putUpAll, putUpOnce, type ToPutUp, type Written } from '../posts/puttingUp.ts';
import type { HookInRow, NewCall } from './inStore.ts';
import { noteWith } from './noting.ts';

/** A message that becomes a post, with the line of the log that tells of it. */
interface Posting {
  board: BoardForReader;
  text: ToPutUp;
  call?: ((became: { postId: number; occurrenceId: null }) => NewCall) | undefined;
}

type Posted = Written & { known: boolean };

/** So many in one transaction: those that wait for it are not kept long. */
const MOST = 50;

const together = new TogetherByKey<Posting, PromiseSettledResult<Posted>>({ most: MOST });

/**
 * Puts up what a message says, once under its key, with its line in the log. Messages of a way in that come at once are put up in
 * one transaction; where that fails, each is put up on its own.
 */
export async function putUpTogether(
  db: Database,
  hook: HookInRow,
  owner: Actor,
  posting: Posting,
): Promise<Posted> {
  // What is written in one go is of one person, on one board as it was read for all of them.
  const of = `${hook.id} ${owner.id} ${posting.board.id} ${posting.board.sectionLimit}`;
  const became = await together.add(db, of, posting, (postings) => putUpMessages(db, hook, owner, postings));
  if (became.status === 'rejected') throw became.reason;
  return became.value;
}

async function putUpMessages(
  db: Database,
  hook: HookInRow,
  owner: Actor,
  postings: readonly Posting[],
): Promise<PromiseSettledResult<Posted>[]> {
  const [first] = postings;
  if (!first) return [];
  try {
    const written = await transact(db, async (trx) => {
      const all = await putUpAll(
        trx,
        owner,
        first.board,
        postings.map(({ text }) => text),
      );
      const calls = postings.flatMap(
        ({ call }, at) => call?.({ postId: all[at]?.id ?? 0, occurrenceId: null }) ?? [],
      );
      if (calls.length > 0) await noteWith(trx, hook, calls);
      return all;
    });
    return written.map((each) => ({ status: 'fulfilled', value: { ...each, known: false } }));
  } catch {
    // One of them may be there already: that one alone is known, and the others go up.
    return Promise.allSettled(
      postings.map(({ board, text: { content, ...putting }, call }) =>
        putUpOnce(db, owner, board, content, {
          ...putting,
          after: async (trx, postId) => {
            if (call) await noteWith(trx, hook, [call({ postId, occurrenceId: null })]);
          },
        }),
      ),
    );
  }
}
