import type { Stands } from '../../core/audience/stands.ts';
import type { Said } from '../../core/calendar/session.ts';
import type { ShownDate } from '../../core/calendar/shown.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notifyPeople } from '../notices/notify.ts';
import { notFound, Problem } from '../problem.ts';
import {
  countsOf,
  dateById,
  datesWithRoom,
  deleteAnswer,
  letCome,
  putAnswer,
  saidBy,
  waitingFor,
  type DateRow,
} from './dateStore.ts';
import { openDate, shownDate } from './visible.ts';

/** Most who are let in from a waiting list at a time. */
const AT_ONCE = 500;

/** Lets those come who have waited longest, as far as there is room; they are told. The date must be held. */
export async function fillPlaces(trx: Database, date: DateRow, nowMs: number): Promise<void> {
  if (date.calledOff || date.startMs <= nowMs) return;
  const counts = (await countsOf(trx, [date.id])).get(date.id);
  if (!counts || counts.waiting === 0) return;
  const room = date.capacity === null ? AT_ONCE : Math.min(AT_ONCE, date.capacity - counts.yes);
  if (room <= 0) return;
  const people = await waitingFor(trx, date.id, room);
  if (people.length === 0) return;
  await letCome(trx, date.id, people);
  await notifyPeople(trx, people, {
    kind: 'session',
    title: `There is a place for you: ${date.title}`,
    text: 'You were waiting for a place, and one is free. If you cannot come, say so, for whoever waits after you.',
    path: `/calendar/dates/${date.id}`,
    why: 'You said that you would come, and waited for a place.',
    dedupeKey: `session date ${date.id} place at ${nowMs}`,
  });
  await emit(trx, 'session.answered', { session: date.sessionId, date: date.id, people });
}

/**
 * Says whether somebody comes to a date, or takes back what they said. Who says yes to what is full waits for a place; of two who
 * want the last one, one gets it.
 *
 * @throws 404 where it is not theirs to see, 403 where it is not for them, 409 where it is called off or over
 */
export async function sayOfDate(
  db: Database,
  actor: Actor,
  id: number,
  said: Said | null,
  via: 'page' | 'mail' = 'page',
): Promise<ShownDate> {
  const { invited } = await openDate(db, actor, id);
  if (!invited) throw new Problem(403, 'This session is not for you, so there is nothing to say of it.');
  await transact(db, async (trx) => {
    const date = await dateById(trx, id, true);
    if (!date) throw notFound('session');
    const nowMs = await databaseNow(trx);
    if (date.calledOff) throw new Problem(409, 'It has been called off. Nothing needs to be said.');
    if (date.startMs + date.minutes * 60_000 <= nowMs) throw new Problem(409, 'It is over.');
    if (said === null) await deleteAnswer(trx, id, actor.id);
    else await putAnswer(trx, { dateId: id, personId: actor.id, stands: await standing(), via });
    await emit(trx, 'session.answered', { session: date.sessionId, date: id, people: [actor.id] });
    await fillPlaces(trx, date, nowMs);

    async function standing(): Promise<Stands> {
      if (said !== 'yes') return said ?? 'no';
      const before = (await saidBy(trx, actor.id, [id])).get(id);
      if (before === 'yes' || date?.capacity == null) return 'yes';
      const counts = (await countsOf(trx, [id])).get(id);
      // Nobody goes before those who wait.
      return (counts?.yes ?? 0) < date.capacity && (counts?.waiting ?? 0) === 0 ? 'yes' : 'waiting';
    }
  });
  return shownDate(db, actor, id);
}

/** Fills places that came free in other ways: whoever was to come has left. */
export async function fillFreePlaces(db: Database): Promise<void> {
  for (const id of await datesWithRoom(db, 50))
    await transact(db, async (trx) => {
      const date = await dateById(trx, id, true);
      if (date) await fillPlaces(trx, date, await databaseNow(trx));
    });
}
