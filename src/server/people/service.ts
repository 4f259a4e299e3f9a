import { requireLookingAfterPeople } from '../accounts/require.ts';
import type { z } from 'zod';
import type {
  newContactSchema,
  newPersonSchema,
  PeoplePage,
  Person,
  PersonChange,
} from '../../core/people/person.ts';
import type { Quiet } from '../../core/timing/quiet.ts';
import type { Audience } from '../../core/audience/expression.ts';
import { PEOPLE_PART } from '../../core/people/person.ts';
import { MOST_TOGETHER, type PeopleOrder, type ShownPeople } from '../../core/people/together.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { requireNoOpenBallot } from '../audience/secrecy.ts';
import type { Sql } from '../audience/sql.ts';
import { isIn } from '../audience/store.ts';
import { audienceContext } from '../groups/directory.ts';
import { accessOf, withdrawAll } from '../access/store.ts';
import { record } from '../audit/store.ts';
import { type Database, isDuplicate, transact } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { allGroups, setReach } from '../groups/store.ts';
import { notFound, Problem } from '../problem.ts';
import { requireFree } from './addresses.ts';
import { requireGuest, requireNoCare, requireTimeLeft } from './guests.ts';
import { requireFitting } from './kinds.ts';
import { attributesListed, countListed, idsListed, peopleListed, type PeopleWanted } from './listStore.ts';
import { moveStanding } from './standing.ts';
import {
  attributesOf,
  changePerson,
  contactsOf,
  insertContact,
  insertPerson,
  hasNoPage,
  lockCoordinators,
  lockPerson,
  organisation,
  personById,
  quietOf,
  setQuietOf,
  setQuietOfAll,
  stations,
  stationsInUse,
} from './store.ts';

export { namesOfPeople as namesOf, organisation, personById, stations, stationsInUse } from './store.ts';

/** Which people are asked for; what is left out is everybody. */
export interface PeopleAsked {
  search?: string;
  shown?: ShownPeople;
  audience?: Audience | null;
}

/** Which of them, in which order; what is left out is the first by name. */
export interface PeopleAskedInOrder extends PeopleAsked {
  order?: PeopleOrder;
  turned?: boolean;
  from?: number;
}

/** A condition for being in an audience of which the names may be told. */
async function tellable(db: Database, audience: Audience): Promise<Sql> {
  const now = await audienceContext(db);
  await requireNoOpenBallot(db, audience, now, 'who');
  return isIn(audience, now);
}

