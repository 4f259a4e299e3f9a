import { statementOf } from '../../core/asks/ask.ts';
import type { AskBox } from '../../core/asks/box.ts';
import type { Database } from '../database/connection.ts';
import { notFound } from '../problem.ts';
import { askStates } from './askStore.ts';
import { askedBy, type Asked } from './answering.ts';
import type { Reader } from './kind.ts';
import { servedKind } from './kinds.ts';
import { answerOf, earlierAnswer, tallies } from './store.ts';

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
    statement: statementOf(ask),
    ...tally,
    ...(await servedKind(ask).box(db, secret, reader, occurrence, ask, {
      answered: answeredMs !== null,
      closed: closedMs !== null,
      asked: tally.asked,
      nowMs,
    })),
  };
}
