import { PRESETS } from '../../core/boards/switches.ts';
import type { Audience } from '../../core/audience/expression.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { versionById } from '../announcements/versionStore.ts';
import { record } from '../audit/store.ts';
import { dateById } from '../calendar/dateStore.ts';
import { openDate, requireCalendar } from '../calendar/visible.ts';
import { transact, type Database } from '../database/connection.ts';
import { insertGroup } from '../groups/store.ts';
import { emit } from '../events/store.ts';
import { Problem } from '../problem.ts';
import { openOccurrence } from '../sends/service.ts';
import { allBoards, boardOfDate, insertBoard } from './store.ts';

/** Makes a board with a live group, both by the same name. */
async function insertSessionBoard(
  trx: Database,
  actor: Actor,
  board: { title: string; rule: Audience; number: number; sessionOf: number | null; dateOf: number | null },
): Promise<number> {
  const { title, rule, number, sessionOf, dateOf } = board;
  const name = `Participants: ${title}`.slice(0, 100);
  // Names are unlike each other; an event that is told of again gets its number.
  const taken = new Set((await allBoards(trx)).map((each) => each.name.toLowerCase()));
  const free = taken.has(name.toLowerCase()) ? `${name} (${number})` : name;
  const groupId = await insertGroup(trx, free, rule).catch(() => insertGroup(trx, `${free} ${number}`, rule));
  return insertBoard(trx, {
    name: free,
    about: `For those who come to “${title}”: what to bring, how to get there, and questions.`,
    groupId,
    ...PRESETS.talk.switches,
    ownerId: actor.id,
    sessionOf,
    dateOf,
  });
}

/** Makes a board for those who come to a date of the calendar, whom its live group follows; or gives the one there is. */
export async function boardForDate(db: Database, actor: Actor, dateId: number): Promise<number> {
  requireCalendar(actor);
  const { date } = await openDate(db, actor, dateId);
  return transact(db, async (trx) => {
    // Of two presses one makes it.
    await dateById(trx, dateId, true);
    const known = await boardOfDate(trx, dateId);
    if (known !== null) return known;
    const id = await insertSessionBoard(trx, actor, {
      title: date.title,
      rule: { kind: 'session', dateId, stands: 'yes' },
      number: dateId,
      sessionOf: null,
      dateOf: dateId,
    });
    await record(trx, {
      actorId: actor.id,
      action: 'make board',
      subject: 'session',
      subjectId: date.sessionId,
      detail: { board: id, date: dateId },
    });
    await emit(trx, 'board.made', { board: id });
    return id;
  });
}

/**
 * Makes a board for those who signed up for an event, with a live group that follows the sign-ups; or gives the one there
 * is. Whoever makes it owns it, and may give it another name later.
 */
export async function boardForSession(db: Database, actor: Actor, occurrenceId: number): Promise<number> {
  const occurrence = await openOccurrence(db, actor, occurrenceId);
  const version = await versionById(db, occurrence.versionId);
  if (!version?.event)
    throw new Problem(422, 'This announcement tells of no event, so nobody signs up for it.');
  const known = (await allBoards(db)).find((board) => board.sessionOf === occurrenceId);
  if (known) return known.id;
  return transact(db, async (trx) => {
    const id = await insertSessionBoard(trx, actor, {
      title: version.title,
      rule: { kind: 'signed up', occurrenceId },
      number: occurrenceId,
      sessionOf: occurrenceId,
      dateOf: null,
    });
    await record(trx, {
      actorId: actor.id,
      action: 'make for a session',
      subject: 'board',
      subjectId: id,
      detail: { occurrence: occurrenceId },
    });
    await emit(trx, 'board.made', { board: id });
    return id;
  });
}
