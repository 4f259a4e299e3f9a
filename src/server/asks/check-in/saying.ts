import type { CheckInAsk } from '../../../core/asks/check-in/checkInAsk.ts';
import { readCheckIn, type CheckInAnswers } from '../../../core/asks/check-in/checkIn.ts';
import type { Database } from '../../database/connection.ts';
import { emitAll } from '../../events/store.ts';
import { Problem } from '../../problem.ts';
import type { Given } from '../kind.ts';
import { saveCheckIns } from './checkInStore.ts';

/** Writes what was said in a check-in; what was said before is replaced. */
export async function writeCheckIns(
  trx: Database,
  occurrenceId: number,
  given: readonly Given<CheckInAsk>[],
  refused: Map<Given, Problem>,
): Promise<void> {
  const said: { personId: number; answers: CheckInAnswers; blocked: boolean }[] = [];
  for (const of of given) {
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
