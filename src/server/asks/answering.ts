import { z } from 'zod';
import { closes, type Asking } from '../../core/asks/ask.ts';
import { doneWords } from '../../core/asks/askWords.ts';
import { readBallot, encodeBallot } from '../../core/asks/ballot.ts';
import { LEAST_SHOWN } from '../../core/asks/breakdown.ts';
import { readCheckIn } from '../../core/asks/checkIn.ts';
import type { optionSchema } from '../../core/asks/poll.ts';
import { optionProblem, optionsOf, type NumberedOption, type Poll } from '../../core/asks/poll.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { occurrenceById, type Occurrence } from '../sends/occurrenceStore.ts';
import { callOff, closeIfAll, holdOpen } from './askStore.ts';
import { addedOptions, ballotByKey, castBallot, insertOption, stationForBallot } from './ballotStore.ts';
import { saveCheckIn } from './checkInStore.ts';
import { ballotKey } from './secretBallot.ts';
import { answerOf, answerOnce, forgetAnswer, holdOnRoll } from './store.ts';

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

export interface Asked {
  occurrence: Occurrence;
  ask: Asking;
}

/** What is asked by an occurrence, or by the one it chases. */
export async function askedBy(db: Database, occurrenceId: number): Promise<Asked> {
  const found = await occurrenceById(db, occurrenceId);
  const occurrence = found?.chases ? await occurrenceById(db, found.chases) : found;
  if (!occurrence || occurrence.asked.kind === 'nothing') throw notFound('ask');
  return { occurrence, ask: occurrence.asked };
}

/** The options of a poll that has gone out, those added later included. */
export async function pollOptions(db: Database, occurrenceId: number, poll: Poll): Promise<NumberedOption[]> {
  return [...optionsOf(poll), ...((await addedOptions(db, [occurrenceId])).get(occurrenceId) ?? [])];
}

/**
 * Records an answer. An acknowledgement counts once, and again changes nothing; a vote and a check-in can be changed
 * until they close, and the last one counts. A double tap, the mail and the page at once come to one answer.
 *
 * @returns what was asked
 * @throws 404 where this person was not asked, 409 where it has closed, 422 with the field where the answer cannot count
 */
export async function answer(
  db: Database,
  secret: string,
  personId: number,
  occurrenceId: number,
  given: Answer,
  via: Via,
): Promise<Asked> {
  const { occurrence, ask } = await askedBy(db, occurrenceId);
  const { id } = occurrence;
  await transact(db, async (trx) => {
    const state = await holdOpen(trx, id);
    const roll = await holdOnRoll(trx, id, personId);
    if (!state || !roll) throw notFound('ask');
    if (state.closedMs !== null || (closes(ask) && roll.overdue === 1))
      throw new Problem(
        409,
        roll.answeredMs === null
          ? 'It has closed: answers are not taken any more.'
          : `It has closed. What you ${doneWords(ask.kind) === 'voted' ? 'voted' : 'said'} before stands.`,
      );
    if (ask.kind === 'poll') await vote(trx, secret, personId, id, ask.poll, given, roll.answeredMs !== null);
    if (ask.kind === 'check-in') {
      const reading = readCheckIn(ask.questions, given.answers ?? {});
      if ('problems' in reading)
        throw new Problem(422, reading.problems[0]?.detail ?? 'Something is missing.', {
          errors: reading.problems,
        });
      await saveCheckIn(trx, id, personId, reading.answers, reading.blocked);
      await emit(trx, 'check-in.said', { occurrence: id, person: personId });
    }
    const first = await answerOnce(trx, id, personId, via);
    if (first) await callOff(trx, roll.chases, personId);
    if (first || ask.kind !== 'acknowledgement') await emit(trx, 'ask.answered', { occurrence: id });
  });
  if (ask.kind === 'poll' && ask.poll.closesWhenAll && (await closeIfAll(db, id)))
    await emit(db, 'ask.closed', { occurrence: id });
  return { occurrence, ask };
}