/** Who is asked for, where the actor may ask it; only for those who work at the desk. */
async function wantedOf(
  db: Database,
  actor: Actor,
  { search = '', shown = 'all', audience = null }: PeopleAsked,
): Promise<PeopleWanted> {
  const decision = decide(actor, { kind: 'see the desk' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  // An audience can ask for answers and groups that are not everybody's to see.
  if (audience !== null) requireLookingAfterPeople(actor);
  return { search: search.trim(), shown, who: audience && (await tellable(db, audience)) };
}

/** Some rows of the directory that follow each other. */
export async function listPeople(
  db: Database,
  actor: Actor,
  { order = 'name', turned = false, from = 0, ...asked }: PeopleAskedInOrder,
): Promise<PeoplePage> {
  const wanted = await wantedOf(db, actor, asked);
  const people = await peopleListed(db, { ...wanted, order, turned, from, most: PEOPLE_PART });
  if (decide(actor, { kind: 'look after people' }).outcome === 'denied')
    return { people, attributes: {}, access: {} };
  const ids = people.map((person) => person.id);
  const [access, attributes] = await Promise.all([accessOf(db, ids), attributesListed(db, ids)]);
  return { people, attributes, access: Object.fromEntries(access) };
}

/** How many the directory has of those asked for. */
export async function countListedPeople(db: Database, actor: Actor, asked: PeopleAsked): Promise<number> {
  return countListed(db, await wantedOf(db, actor, asked));
}

/** The ids of those asked for, by name, at most as many as something is done to at once; for those who look after people. */
export async function idsOfListed(db: Database, actor: Actor, asked: PeopleAsked): Promise<number[]> {
  requireLookingAfterPeople(actor);
  const wanted = await wantedOf(db, actor, asked);
  return idsListed(db, { ...wanted, order: 'name', turned: false, from: 0, most: MOST_TOGETHER });
}

/** Adds a person, who is from this moment in every live group whose rule holds for them. */
export async function addPerson(
  db: Database,
  actor: Actor,
  input: z.infer<typeof newPersonSchema>,
  fallbackZone: string,
): Promise<number> {
  requireLookingAfterPeople(actor);
  await requireStation(db, input.stationId, null);
  const station = (await stations(db)).find((each) => each.id === input.stationId);
  return transact(db, async (trx) => {
    await requireFree(trx, null, input.mail);
    const person = { ...input, guestUntil: input.guestUntil ?? null, zone: station?.zone ?? fallbackZone };
    await requireGuest(trx, person);
    const id = await insertPerson(trx, person).catch(mailTaken);
    await record(trx, { actorId: actor.id, action: 'add', subject: 'person', subjectId: id });
    await emit(trx, 'person.added', { person: id });
    return id;
  });
}

/** A 422 problem where a station is named that there is not, or that is retired and not where they are already. */
async function requireStation(
  db: Database,
  id: number | null | undefined,
  before: number | null,
): Promise<void> {
  if (id === null || id === undefined || id === before) return;
  if ((await stationsInUse(db)).some((each) => each.id === id)) return;
  throw new Problem(422, 'There is no such station.', {
    errors: [{ field: 'stationId', detail: 'There is no such station. Choose one from the list.' }],
  });
}

/**
 * Changes what is known of a person: name, address, station, occupation, zone, role. A role holds from the next press on.
 * With another mail address, links that went to the one before let nobody in any more.
 */
export async function alterPerson(
  db: Database,
  actor: Actor,
  id: number,
  change: PersonChange,
): Promise<Person> {
  requireLookingAfterPeople(actor);
  return transact(db, async (trx) => {
    const coordinators = await lockCoordinators(trx);
    if (!coordinators.includes(actor.id))
      throw new Problem(403, 'You are not a coordinator any more. Somebody has just changed that.');
    const before = await personById(trx, id);
    if (!before || (await hasNoPage(trx, id))) throw notFound('person');
    await requireStation(trx, change.stationId, before.stationId);
    const demoted =
      change.role !== undefined && change.role !== 'coordinator' && before.role === 'coordinator';
    if (demoted && coordinators.length === 1 && coordinators[0] === id)
      throw new Problem(422, 'This is the last coordinator. Make somebody else one first.', {
        errors: [{ field: 'role', detail: 'This is the last coordinator. Make somebody else one first.' }],
      });
    const until = change.guestUntil === undefined ? before.guestUntil : change.guestUntil;
    await requireGuest(
      trx,
      { guestUntil: until, role: change.role ?? before.role, zone: change.zone ?? before.zone },
      // A day that has passed meanwhile is only kept.
      until === before.guestUntil ? 'any day' : 'from today',
    );
    if (until !== null && before.guestUntil === null) await requireNoCare(trx, id);
    await requireFree(trx, id, change.mail ?? null);
    if (change.attributes) await requireFitting(trx, change.attributes, await attributesOf(trx, id));
    await changePerson(trx, id, change).catch(mailTaken);
    if (change.mail !== undefined && change.mail !== before.mail) await withdrawAll(trx, id);
    await record(trx, {
      actorId: actor.id,
      action: 'change person',
      subject: 'person',
      subjectId: id,
      // What changed, not the address itself.
      detail: { changed: Object.keys(change), ...(change.role === undefined ? {} : { role: change.role }) },
    });
    await emit(trx, 'person.changed', { person: id });
    const after = await personById(trx, id);
    if (!after) throw notFound('person');
    return after;
  });
}

/** Sets the groups an editor may write to. It holds from the next press on. */
export async function changeReach(
  db: Database,
  actor: Actor,
  id: number,
  groupIds: readonly number[],
): Promise<void> {
  const decision = decide(actor, { kind: 'look after people' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  const wanted = [...new Set(groupIds)];
  await transact(db, async (trx) => {
    await lockPerson(trx, id);
    const person = await personById(trx, id);
    if (!person || (await hasNoPage(trx, id))) throw notFound('person');
    if (person.role !== 'editor')
      throw new Problem(
        409,
        person.role === 'coordinator'
          ? 'A coordinator may write to everybody. There is nothing to choose.'
          : 'Only an editor writes to groups. Make them an editor first.',
      );
    const groups = new Set((await allGroups(trx)).map((group) => group.id));
    if (wanted.some((group) => !groups.has(group)))
      throw new Problem(422, 'One of these groups is not there any more.', {
        errors: [{ field: 'groupIds', detail: 'One of these groups is not there any more. Choose again.' }],
      });
    await setReach(trx, id, wanted);
    await record(trx, {
      actorId: actor.id,
      action: 'change reach',
      subject: 'person',
      subjectId: id,
      detail: { groups: wanted },
    });
    await emit(trx, 'person.changed', { person: id });
  });
}

/** Marks somebody as having left, or as back. From that moment they are out of, or in, everything that has not gone. */
export async function changeStanding(db: Database, actor: Actor, id: number, left: boolean): Promise<void> {
  const decision = decide(actor, { kind: 'look after people' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  if (left && id === actor.id)
    throw new Problem(422, 'You cannot take yourself out; ask another coordinator.');
  const person = await personById(db, id);
  if (!person || (await hasNoPage(db, id))) throw notFound('person');
  if (!left) await requireTimeLeft(db, person);
  await transact(db, async (trx) => {
    // Of two who take each other out at once, the second finds that only they are left.
    const coordinators = await lockCoordinators(trx);
    if (!coordinators.includes(actor.id))
      throw new Problem(403, 'You are not a coordinator any more. Somebody has just taken you out.');
    if (left && coordinators.length === 1 && coordinators[0] === id)
      throw new Problem(422, 'This is the last coordinator. Make somebody else one first.');
    await moveStanding(trx, id, left, { actorId: actor.id });
  });
}

const mailTaken = (error: unknown): never => {
  if (isDuplicate(error))
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
  const decision = decide(actor, { kind: 'look after the organisation' });
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
