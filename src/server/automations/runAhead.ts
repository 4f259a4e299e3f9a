import type { Audience } from '../../core/audience/expression.ts';
import type { RunAhead } from '../../core/automation/run.ts';
import type { Actor } from '../../core/rights/decide.ts';
import { actorOf } from '../accounts/actor.ts';
import { countPeople } from '../audience/store.ts';
import { databaseNow, type Database } from '../database/connection.ts';
import { audienceContext } from '../groups/directory.ts';
import { Problem } from '../problem.ts';
import type { Asking } from '../sources/asking.ts';
import { Around } from './around.ts';
import { readingNames } from './naming.ts';
import { prepare, type Prepared } from './prepare.ts';
import { requireRunnable } from './runs.ts';

/** How many people some sayings are for: each once of those who are told by name, and of those in an audience. */
async function peopleOf(db: Database, sayings: Prepared['sayings']): Promise<number> {
  const named = new Set(sayings.flatMap(({ personId }) => (personId === null ? [] : [personId])));
  const audiences = new Map<string, Audience>();
  for (const { audience, personId } of sayings)
    if (audience && personId === null) audiences.set(JSON.stringify(audience), audience);
  if (audiences.size === 0) return named.size;
  const all: Audience = {
    kind: 'any',
    of: [...audiences.values(), ...[...named].map((id): Audience => ({ kind: 'person', id }))],
  };
  return countPeople(db, all, await audienceContext(db));
}

/**
 * What an automation that a clock sets off would say if it ran now, by what is at work and with the rights it speaks with: for the
 * last question before it does. Nothing leaves; what it looks up is looked up.
 *
 * @throws 404; 409 where it is not at work, or goes by what happens; 422 with why it cannot be told
 */
export async function lookAhead(db: Database, actor: Actor, id: number, asking: Asking): Promise<RunAhead> {
  const { live, ownerId, owner } = await requireRunnable(db, actor, id);
  const speaker = await actorOf(db, ownerId);
  if (!speaker) throw new Problem(409, `${owner}, who looked after it, has left. Take it over first.`);
  const { sayings, keptBack } = await prepare(
    db,
    speaker,
    live,
    { kind: 'time', wall: '' },
    await databaseNow(db),
    asking,
    new Around(db),
  );
  const names = await readingNames(db, actor, [live]);
  return {
    messages: sayings.length,
    people: await peopleOf(db, sayings),
    mail: sayings.some(({ mail }) => mail),
    boards: [...new Set(sayings.flatMap(({ boards }) => boards))].map(
      (board) => names.board(board) ?? 'a board that no longer exists',
    ),
    outside: [...new Set(sayings.flatMap(({ outside }) => outside))].map(
      (place) => names.outside(place) ?? 'an outside place that no longer exists',
    ),
    keptBack: keptBack.length,
    why: keptBack[0]?.reason ?? null,
  };
}
