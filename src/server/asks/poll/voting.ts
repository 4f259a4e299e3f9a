import { encodeBallot, readBallot } from '../../../core/asks/poll/ballot.ts';
import { LEAST_SHOWN } from '../../../core/asks/poll/breakdown.ts';
import type { NumberedOption, Poll } from '../../../core/asks/poll/poll.ts';
import type { PollAsk } from '../../../core/asks/poll/pollAsk.ts';
import type { Database } from '../../database/connection.ts';
import { Problem } from '../../problem.ts';
import type { Given } from '../kind.ts';
import { castBallots, knownBallots, pollOptions, stationsForBallots, type NewBallot } from './ballotStore.ts';
import { ballotKey } from './secretBallot.ts';

/** Writes votes: each under its voter's number, or without names under a key that only they can make again. */
export async function writeBallots(
  trx: Database,
  occurrenceId: number,
  given: readonly Given<PollAsk>[],
  isFirst: (of: Given<PollAsk>) => boolean,
  refused: Map<Given, Problem>,
): Promise<void> {
  const votes: { of: Given<PollAsk>; poll: Poll; key: Buffer; choice: string }[] = [];
  let options: NumberedOption[] | undefined;
  for (const of of given) {
    const { poll } = of.ask;
    options ??= await pollOptions(trx, occurrenceId, poll);
    const reading = readBallot(poll, options, of.given);
    if ('problem' in reading)
      refused.set(
        of,
        new Problem(422, reading.problem, { errors: [{ field: 'answer', detail: reading.problem }] }),
      );
    else
      votes.push({
        of,
        poll,
        key: ballotKey(of.secret, occurrenceId, of.personId, poll.anonymous),
        choice: encodeBallot(reading.ballot),
      });
  }
  const secretly = votes.filter(({ poll }) => poll.anonymous);
  // With another secret their first ballot is not found, and a second one would count twice.
  const again = secretly.filter(({ of }) => !isFirst(of));
  const known = await knownBallots(
    trx,
    occurrenceId,
    again.map(({ key }) => key),
  );
  for (const { of, key } of again)
    if (!known.has(key.toString('hex')))
      refused.set(
        of,
        new Problem(
          409,
          'Your vote stands. It cannot be changed any more, since it cannot be told which it is.',
        ),
      );
  const stations = await stationsForBallots(
    trx,
    occurrenceId,
    secretly.map(({ of }) => of.personId),
    LEAST_SHOWN,
  );
  const ballots = votes
    .filter(({ of }) => !refused.has(of))
    .map(({ of: { personId }, poll, key, choice }): NewBallot => ({
      key,
      who: poll.anonymous ? { stationId: stations.get(personId) ?? null } : { personId },
      choice,
    }));
  await castBallots(trx, occurrenceId, ballots);
}
