import type { z } from 'zod';
import type { newContactSchema, newPersonSchema, PeoplePage } from '../../core/people/person.ts';
import type { Quiet } from '../../core/timing/quiet.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { endSessionsOf } from '../accounts/store.ts';
import { record } from '../audit/store.ts';
import { transact, type Database } from '../database/connection.ts';
import { notFound, Problem } from '../problem.ts';
import {
  contactsOf,
  insertContact,
  insertPerson,
  lockCoordinators,
  organisation,
  peoplePage,
  personById,
  quietOf,
  setLeft,
  setQuietOf,
  setQuietOfAll,
  stations,
} from './store.ts';

export { namesOfPeople as namesOf, organisation, stations } from './store.ts';

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
    const id = await insertPerson(trx, { ...input, zone: station?.zone ?? fallbackZone }).catch(mailTaken);
    await record(trx, { actorId: actor.id, action: 'add', subject: 'person', subjectId: id });
    return id;
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
    // Of two who take each other out at once, the second finds that only they are left.
    const coordinators = await lockCoordinators(trx);
    if (!coordinators.includes(actor.id))
      throw new Problem(403, 'You are not a coordinator any more. Somebody has just taken you out.');
    if (left && coordinators.length === 1 && coordinators[0] === id)
      throw new Problem(422, 'This is the last coordinator. Make somebody else one first.');
    if (await setLeft(trx, id, left))
      await record(trx, {
        actorId: actor.id,
        action: left ? 'leave' : 'return',
        subject: 'person',
        subjectId: id,
      });
    if (left) await endSessionsOf(trx, id);
  });
}

const mailTaken = (error: unknown): never => {
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
};

/** A person's linked contacts: relatives, delegates or guardians who can be copied in. */
export async function listContacts(
  db: Database,
  actor: Actor,
  personId: number,
): Promise<{ id: number; name: string; mail: string | null; relation: string }[]> {
  const decision = decide(actor, { kind: 'look after people' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  if (!(await personById(db, personId))) throw notFound('person');
  return contactsOf(db, personId);
}

/** Links a contact to a person; they read by the person's clock. */
export async function addContact(
  db: Database,
  actor: Actor,
  personId: number,
  input: z.infer<typeof newContactSchema>,
): Promise<void> {
  const decision = decide(actor, { kind: 'look after people' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  const person = await personById(db, personId);
  if (!person) throw notFound('person');
  await transact(db, async (trx) => {
    const id = await insertContact(trx, { ...input, linkedTo: personId, zone: person.zone }).catch(mailTaken);
    await record(trx, {
      actorId: actor.id,
      action: 'link contact',
      subject: 'person',
      subjectId: personId,
      detail: { contact: id },
    });
  });
}

/** When a person is left in peace: their own choice, and what holds for everybody who has made none. */
export async function quietHours(
  db: Database,
  actor: Actor,
): Promise<{ own: Quiet | null; ofAll: Quiet | null }> {
  const [own, home] = await Promise.all([quietOf(db, actor.id), organisation(db)]);
  return { own, ofAll: home?.quiet ?? null };
}

/** Sets one's own quiet hours; null is as the organisation has them. */
export async function chooseQuiet(db: Database, actor: Actor, quiet: Quiet | null): Promise<void> {
  await transact(db, async (trx) => {
    await setQuietOf(trx, actor.id, quiet);
    await record(trx, {
      actorId: actor.id,
      action: 'choose quiet hours',
      subject: 'person',
      subjectId: actor.id,
    });
  });
}

/** Sets the quiet hours of everybody who has not chosen their own; null is none. */
export async function chooseQuietForAll(db: Database, actor: Actor, quiet: Quiet | null): Promise<void> {
  const decision = decide(actor, { kind: 'look after the house' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  await transact(db, async (trx) => {
    await setQuietOfAll(trx, quiet);
    await record(trx, {
      actorId: actor.id,
      action: 'set quiet hours',
      subject: 'organisation',
      subjectId: 1,
    });
  });
}
