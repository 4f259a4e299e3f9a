import type { Votes } from '../../../core/asks/poll/ballot.ts';
import { LEAST_SHOWN } from '../../../core/asks/poll/breakdown.ts';
import { outcomeOf, type Outcome } from '../../../core/asks/poll/count/outcome.ts';
import type { NumberedOption, Poll } from '../../../core/asks/poll/poll.ts';
import type { Database } from '../../database/connection.ts';
import { ballotsOf } from './ballotStore.ts';
import { shownLines } from './shown.ts';

/**
 * What has come of a poll, as far as it may be seen. Of an anonymous poll it grows by five votes or more at a time while it
 * is open, always some five behind, and nothing is shown of fewer than five: neither watching it fill nor comparing it with
 * what stands after closing tells a vote.
 *
 * @param known all its ballots, where they have been read already
 */
export async function outcomeShown(
  db: Database,
  occurrenceId: number,
  poll: Poll,
  options: readonly NumberedOption[],
  state: { closed: boolean; asked: number },
  known: readonly Votes<string>[] | null = null,
): Promise<{ outcome: Outcome | null; hidden: string | null }> {
  const lines =
    poll.anonymous && !state.closed
      ? await shownLines(db, occurrenceId)
      : (known ?? (await ballotsOf(db, occurrenceId)));
  const voted = lines.reduce((sum, line) => sum + line.n, 0);
  if (poll.anonymous && voted < LEAST_SHOWN)
    return {
      outcome: null,
      hidden: state.closed
        ? `Fewer than ${LEAST_SHOWN} voted. So that nobody’s vote shows, the result of a poll without names is then not shown.`
        : `The result shows ${LEAST_SHOWN} votes or more at a time, and always ${LEAST_SHOWN} later, so that nobody’s vote shows.`,
    };
  return { outcome: outcomeOf(poll, options, lines, state.asked, !state.closed), hidden: null };
}