async function vote(
  trx: Database,
  secret: string,
  personId: number,
  occurrenceId: number,
  poll: Poll,
  given: Answer,
  again: boolean,
): Promise<void> {
  const reading = readBallot(poll, await pollOptions(trx, occurrenceId, poll), given);
  if ('problem' in reading)
    throw new Problem(422, reading.problem, { errors: [{ field: 'answer', detail: reading.problem }] });
  const key = ballotKey(secret, occurrenceId, personId, poll.anonymous);
  // With another secret their first ballot is not found, and a second one would count twice.
  if (again && poll.anonymous && (await ballotByKey(trx, occurrenceId, key)) === undefined)
    throw new Problem(
      409,
      'Your vote stands. It cannot be changed any more, since it cannot be told which it is.',
    );
  await castBallot(
    trx,
    occurrenceId,
    key,
    poll.anonymous
      ? { stationId: await stationForBallot(trx, occurrenceId, personId, LEAST_SHOWN) }
      : { personId },
    encodeBallot(reading.ballot),
  );
}

/**
 * Adds an option to a poll that has gone out: its author may, and where the poll allows it whoever is asked.
 *
 * @returns the number of the new option
 * @throws 409 where it has closed, 422 where the option cannot be added
 */
export async function addOption(
  db: Database,
  personId: number,
  occurrenceId: number,
  given: z.infer<typeof optionSchema>,
  asAuthor: boolean,
): Promise<number> {
  const { occurrence, ask } = await askedBy(db, occurrenceId);
  // Nothing is told of it to whoever is not asked, not even what kind of thing it is.
  if (!asAuthor && (await answerOf(db, occurrence.id, personId)) === undefined) throw notFound('ask');
  if (ask.kind !== 'poll') throw new Problem(409, 'It is no poll.');
  const { poll } = ask;
  if (!asAuthor && !poll.adding) throw new Problem(403, 'Only whoever asked adds options to this poll.');
  return transact(db, async (trx) => {
    const state = await holdOpen(trx, occurrence.id);
    if (!state || state.closedMs !== null)
      throw new Problem(409, 'It has closed: no options are added any more.');
    if (!asAuthor && !(await holdOnRoll(trx, occurrence.id, personId))) throw notFound('ask');
    const options = await pollOptions(trx, occurrence.id, poll);
    const problem = optionProblem(poll, options, given);
    if (problem !== null) throw new Problem(422, problem, { errors: [{ field: 'label', detail: problem }] });
    const id = Math.max(0, ...options.map((option) => option.id)) + 1;
    try {
      await insertOption(trx, occurrence.id, { ...given, id }, personId);
    } catch (error) {
      if (error instanceof Error && 'code' in error && error.code === 'ER_DUP_ENTRY')
        throw new Problem(
          409,
          'Somebody else added an option at this moment. Look at the list and try again.',
        );
      throw error;
    }
    if (asAuthor)
      await record(trx, {
        actorId: personId,
        action: 'add option',
        subject: 'occurrence',
        subjectId: occurrence.id,
      });
    await emit(trx, 'ask.changed', { occurrence: occurrence.id });
    return id;
  });
}

/** So long an acknowledgement by one tap can be taken back, in minutes. */
export const UNDO_MINUTES = 10;

/**
 * Takes back what somebody acknowledged within the last minutes: as if they had not pressed. Doing it twice is doing it once.
 *
 * @throws 404 where they were not asked, 409 where it is too late, has closed, or is no acknowledgement
 */
export async function takeBackAcknowledgement(
  db: Database,
  personId: number,
  occurrenceId: number,
): Promise<void> {
  const { occurrence, ask } = await askedBy(db, occurrenceId);
  if (ask.kind !== 'acknowledgement') throw new Problem(409, 'Only an acknowledgement is taken back here.');
  await transact(db, async (trx) => {
    const state = await holdOpen(trx, occurrence.id);
    const roll = await holdOnRoll(trx, occurrence.id, personId);
    if (!state || !roll) throw notFound('ask');
    if (roll.answeredMs === null) return;
    if (state.closedMs !== null) throw new Problem(409, 'It has closed: what you acknowledged stands.');
    if (!(await forgetAnswer(trx, occurrence.id, personId, UNDO_MINUTES)))
      throw new Problem(409, `It can be taken back for ${UNDO_MINUTES} minutes, and these have passed.`);
    await emit(trx, 'ask.changed', { occurrence: occurrence.id });
  });
}
