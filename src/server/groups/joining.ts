import type { z } from 'zod';
import type { broughtSchema, Brought, Door, MyGroups } from '../../core/groups/joining.ts';
import { normalMail } from '../../core/people/mailAddress.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { LASTS_HOURS } from '../../core/access/letter.ts';
import { insertInvitations, personByMail } from '../access/store.ts';
import { record } from '../audit/store.ts';
import { isDuplicate, transact, type Database } from '../database/connection.ts';
import { emit } from '../events/store.ts';
import { notifyPeople } from '../notices/notify.ts';
import { idList } from '../notices/store.ts';
import { requireGuest } from '../people/guests.ts';
import { insertPerson, personById } from '../people/store.ts';
import { notFound, Problem } from '../problem.ts';
import { deleteMembers, insertMembers } from './memberStore.ts';
import * as store from './joiningStore.ts';

const looksAfterAll = (actor: Actor): boolean =>
  decide(actor, { kind: 'look after the organisation' }).outcome === 'allowed';

/** What somebody is in, may come into, and looks after. */
export async function myGroups(db: Database, actor: Actor): Promise<MyGroups> {
  const which = decide(actor, { kind: 'join groups' }).outcome === 'allowed' ? 'all' : 'those they are in';
  const [offers, owned] = await Promise.all([
    store.offersTo(db, actor.id, which),
    store.ownedBy(db, actor.id),
  ]);
  const requests = await store.requestsFor(
    db,
    owned.map((group) => group.id),
  );
  return {
    offers,
    owned: owned.map(({ id, name, people, ownerBrings }) => ({
      id,
      name,
      people,
      ownerBrings,
      requests: requests.get(id) ?? [],
    })),
  };
}

/** How a group takes people in, with who asks; for coordinators. */
export async function groupDoor(db: Database, actor: Actor, id: number) {
  if (!looksAfterAll(actor)) throw new Problem(403, 'Only a coordinator sees how groups take people in.');
  const door = await store.doorOf(db, id);
  if (!door) throw notFound('group');
  const { joining, ownerBrings, about } = door;
  const requests = (await store.requestsFor(db, [id])).get(id) ?? [];
  return { joining, ownerBrings, about, requests };
}

/** Sets how a fixed group takes people in. */
export async function chooseDoor(db: Database, actor: Actor, id: number, door: Door): Promise<void> {
  if (!looksAfterAll(actor)) throw new Problem(403, 'Only a coordinator says how a group takes people in.');
  await transact(db, async (trx) => {
    const before = await store.doorOf(trx, id, true);
    if (!before) throw notFound('group');
    if (before.kind === 'live')
      throw new Problem(409, 'Who is in this group follows from its rule; nobody comes in by themselves.');
    await store.setDoor(trx, id, door);
    await record(trx, {
      actorId: actor.id,
      action: 'choose joining',
      subject: 'group',
      subjectId: id,
      detail: { ...door },
    });
    await emit(trx, 'group.changed', { group: id });
  });
}

/** Whoever is in a group they may not see, or that takes nobody in, is told that there is none. */
async function openDoor(trx: Database, id: number) {
  const door = await store.doorOf(trx, id, true);
  if (door?.kind !== 'fixed' || door.joining === 'closed' || door.archived) throw notFound('group');
  return door;
}

async function takeIn(trx: Database, actor: Actor, groupId: number, personId: number): Promise<boolean> {
  const joined = await insertMembers(trx, groupId, [personId]);
  await store.deleteRequest(trx, groupId, personId);
  if (joined.length === 0) return false;
  await record(trx, {
    actorId: actor.id,
    action: personId === actor.id ? 'join group' : 'add to group',
    subject: 'group',
    subjectId: groupId,
    detail: { people: joined, added: joined.length },
  });
  await emit(trx, 'group.membership changed', { group: groupId, joined, left: [] });
  return true;
}

/** Comes into a group, or asks its owner to; gives which it was. */
export async function joinGroup(
  db: Database,
  actor: Actor,
  id: number,
  words: string,
): Promise<{ mine: 'in' | 'asked' }> {
  // The groups of guests are chosen for them: for them there is none to come into.
  if (decide(actor, { kind: 'join groups' }).outcome === 'denied') throw notFound('group');
  return transact(db, async (trx) => {
    const door = await openDoor(trx, id);
    if (door.joining === 'open') {
      await takeIn(trx, actor, id, actor.id);
      return { mine: 'in' };
    }
    if (door.ownerIds.length === 0)
      throw new Problem(
        409,
        `Nobody looks after ${door.name} just now who could let you in. Ask a coordinator.`,
      );
    if (await store.insertRequest(trx, id, actor.id, words)) {
      const person = await personById(trx, actor.id);
      await notifyPeople(trx, door.ownerIds, {
        kind: 'group',
        title: `${person?.name ?? 'Somebody'} asks to come into ${door.name}`,
        text: words,
        path: '/groups/mine',
        why: `You look after ${door.name}.`,
        dedupeKey: `group ${id} asked by ${actor.id} at ${Date.now()}`,
      });
      await emit(trx, 'group.changed', { group: id });
    }
    return { mine: 'asked' };
  });
}

