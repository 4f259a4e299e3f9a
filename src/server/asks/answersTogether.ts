import { z } from 'zod';
import { closes, type Asking } from '../../core/asks/ask.ts';
import { doneWords } from '../../core/asks/askWords.ts';
import { encodeBallot, readBallot } from '../../core/asks/ballot.ts';
import { LEAST_SHOWN } from '../../core/asks/breakdown.ts';
import { readCheckIn, type CheckInAnswers } from '../../core/asks/checkIn.ts';
import type { NumberedOption, Poll } from '../../core/asks/poll.ts';
import { answeredByDatabase, transact, type Database } from '../database/connection.ts';
import { TogetherByKey } from '../database/together.ts';
import { emit, emitAll } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { callOff, closeIfAll, holdOpen, type AskState } from './askStore.ts';
import { castBallots, knownBallots, pollOptions, stationsForBallots, type NewBallot } from './ballotStore.ts';
import { saveCheckIns } from './checkInStore.ts';
import { ballotKey } from './secretBallot.ts';
import { holdOnRoll, noteAnswered, type PlaceOnRoll } from './store.ts';

/** What somebody answers; which part counts depends on what is asked. Of an acknowledgement nothing is needed. */
export const answerSchema = z.object({
  choices: z.array(z.int()).max(200).optional(),
  ranking: z.array(z.int()).max(200).optional(),
  answers: z.record(z.string(), z.union([z.string(), z.number()])).optional(),
  rating: z.int().optional(),
  text: z.string().max(2000).optional(),
});
export type Answer = z.infer<typeof answerSchema>;
export type Via = 'page' | 'mail' | 'push';

/** An answer to an ask as it was read for it, on its way to the roll. */
interface Given {
  ask: Asking;
  secret: string;
  personId: number;
  given: Answer;
  via: Via;
}

/** So many in one transaction: those that wait for it are not kept long, and a roll is not held long. */
const MOST = 50;

const together = new TogetherByKey<Given, Error | null>({ most: MOST });

/**
 * Writes an answer to the roll. Answers to one ask that come at once are written in one transaction; each is judged by itself, and
 * where the database refuses them together, each is written on its own.
 *
 * @throws as `answer` does
 */
export async function answerTogether(db: Database, occurrenceId: number, given: Given): Promise<void> {
  const failed = await together.add(db, String(occurrenceId), given, (all) =>
    writeInTurn(db, occurrenceId, all),
  );
  if (failed) throw failed;
}

/** Of two answers of one person the later is written after the earlier, as if it had been sent when that was there. */
async function writeInTurn(
  db: Database,
  occurrenceId: number,
  all: readonly Given[],
): Promise<(Error | null)[]> {
  const failed = new Map<Given, Error | null>();
  for (let left = [...all]; left.length > 0; left = left.filter((each) => !failed.has(each))) {
    const batch = left.filter(
      ({ personId }, at) => left.findIndex((other) => other.personId === personId) === at,
    );
    const came = await writeOrEach(db, occurrenceId, batch);
    for (const [at, each] of batch.entries()) failed.set(each, came[at] ?? null);
  }
  const ask = all.at(-1)?.ask;
  if (ask?.kind === 'poll' && ask.poll.closesWhenAll && (await closeIfAll(db, occurrenceId)))
    await emit(db, 'ask.closed', { occurrence: occurrenceId });
  return all.map((each) => failed.get(each) ?? null);
}

async function writeOrEach(
  db: Database,
  occurrenceId: number,
  batch: readonly Given[],
): Promise<(Error | null)[]> {
  try {
    return await transact(db, (trx) => write(trx, occurrenceId, batch));
  } catch (error) {
    if (batch.length === 1 || !answeredByDatabase(error)) throw error;
    const each: (Error | null)[] = [];
    for (const one of batch)
      each.push(
        await transact(db, (trx) => write(trx, occurrenceId, [one])).then(
          ([refused]) => refused ?? null,
          (failed: unknown) => (failed instanceof Error ? failed : new Error(String(failed))),
        ),
      );
    return each;
  }
}

/** Writes answers of different people; gives of each why it is not taken, or null where it is written. */
async function write(
  trx: Database,
  occurrenceId: number,
  batch: readonly Given[],
): Promise<(Problem | null)[]> {
  const state = await holdOpen(trx, occurrenceId);
  const places = await holdOnRoll(
    trx,
    occurrenceId,
    batch.map(({ personId }) => personId),
  );
  const refused = new Map<Given, Problem>();
  for (const each of batch) {
    const problem = notTaken(state, places.get(each.personId), each.ask);
    if (problem) refused.set(each, problem);
  }
  const isFirst = ({ personId }: Given): boolean => places.get(personId)?.answeredMs === null;
  const taken = (): Given[] => batch.filter((each) => !refused.has(each));
  await writeBallots(trx, occurrenceId, taken(), isFirst, refused);
  await writeCheckIns(trx, occurrenceId, taken(), refused);
  const first = taken().filter(isFirst);
  for (const via of new Set(first.map((each) => each.via)))
    await noteAnswered(
      trx,
      occurrenceId,
      first.filter((each) => each.via === via).map(({ personId }) => personId),
      via,
    );
  await callOff(
    trx,
    occurrenceId,
    first.map(({ personId }) => personId),
  );
  const told = taken().filter((each) => isFirst(each) || each.ask.kind !== 'acknowledgement');
  await emitAll(
    trx,
    'ask.answered',
    told.map(() => ({ occurrence: occurrenceId })),
  );
  return batch.map((each) => refused.get(each) ?? null);
}

/** Why an ask takes no answer from somebody; null where it does. */
function notTaken(state: AskState | undefined, place: PlaceOnRoll | undefined, ask: Asking): Problem | null {
  if (!state || !place) return notFound('ask');
  const overdue = closes(ask) && state.closesMs !== null && state.closesMs <= state.nowMs;
  if (state.closedMs === null && !overdue) return null;
  return new Problem(
    409,
    place.answeredMs === null
      ? 'It has closed: answers are not taken any more.'
      : `It has closed. What you ${doneWords(ask.kind) === 'voted' ? 'voted' : 'said'} before stands.`,
  );
}

async function writeBallots(
  trx: Database,
  occurrenceId: number,
  given: readonly Given[],
  isFirst: (of: Given) => boolean,
  refused: Map<Given, Problem>,
): Promise<void> {
  const votes: { of: Given; poll: Poll; key: Buffer; choice: string }[] = [];
  let options: NumberedOption[] | undefined;
  for (const of of given) {
    if (of.ask.kind !== 'poll') continue;
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

async function writeCheckIns(
  trx: Database,
  occurrenceId: number,
  given: readonly Given[],
  refused: Map<Given, Problem>,
): Promise<void> {
  const said: { personId: number; answers: CheckInAnswers; blocked: boolean }[] = [];
  for (const of of given) {
    if (of.ask.kind !== 'check-in') continue;
    const reading = readCheckIn(of.ask.questions, of.given.answers ?? {});
    if ('problems' in reading)
      refused.set(
        of,
        new Problem(422, reading.problems[0]?.detail ?? 'Something is missing.', {
          errors: reading.problems,
        }),
      );
    else said.push({ personId: of.personId, answers: reading.answers, blocked: reading.blocked });
  }
  await saveCheckIns(trx, occurrenceId, said);
  await emitAll(
    trx,
    'check-in.said',
    said.map(({ personId }) => ({ occurrence: occurrenceId, person: personId })),
  );
}
