import type { DateChange, SessionInput } from '../../core/calendar/session.ts';
import {
  AHEAD_DAYS,
  datesAfter,
  neverAfter,
  relay,
  sessionWhenWords,
  type KnownDate,
} from '../../core/calendar/dates.ts';
import type { SessionPage, ShownDate } from '../../core/calendar/shown.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { resolveMoment } from '../../core/timing/wallTime.ts';
import { momentWords, zoneWords } from '../../core/timing/words.ts';
import { record } from '../audit/store.ts';
import { databaseNow, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notFound, Problem } from '../problem.ts';
import { fillPlaces } from './answering.ts';
import {
  changeDate,
  dateById,
  datesToRelay,
  deleteDates,
  followSession,
  insertDates,
  moveDates,
  setCalledOff,
  type DateRow,
} from './dateStore.ts';
import { sessionPage } from './reading.ts';
import * as store from './store.ts';
import { notifyOfDate } from './telling.ts';
import { requireCalendar, shownDate } from './visible.ts';

const DAY_MS = 86_400_000;
const layTo = (nowMs: number): number => nowMs + AHEAD_DAYS * DAY_MS;

function requireComes(input: SessionInput, nowMs: number): void {
  const never = neverAfter(input, nowMs);
  if (never === null) return;
  throw new Problem(422, never, { errors: [{ field: input.rule ? 'rule' : 'wall', detail: never }] });
}

/** Makes a session and lays its dates out a year ahead. */
export async function makeSession(db: Database, actor: Actor, input: SessionInput): Promise<{ id: number }> {
  requireCalendar(actor);
  const nowMs = await databaseNow(db);
  requireComes(input, nowMs);
  return transact(db, async (trx) => {
    const id = await store.insertSession(trx, input, actor.id, layTo(nowMs));
    await insertDates(trx, id, datesAfter(input, nowMs), input);
    await record(trx, { actorId: actor.id, action: 'make', subject: 'session', subjectId: id });
    await emit(trx, 'session.changed', { session: id });
    return { id };
  });
}

async function lockedSession(trx: Database, id: number): Promise<store.CalendarSession> {
  const session = await store.sessionById(trx, id, true);
  if (!session) throw notFound('session');
  return session;
}

const sameTimes = (before: SessionInput, after: SessionInput): boolean =>
  before.wall === after.wall &&
  before.zone === after.zone &&
  JSON.stringify(before.rule) === JSON.stringify(after.rule);

/** Whether all that comes from another calendar is as it was: whom it is for, how many can come and when to remind is ours. */
const sameThere = (before: SessionInput, after: SessionInput): boolean =>
  sameTimes(before, after) &&
  (['title', 'text', 'minutes', 'place', 'link'] as const).every((key) => before[key] === after[key]);
const follows = (): Problem =>
  new Problem(
    409,
    'It follows another calendar: what, when and where it is, and whether it takes place, is changed there.',
  );

/**
 * Changes a session and its dates ahead; what was changed of one date by itself stays. Where times or places change, whoever it is
 * for is told once.
 *
 * @throws 409 where somebody changed it meanwhile, 422 where it would never take place
 */
export async function changeSession(
  db: Database,
  actor: Actor,
  id: number,
  { revision, ...input }: SessionInput & { revision: number },
): Promise<SessionPage> {
  requireCalendar(actor);
  const nowMs = await databaseNow(db);
  await transact(db, async (trx) => {
    const before = await lockedSession(trx, id);
    if (before.revision !== revision)
      throw new Problem(
        409,
        'Somebody changed it meanwhile. Look at it as it is now, then change it again.',
        {
          more: { revision: before.revision },
        },
      );
    if (before.calledOff) throw new Problem(409, 'It has been called off.');
    if (before.followedId !== null && !sameThere(before, input)) throw follows();
    const moves = before.followedId === null && !sameTimes(before, input);
    if (moves) requireComes(input, nowMs);
    await store.updateSession(trx, id, input, layTo(nowMs));
    const known = await datesToRelay(trx, id, nowMs);
    if (moves) await moveTo(trx, id, input, known, nowMs);
    await followSession(trx, id, nowMs, input);
    for (const date of known) {
      const now = date.answered ? await dateById(trx, date.id, true) : undefined;
      if (now) await fillPlaces(trx, now, nowMs);
    }
    if (moves || before.place !== input.place || before.link !== input.link) {
      const [next] = (await datesToRelay(trx, id, nowMs)).filter((date) => !date.calledOff);
      if (next)
        await notifyOfDate(trx, { ...before, ...input }, next, {
          title: `${input.title} has changed`,
          text: `It takes place ${sessionWhenWords(input, nowMs)}${input.place === '' ? '' : `, ${input.place}`}.`,
          dedupeKey: `session ${id} revision ${revision + 1}`,
        });
    }
    await record(trx, { actorId: actor.id, action: 'change', subject: 'session', subjectId: id });
    await emit(trx, 'session.changed', { session: id });
  });
  return sessionPage(db, actor, id);
}

async function moveTo(
  trx: Database,
  id: number,
  input: SessionInput,
  known: readonly KnownDate[],
  nowMs: number,
): Promise<void> {
  const relaid = relay(known, datesAfter(input, nowMs));
  await deleteDates(
    trx,
    relaid.dropped.map((date) => date.id),
  );
  await moveDates(
    trx,
    relaid.moved.map(({ date, to }) => ({ id: date.id, to })),
    input.remindMinutes,
  );
  await setCalledOff(
    trx,
    relaid.calledOff.map((date) => date.id),
    true,
    'The session takes place at other times now.',
  );
  await insertDates(trx, id, relaid.made, input);
}

