import type { Together, TogetherOutcome } from '../../core/people/together.ts';
import { decide, type Actor } from '../../core/rights/decide.ts';
import { list } from '../../core/words.ts';
import { recordAll, type Deed } from '../audit/store.ts';
import { transact, type Database, type Transaction } from '../database/connection.ts';
import { emit, emitAll } from '../events/store.ts';
import { deleteMembers, insertMembers } from '../groups/memberStore.ts';
import { lockGroup } from '../groups/store.ts';
import { notFound, Problem } from '../problem.ts';
import { lockPeople, setAllLeft, updatePeople, type LockedPerson } from './manyStore.ts';
import { lockCoordinators, stations } from './store.ts';

/**
 * Does one thing to several people, all of them or, where it is refused, none. Who is as wished already is passed over and
 * not among those it changed, so that taking it back takes back only what it did.
 *
 * @throws 422 where a coordinator would be marked as left, or a station is not there; 409 where the group has a rule
 */
export async function doTogether(
  db: Database,
  actor: Actor,
  { ids, act }: Together,
): Promise<TogetherOutcome> {
  const decision = decide(actor, { kind: 'look after people' });
  if (decision.outcome === 'denied') throw new Problem(403, decision.reason);
  return transact(db, async (trx) => {
    if (!(await lockCoordinators(trx)).includes(actor.id))
      throw new Problem(403, 'You are not a coordinator any more. Somebody has just changed that.');
    const people = await lockPeople(trx, [...new Set(ids)]);
    switch (act.kind) {
      case 'leave':
      case 'return':
        return setStanding(trx, actor, people, act.kind === 'leave');
      case 'into group':
      case 'out of group':
        return changeMembership(trx, actor, people, act.groupId, act.kind === 'into group');
      case 'to station':
        return moveTo(trx, actor, people, () => act.stationId);
      case 'back to stations': {
        const back = new Map(act.stations.map((each) => [each.id, each.stationId]));
        return moveTo(
          trx,
          actor,
          people.filter((person) => back.has(person.id)),
          (person) => back.get(person.id) ?? null,
        );
      }
    }
  });
}

const outcomeOf = (changed: readonly LockedPerson[]): TogetherOutcome => ({
  changed: changed.map((person) => person.id),
  before: changed.map(({ id, stationId }) => ({ id, stationId })),
});

async function setStanding(
  trx: Transaction,
  actor: Actor,
  people: readonly LockedPerson[],
  left: boolean,
): Promise<TogetherOutcome> {
  const coordinators = people.filter((person) => left && person.role === 'coordinator');
  if (coordinators.length > 0)
    throw new Problem(
      422,
      `${list(
        coordinators.slice(0, 5).map((person) => person.name),
        'and',
      )} ${coordinators.length === 1 ? 'is a coordinator' : 'are coordinators'}. Take the role back first, or leave them out.`,
    );
  const changed = people.filter((person) => person.left !== left);
  const ids = changed.map((person) => person.id);
  await setAllLeft(trx, ids, left);
  await recordAll(
    trx,
    ids.map((id): Deed => ({
      actorId: actor.id,
      action: left ? 'leave' : 'return',
      subject: 'person',
      subjectId: id,
    })),
  );
  await emitAll(
    trx,
    left ? 'person.left' : 'person.returned',
    ids.map((person) => ({ person })),
  );
  return outcomeOf(changed);
}

async function changeMembership(
  trx: Transaction,
  actor: Actor,
  people: readonly LockedPerson[],
  groupId: number,
  into: boolean,
): Promise<TogetherOutcome> {
  const kind = await lockGroup(trx, groupId);
  if (kind === undefined) throw notFound('group');
  if (kind === 'live')
    throw new Problem(409, 'Who is in this group follows from its rule. Change the rule instead.');
  const ids = people.map((person) => person.id);
  const changed = into ? await insertMembers(trx, groupId, ids) : await deleteMembers(trx, groupId, ids);
  if (changed.length > 0) {
    await recordAll(trx, [
      {
        actorId: actor.id,
        action: into ? 'add to group' : 'take out of group',
        subject: 'group',
        subjectId: groupId,
        detail: { people: changed.slice(0, 100), count: changed.length },
      },
    ]);
    await emit(trx, 'group.membership changed', {
      group: groupId,
      joined: into ? changed : [],
      left: into ? [] : changed,
    });
  }
  return outcomeOf(people.filter((person) => changed.includes(person.id)));
}

async function moveTo(
  trx: Transaction,
  actor: Actor,
  people: readonly LockedPerson[],
  stationOf: (person: LockedPerson) => number | null,
): Promise<TogetherOutcome> {
  const there = new Set((await stations(trx)).map((station) => station.id));
  const moves = people.map((person) => ({ person, stationId: stationOf(person) }));
  if (moves.some(({ stationId }) => stationId !== null && !there.has(stationId)))
    throw new Problem(422, 'There is no such station.', {
      errors: [{ field: 'act.stationId', detail: 'There is no such station. Choose one from the list.' }],
    });
  const changed = moves.filter(({ person, stationId }) => person.stationId !== stationId);
  await updatePeople(
    trx,
    changed.map(({ person, stationId }) => ({ id: person.id, stationId })),
  );
  await recordAll(
    trx,
    changed.map(({ person }): Deed => ({
      actorId: actor.id,
      action: 'change person',
      subject: 'person',
      subjectId: person.id,
      detail: { changed: ['stationId'] },
    })),
  );
  await emitAll(
    trx,
    'person.changed',
    changed.map(({ person }) => ({ person: person.id })),
  );
  return outcomeOf(changed.map(({ person }) => person));
}
