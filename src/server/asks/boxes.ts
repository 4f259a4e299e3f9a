import { decodeBallot, type Votes } from '../../core/asks/ballot.ts';
import type { AskBox, CheckInBox, PollBox } from '../../core/asks/box.ts';
import { LEAST_SHOWN } from '../../core/asks/breakdown.ts';
import { prefilled, type Question } from '../../core/asks/checkIn.ts';
import { outcomeOf, type Outcome } from '../../core/asks/count/outcome.ts';
import {
  optionWords,
  pollRules,
  takesOptions,
  type NumberedOption,
  type Poll,
} from '../../core/asks/poll.ts';
import type { Database } from '../database/connection.ts';
import { notFound } from '../problem.ts';
import { askStates } from './askStore.ts';
import { askedBy, type Asked } from './answering.ts';
import { ballotByKey, ballotsOf, pollOptions } from './ballotStore.ts';
import { saidBefore, saidBy } from './checkInStore.ts';
import { ballotKey, shuffledFor } from './secretBallot.ts';
import { shownLines } from './shown.ts';
import { answerOf, earlierAnswer, tallies } from './store.ts';

/** Who looks at what is asked of them. */
export interface Reader {
  id: number;
  zone: string;
}

/**
 * What is asked of somebody by an occurrence, or by the one it chases, with what they answered.
 *
 * @throws 404 where they are not asked
 */
export const askBox = async (
  db: Database,
  secret: string,
  reader: Reader,
  occurrenceId: number,
): Promise<AskBox> => boxOf(db, secret, reader, await askedBy(db, occurrenceId));

/** As `askBox`, of what is known already to be asked. */
export async function boxOf(
  db: Database,
  secret: string,
  reader: Reader,
  { occurrence, ask }: Asked,
): Promise<AskBox> {
  const { id } = occurrence;
  const [answeredMs, states, counted, earlierMs] = await Promise.all([
    answerOf(db, id, reader.id),
    askStates(db, [id]),
    tallies(db, [id]),
    // Only what was corrected can have been answered before.
    occurrence.correctedMs === null ? null : earlierAnswer(db, id, reader.id),
  ]);
  const state = states.get(id);
  if (answeredMs === undefined || !state) throw notFound('ask');
  const { nowMs } = state;
  const due = state.closesMs !== null && state.closesMs <= nowMs ? state.closesMs : null;
  const closedMs = state.closedMs ?? due;
  const tally = counted.get(id) ?? { asked: 0, answered: 0 };
  return {
    occurrenceId: id,
    kind: ask.kind,
    deadlineMs: occurrence.deadlineMs,
    closedMs,
    answeredMs,
    earlierMs,
    statement: ask.kind === 'acknowledgement' ? ask.statement : '',
    ...tally,
    poll:
      ask.kind === 'poll'
        ? await pollBox(db, secret, reader, id, ask.poll, {
            voted: answeredMs !== null,
            closed: closedMs !== null,
            asked: tally.asked,
            nowMs,
          })
        : null,
    checkIn:
      ask.kind === 'check-in'
        ? await checkInBox(db, reader, id, occurrence.sendId, ask.questions, answeredMs !== null)
        : null,
  };
}

interface PollState {
  voted: boolean;
  closed: boolean;
  asked: number;
  nowMs: number;
}

async function pollBox(
  db: Database,
  secret: string,
  reader: Reader,
  occurrenceId: number,
  poll: Poll,
  state: PollState,
): Promise<PollBox> {
  const options = await pollOptions(db, occurrenceId, poll);
  const key = ballotKey(secret, occurrenceId, reader.id, poll.anonymous);
  const mine = state.voted ? await ballotByKey(db, occurrenceId, key) : undefined;
  const wait =
    state.closed || poll.shown === 'always' || (poll.shown === 'after voting' && state.voted)
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

async function checkInBox(
  db: Database,
  reader: Reader,
  occurrenceId: number,
  sendId: number,
  questions: Question[],
  answered: boolean,
): Promise<CheckInBox> {
  if (answered) {
    const said = await saidBy(db, occurrenceId, reader.id);
    return { questions, answers: said?.answers ?? {}, offered: false };
  }
  const answers = prefilled(questions, await saidBefore(db, sendId, occurrenceId, reader.id));
  return { questions, answers, offered: Object.keys(answers).length > 0 };
}