/** Calls a session off with all its dates ahead; whoever it is for is told. */
export async function callOffSession(
  db: Database,
  actor: Actor,
  id: number,
  note: string,
): Promise<SessionPage> {
  requireCalendar(actor);
  await transact(db, async (trx) => {
    const session = await lockedSession(trx, id);
    if (session.followedId !== null) throw follows();
    if (session.calledOff) throw new Problem(409, 'It has been called off already.');
    await store.markCalledOff(trx, id);
    const ahead = (await datesToRelay(trx, id, await databaseNow(trx))).filter((date) => !date.calledOff);
    await setCalledOff(
      trx,
      ahead.map((date) => date.id),
      true,
      note,
    );
    const [next] = ahead;
    if (next)
      await notifyOfDate(trx, session, next, {
        title: `${session.title} is called off`,
        text: `${session.rule ? 'None of its dates takes place.' : ''} ${note}`.trim(),
        dedupeKey: `session ${id} called off`,
      });
    await record(trx, {
      actorId: actor.id,
      action: 'call off',
      subject: 'session',
      subjectId: id,
      detail: { note },
    });
    await emit(trx, 'session.changed', { session: id });
  });
  return sessionPage(db, actor, id);
}

/** A date that is still to come, held with its session, in that order. */
async function lockedDate(
  trx: Database,
  id: number,
): Promise<{ session: store.CalendarSession; date: DateRow; nowMs: number }> {
  const known = await dateById(trx, id);
  if (!known) throw notFound('session');
  const session = await lockedSession(trx, known.sessionId);
  const date = await dateById(trx, id, true);
  if (!date) throw notFound('session');
  const nowMs = await databaseNow(trx);
  if (date.startMs <= nowMs) throw new Problem(409, 'It has begun; it can no longer be changed.');
  if (session.followedId !== null) throw follows();
  return { session, date, nowMs };
}

/** Changes when and where one date is. */
export async function changeOneDate(
  db: Database,
  actor: Actor,
  id: number,
  input: DateChange,
): Promise<ShownDate> {
  requireCalendar(actor);
  await transact(db, async (trx) => {
    const { session, date, nowMs } = await lockedDate(trx, id);
    if (date.calledOff) throw new Problem(409, 'It is called off. Let it take place first.');
    const startMs = resolveMoment({ wall: input.wall, zone: session.zone }).epochMs;
    if (startMs <= nowMs) {
      const detail = 'That time has passed. Choose one that is still to come.';
      throw new Problem(422, detail, { errors: [{ field: 'wall', detail }] });
    }
    await changeDate(trx, id, startMs, input, session.remindMinutes);
    if (startMs !== date.startMs || input.place !== date.place || input.link !== date.link)
      await notifyOfDate(trx, session, date, {
        title: `${session.title} ${startMs === date.startMs ? 'is somewhere else' : 'is moved'}`,
        text: `It is at ${momentWords(startMs, session.zone)} in ${zoneWords(session.zone)}${input.place === '' ? '' : `, ${input.place}`}. ${input.note}`.trim(),
        dedupeKey: `session date ${id} change ${date.sequence + 1}`,
      });
    await record(trx, {
      actorId: actor.id,
      action: 'move',
      subject: 'session',
      subjectId: session.id,
      detail: { date: id, from: new Date(date.startMs).toISOString(), to: new Date(startMs).toISOString() },
    });
    await emit(trx, 'session.changed', { session: session.id });
  });
  return shownDate(db, actor, id);
}

/** Calls one date off, or has it take place after all. */
export async function callOffDate(
  db: Database,
  actor: Actor,
  id: number,
  { off, note }: { off: boolean; note: string },
): Promise<ShownDate> {
  requireCalendar(actor);
  await transact(db, async (trx) => {
    const { session, date } = await lockedDate(trx, id);
    if (date.calledOff === off)
      throw new Problem(409, off ? 'It is called off already.' : 'It takes place already.');
    if (!off && session.calledOff)
      throw new Problem(409, 'The whole session is called off. Make a new one for this date.');
    await setCalledOff(trx, [id], off, note);
    await notifyOfDate(trx, session, date, {
      title: `${session.title} ${off ? 'is called off' : 'takes place after all'}`,
      text: `${momentWords(date.startMs, session.zone)} in ${zoneWords(session.zone)}. ${note}`.trim(),
      dedupeKey: `session date ${id} change ${date.sequence + 1}`,
    });
    await record(trx, {
      actorId: actor.id,
      action: off ? 'call off date' : 'hold date again',
      subject: 'session',
      subjectId: session.id,
      detail: { date: id },
    });
    await emit(trx, 'session.changed', { session: session.id });
  });
  return shownDate(db, actor, id);
}

/** Lays out the dates of recurring sessions that have come nearer; says of how many. */
export async function layAhead(db: Database): Promise<number> {
  const nowMs = await databaseNow(db);
  const before = layTo(nowMs) - 30 * DAY_MS;
  for (let laid = 0; ; laid++) {
    const more = await transact(db, async (trx) => {
      const session = await store.sessionToLay(trx, before);
      if (!session) return false;
      await insertDates(trx, session.id, datesAfter(session, nowMs), session);
      await store.setLaidTo(trx, session.id, layTo(nowMs));
      return true;
    });
    if (!more) return laid;
  }
}
