import { decodeBallot } from '../../../core/asks/poll/ballot.ts';
import type { PollBox } from '../../../core/asks/box.ts';
import { optionWords, pollRules, takesOptions, type Poll } from '../../../core/asks/poll/poll.ts';
import type { Database } from '../../database/connection.ts';
import type { BoxState, Reader } from '../kind.ts';
import { ballotByKey, pollOptions } from './ballotStore.ts';
import { outcomeShown } from './outcome.ts';
import { ballotKey, shuffledFor } from './secretBallot.ts';

/** A poll as one reader sees it, with what they voted and what has come of it as far as they may see. */
export async function pollBox(
  db: Database,
  secret: string,
  reader: Reader,
  occurrenceId: number,
  poll: Poll,
  state: BoxState,
): Promise<PollBox> {
  const options = await pollOptions(db, occurrenceId, poll);
  const key = ballotKey(secret, occurrenceId, reader.id, poll.anonymous);
  const mine = state.answered ? await ballotByKey(db, occurrenceId, key) : undefined;
  const wait =
    state.closed || poll.shown === 'always' || (poll.shown === 'after voting' && state.answered)
      ? null
      : poll.shown === 'after voting'
        ? 'The result shows once you have voted.'
        : 'The result shows once the poll has closed.';
  const { outcome, hidden } =
    wait === null
      ? await outcomeShown(db, occurrenceId, poll, options, state)
      : { outcome: null, hidden: wait };
  const ordered =
    poll.shuffle && poll.kind !== 'dates' ? shuffledFor(options, occurrenceId, reader.id) : options;
  return {
    question: poll.question,
    kind: poll.kind,
    limit: poll.limit,
    scale: poll.scale,
    method: poll.method,
    anonymous: poll.anonymous,
    shown: poll.shown,
    rules: pollRules(poll),
    adding: poll.adding && takesOptions(poll.kind) && !state.closed,
    options: ordered.map((option) => ({
      id: option.id,
      words: optionWords(option, reader.zone, state.nowMs),
      addedBy: option.addedBy,
    })),
    mine: mine === undefined ? null : decodeBallot(poll.kind, mine),
    outcome,
    hidden,
  };
}
