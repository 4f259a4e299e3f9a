import type { z } from 'zod';
import type { Asking } from '../../core/asks/ask.ts';
import type { optionSchema } from '../../core/asks/poll/poll.ts';
import { optionProblem } from '../../core/asks/poll/poll.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { askedOccurrence, type Occurrence } from '../sends/occurrenceStore.ts';
import { answerTogether } from './answersTogether.ts';
import { holdOpen } from './askStore.ts';
import { insertOption, pollOptions } from './poll/ballotStore.ts';
import { answerOf, forgetAnswer, holdOnRoll } from './store.ts';
import type { Answer, Via } from './kind.ts';

export interface Asked {
  occurrence: Occurrence;
  ask: Asking;
}

/** What is asked by an occurrence, or by the one it chases. */
export async function askedBy(db: Database, occurrenceId: number): Promise<Asked> {
  const occurrence = await askedOccurrence(db, occurrenceId);
  if (!occurrence || occurrence.asked.kind === 'nothing') throw notFound('ask');
  return { occurrence, ask: occurrence.asked };
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
  await answerTogether(db, occurrence.id, { ask, secret, personId, given, via });
  return { occurrence, ask };
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
    if (!asAuthor && !(await holdOnRoll(trx, occurrence.id, [personId])).has(personId)) throw notFound('ask');
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
    const roll = (await holdOnRoll(trx, occurrence.id, [personId])).get(personId);
    if (!state || !roll) throw notFound('ask');
    if (roll.answeredMs === null) return;
    if (state.closedMs !== null) throw new Problem(409, 'It has closed: what you acknowledged stands.');
    if (!(await forgetAnswer(trx, occurrence.id, personId, UNDO_MINUTES)))
      throw new Problem(409, `It can be taken back for ${UNDO_MINUTES} minutes, and these have passed.`);
    await emit(trx, 'ask.changed', { occurrence: occurrence.id });
  });
}