/** Goes out of a group one came into by oneself, or no longer asks. */
export async function leaveGroup(db: Database, actor: Actor, id: number): Promise<void> {
  await transact(db, async (trx) => {
    await openDoor(trx, id);
    const asked = await store.deleteRequest(trx, id, actor.id);
    const left = await deleteMembers(trx, id, [actor.id]);
    if (!asked && left.length === 0) throw notFound('group');
    if (left.length > 0) {
      await record(trx, { actorId: actor.id, action: 'leave group', subject: 'group', subjectId: id });
      await emit(trx, 'group.membership changed', { group: id, joined: [], left });
    } else await emit(trx, 'group.changed', { group: id });
  });
}

/** A group for whoever looks after it; for all others there is none. */
async function ownDoor(trx: Database, actor: Actor, id: number) {
  const door = await store.doorOf(trx, id, true);
  if (door?.kind !== 'fixed' || (!door.ownerIds.includes(actor.id) && !looksAfterAll(actor)))
    throw notFound('group');
  return door;
}

/** Lets somebody in who asks, or not; they are told which. */
export async function decideRequest(
  db: Database,
  actor: Actor,
  id: number,
  personId: number,
  letIn: boolean,
): Promise<void> {
  await transact(db, async (trx) => {
    const door = await ownDoor(trx, actor, id);
    if (!(await store.deleteRequest(trx, id, personId)))
      throw new Problem(409, 'They no longer ask, or somebody has just answered them.');
    if (letIn) await takeIn(trx, actor, id, personId);
    else {
      await record(trx, {
        actorId: actor.id,
        action: 'decline into group',
        subject: 'group',
        subjectId: id,
        detail: { person: personId },
      });
      await emit(trx, 'group.changed', { group: id });
    }
    await notifyPeople(trx, [personId], {
      kind: 'group',
      title: letIn ? `You are in ${door.name} now` : `You were not let into ${door.name}`,
      text: '',
      path: '/groups/mine',
      why: 'You asked to come in.',
      dedupeKey: `group ${id} answered ${personId} at ${Date.now()}`,
    });
  });
}

/**
 * Brings somebody into a group by their mail address: whoever has it here is put in; whoever is not here yet is added, invited,
 * and put in. For coordinators, and for the owner where a coordinator allows it.
 */
export async function bringIn(
  db: Database,
  actor: Actor,
  id: number,
  input: z.infer<typeof broughtSchema>,
): Promise<{ became: Brought; name: string }> {
  const mail = normalMail(input.mail);
  return transact(db, async (trx) => {
    const door = await ownDoor(trx, actor, id);
    if (!door.ownerBrings && !looksAfterAll(actor))
      throw new Problem(
        403,
        `Only a coordinator brings people into ${door.name}. Ask one to allow it to you.`,
      );
    const here = await personByMail(trx, mail);
    if (here !== undefined) {
      const joined = await takeIn(trx, actor, id, here);
      const person = await personById(trx, here);
      return {
        became: joined ? 'was here, and is in it now' : 'was in it already',
        name: person?.name ?? input.name,
      };
    }
    if (input.name === '')
      throw new Problem(422, 'Nobody here has this address yet.', {
        errors: [
          { field: 'name', detail: 'Nobody here has this address yet. Write their name to invite them.' },
        ],
      });
    const owner = await personById(trx, actor.id);
    const brought = {
      name: input.name,
      mail,
      role: 'member' as const,
      stationId: owner?.stationId ?? null,
      zone: owner?.zone ?? 'UTC',
      guestUntil: input.guestUntil ?? null,
    };
    await requireGuest(trx, brought);
    const personId = await insertPerson(trx, brought).catch((error: unknown) => {
      if (!isDuplicate(error)) throw error;
      const detail = 'Somebody who has left, or a linked contact, has this address. Ask a coordinator.';
      throw new Problem(422, detail, { errors: [{ field: 'mail', detail }] });
    });
    await record(trx, { actorId: actor.id, action: 'add', subject: 'person', subjectId: personId });
    await emit(trx, 'person.added', { person: personId });
    await takeIn(trx, actor, id, personId);
    await insertInvitations(trx, idList([personId]), {
      words: `${owner?.name ?? 'Somebody'} brings you into ${door.name}.`,
      madeBy: actor.id,
      hours: LASTS_HOURS.invitation,
    });
    return { became: 'is invited', name: input.name };
  });
}
