import { withoutNames } from '../../core/asks/ask.ts';
import { people as peopleWords } from '../../core/words.ts';
import { condition } from '../audience/sql.ts';
import { transact, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { notifyPeople } from '../notices/notify.ts';
import { emit } from '../events/store.ts';
import { recallChases } from '../sends/chaseStore.ts';
import { occurrenceById, type Occurrence } from '../sends/occurrenceStore.ts';
import { isReadable } from '../../core/audience/groups.ts';
import { setAside, takeUpAgain } from '../aside/store.ts';
import { callOffAll, claimClosed, claimList, closeDue, listsDue, unsettled } from './askStore.ts';
import { tallyWhere } from './store.ts';
import { servedKind } from './kinds.ts';

const AT_ONCE = 20;

/**
 * Closes what has come to its time, and does what is due after each closing: the outcome of a poll and the digest of a
 * check-in go up, and nobody is chased any more. Each once, however many engines look.
 *
 * @returns how many it closed or settled
 */
export async function closeAndSettle(db: Database, failed: AskFailed): Promise<number> {
  const closed = (await closeDue(db, AT_ONCE)).length;
  return closed + (await eachAside(db, 'closing', await unsettled(db, AT_ONCE), failed, followClosing));
}

/** Told of an error in the work of one occurrence, for the log. */
export type AskFailed = (error: unknown, occurrenceId: number) => void;

/**
 * Does a piece of work for each of some occurrences, each in a transaction of its own. One that fails is set aside and the
 * rest goes on.
 *
 * @returns how many were done
 */
async function eachAside(
  db: Database,
  kind: 'closing' | 'list',
  ids: readonly number[],
  failed: AskFailed,
  work: (trx: Database, occurrence: Occurrence) => Promise<boolean>,
): Promise<number> {
  let done = 0;
  for (const id of ids) {
    try {
      const worked = await transact(db, async (trx) => {
        const occurrence = await occurrenceById(trx, id);
        if (!occurrence || occurrence.unreadable)
          throw new Error('Its plan cannot be read by this version of Clear Bell');
        return work(trx, occurrence);
      });
      if (worked) done++;
      await takeUpAgain(db, kind, id);
    } catch (error) {
      failed(error, id);
      await setAside(db, kind, id, id, error);
    }
  }
  return done;
}

async function followClosing(trx: Database, occurrence: Occurrence): Promise<boolean> {
  const { id, asked: ask } = occurrence;
  if (!(await claimClosed(trx, id))) return false;
  await recallChases(trx, id, 'What it follows up has closed.');
  await callOffAll(trx, id);
  if (ask.kind !== 'nothing') await servedKind(ask).closed(trx, occurrence, ask);
  await emit(trx, 'ask.closed', { occurrence: id });
  return true;
}

/** Tells the owners of groups who of theirs is still missing, where the chase of an ask says so and its time has come. */
export async function listMissing(db: Database, failed: AskFailed): Promise<number> {
  return eachAside(db, 'list', await listsDue(db, AT_ONCE), failed, listOne);
}

async function listOne(trx: Database, occurrence: Occurrence): Promise<boolean> {
  const { id } = occurrence;
  if (!(await claimList(trx, id))) return false;
  // Of a poll without names it is told of nobody while it is open.
  if (withoutNames(occurrence.asked)) return true;
  const now = await audienceContext(trx);
  for (const group of now.groups.values()) {
    if (group.ownerIds.length === 0) continue;
    const audience = { kind: 'group', id: group.id } as const;
    if (!isReadable(audience, now)) continue;
    const tally = await tallyWhere(trx, id, condition(audience, now));
    const missing = tally.asked - tally.answered;
    if (missing === 0) continue;
    await notifyPeople(trx, group.ownerIds, {
      kind: 'outcome',
      title: `${peopleWords(missing)} of ${group.name} ${missing === 1 ? 'has' : 'have'} not answered`,
      text: `${tally.answered} of ${tally.asked} have answered “${occurrence.title}”. See who is missing.`,
      path: `/answers/${id}`,
      why: `You look after ${group.name}, and whoever asked wants its owners to know.`,
      dedupeKey: `missing:${id}:${group.id}`,
    });
  }
  return true;
}
