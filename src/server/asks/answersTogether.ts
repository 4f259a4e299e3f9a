import { closes, closesWhenAll, type Asking } from '../../core/asks/ask.ts';
import { wordsOfKind } from '../../core/asks/askWords.ts';
import { answeredByDatabase, transact, type Database } from '../database/connection.ts';
import { TogetherByKey } from '../database/together.ts';
import { emit, emitAll } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { callOff, closeIfAll, holdOpen, type AskState } from './askStore.ts';
import { holdOnRoll, noteAnswered, type PlaceOnRoll } from './store.ts';
import type { Given } from './kind.ts';
import { servedKind } from './kinds.ts';

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
  if (ask && closesWhenAll(ask) && (await closeIfAll(db, occurrenceId)))
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
  const [one] = batch;
  if (one) await servedKind(one.ask).write(trx, occurrenceId, taken(), isFirst, refused);
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
  const told = taken().filter((each) => isFirst(each) || servedKind(each.ask).canChange);
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
      : `It has closed. ${wordsOfKind(ask.kind).stands}`,
  );
}
