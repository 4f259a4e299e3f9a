import type { z } from 'zod';
import type { absenceSchema, holidaySchema, Working } from '../../core/people/working.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { requireOrganisation } from '../accounts/require.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import { stations } from './store.ts';
import {
  absencesOf,
  deleteAbsence,
  deleteHoliday,
  insertAbsence,
  insertHoliday,
  setWorkDays,
  workDaysOf,
} from './workingStore.ts';

export { holidays } from './workingStore.ts';

/** When somebody works: the days of their week, and when they are away. */
export async function working(db: Database, actor: Actor): Promise<Working> {
  const [workDays, absences] = await Promise.all([workDaysOf(db, actor.id), absencesOf(db, actor.id)]);
  return { workDays, absences };
}

export async function chooseWorkDays(db: Database, actor: Actor, days: readonly number[]): Promise<void> {
  await setWorkDays(db, actor.id, days);
}

export function addAbsence(
  db: Database,
  actor: Actor,
  absence: z.infer<typeof absenceSchema>,
): Promise<number> {
  return insertAbsence(db, actor.id, absence);
}

export async function removeAbsence(db: Database, actor: Actor, id: number): Promise<void> {
  if (!(await deleteAbsence(db, actor.id, id))) throw notFound('absence');
}

/** Notes a day on which nobody works, at one station or everywhere. */
export async function addHoliday(
  db: Database,
  actor: Actor,
  holiday: z.infer<typeof holidaySchema>,
): Promise<number> {
  requireOrganisation(actor);
  if (holiday.stationId !== null && !(await stations(db)).some((each) => each.id === holiday.stationId))
    throw new Problem(422, 'There is no such station.', {
      errors: [{ field: 'stationId', detail: 'There is no such station. Choose one from the list.' }],
    });
  return transact(db, async (trx) => {
    const id = await insertHoliday(trx, holiday);
    await record(trx, { actorId: actor.id, action: 'add holiday', subject: 'organisation', subjectId: 1 });
    return id;
  });
}

export async function removeHoliday(db: Database, actor: Actor, id: number): Promise<void> {
  requireOrganisation(actor);
  await transact(db, async (trx) => {
    if (!(await deleteHoliday(trx, id))) throw notFound('holiday');
    await record(trx, { actorId: actor.id, action: 'remove holiday', subject: 'organisation', subjectId: 1 });
  });
}
