import { PRESETS } from '../../core/boards/switches.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { versionById } from '../announcements/store.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { insertGroup } from '../groups/store.ts';
import { emit } from '../events/store.ts';
import { Problem } from '../problem.ts';
import { openOccurrence } from '../sends/service.ts';
import { allBoards, insertBoard } from './store.ts';

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
  const name = `Participants: ${version.title}`.slice(0, 100);
  return transact(db, async (trx) => {
    // Names are unlike each other; an event that is told of again gets its number.
    const taken = new Set((await allBoards(trx)).map((board) => board.name.toLowerCase()));
    const free = taken.has(name.toLowerCase()) ? `${name} (${occurrenceId})` : name;
    const groupId = await insertGroup(trx, free, { kind: 'signed up', occurrenceId }).catch(() =>
      insertGroup(trx, `${free} ${occurrenceId}`, { kind: 'signed up', occurrenceId }),
    );
    const id = await insertBoard(trx, {
      name: free,
      about: `For those who come to “${version.title}”: what to bring, how to get there, and questions.`,
      groupId,
      ...PRESETS.talk.switches,
      ownerId: actor.id,
      sessionOf: occurrenceId,
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
