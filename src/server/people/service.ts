import type { z } from 'zod';
import type { newPersonSchema, PeoplePage } from '../../core/people/person.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { deleteSessionsOf } from '../accounts/store.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import { insertPerson, peoplePage, personById, setLeft, stations } from './store.ts';

export { organisation, stations } from './store.ts';

const PAGE = 50;

/** A page of the directory, by name; only for those who work at the desk. */
export async function listPeople(
  db: Database,
  actor: Actor,
  options: { search: string; after: { name: string; id: number } | null },
): Promise<PeoplePage> {
  const decision = decide(actor, { kind: 'see the desk' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  const found = await peoplePage(db, { ...options, search: options.search.trim(), most: PAGE + 1 });
  const people = found.slice(0, PAGE);
  const last = people.at(-1);
  return { people, next: found.length > PAGE && last ? { name: last.name, id: last.id } : null };
}

/** Adds a person, who is from this moment in every live group whose rule holds for them. */
export async function addPerson(
  db: Database,
  actor: Actor,
  input: z.infer<typeof newPersonSchema>,
  fallbackZone: string,
): Promise<number> {
  const decision = decide(actor, { kind: 'look after people' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  const station = (await stations(db)).find((each) => each.id === input.stationId);
  if (input.stationId !== null && !station)
    throw new Problem(422, 'There is no such station.', {
      errors: [{ field: 'stationId', detail: 'There is no such station. Choose one from the list.' }],
    });
  return transact(db, async (trx) => {
    try {
      const id = await insertPerson(trx, { ...input, zone: station?.zone ?? fallbackZone });
      await record(trx, { actorId: actor.id, action: 'add', subject: 'person', subjectId: id });
      return id;
    } catch (error) {
      if (error instanceof Error && 'errno' in error && error.errno === 1062)
        throw new Problem(422, 'Somebody has this mail address already.', {
          errors: [
            {
              field: 'mail',
              detail: 'Somebody has this mail address already. Find them in the list, or use another.',
            },
          ],
        });
      throw error;
    }
  });
}

/** Marks somebody as having left, or as back. From that moment they are out of, or in, everything that has not gone. */
export async function changeStanding(db: Database, actor: Actor, id: number, left: boolean): Promise<void> {
  const decision = decide(actor, { kind: 'look after people' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  if (left && id === actor.id)
    throw new Problem(422, 'You cannot take yourself out; ask another coordinator.');
  if (!(await personById(db, id))) throw notFound('person');
  await transact(db, async (trx) => {
    if (await setLeft(trx, id, left))
      await record(trx, {
        actorId: actor.id,
        action: left ? 'leave' : 'return',
        subject: 'person',
        subjectId: id,
      });
    if (left) await deleteSessionsOf(trx, id);
  });
}
